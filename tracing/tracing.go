// Package tracing tells a collector, where one is named, how long the parts of the work took: requests, runs
// with their datasets, and parcels, as OpenTelemetry has them. Nothing of a value, a cell or a person is in
// a span. Without a collector a span costs nothing.
package tracing

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/codes"
	"go.opentelemetry.io/otel/exporters/otlp/otlptrace/otlptracehttp"
	"go.opentelemetry.io/otel/propagation"
	"go.opentelemetry.io/otel/sdk/resource"
	"go.opentelemetry.io/otel/sdk/trace"
	api "go.opentelemetry.io/otel/trace"
)

// To sends spans to a collector by OTLP over HTTP (protobuf), at an address such as http://127.0.0.1:4318,
// until ended is called; nowhere where there is no address.
func To(ctx context.Context, address, version string) (ended func(), err error) {
	if address == "" {
		return func() {}, nil
	}
	sends, err := otlptracehttp.New(ctx, otlptracehttp.WithEndpointURL(address+"/v1/traces"))
	if err != nil {
		return nil, fmt.Errorf("otlp-endpoint: %w", err)
	}
	of := resource.NewSchemaless(attribute.String("service.name", "mantilla"),
		attribute.String("service.version", version))
	provider := trace.NewTracerProvider(trace.WithBatcher(sends), trace.WithResource(of))
	otel.SetTracerProvider(provider)
	return func() {
		closing, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		_ = provider.Shutdown(closing) // a collector that is gone keeps nobody
	}, nil
}

// Span is a part of the work.
type Span struct{ span api.Span }

// Begin begins a part of the work; what is begun with the context it returns belongs to it. Facts are names,
// each with what it is: a text or a number.
func Begin(ctx context.Context, name string, facts ...any) (context.Context, *Span) {
	ctx, span := otel.Tracer("mantilla").Start(ctx, name)
	s := &Span{span}
	s.Has(facts...)
	return ctx, s
}

// Answering begins a request, which belongs to what its caller says (W3C Trace Context).
func Answering(r *http.Request) (context.Context, *Span) {
	ctx := propagation.TraceContext{}.Extract(r.Context(), propagation.HeaderCarrier(r.Header))
	ctx, span := otel.Tracer("mantilla").Start(ctx, r.Method, api.WithSpanKind(api.SpanKindServer))
	return ctx, &Span{span}
}

// Called names the part anew, once it is known what it is.
func (s *Span) Called(name string) { s.span.SetName(name) }

// Has adds facts; see [Begin].
func (s *Span) Has(facts ...any) {
	for i := 0; i+1 < len(facts); i += 2 {
		name := fmt.Sprint(facts[i])
		switch v := facts[i+1].(type) {
		case int:
			s.span.SetAttributes(attribute.Int(name, v))
		case int64:
			s.span.SetAttributes(attribute.Int64(name, v))
		default:
			s.span.SetAttributes(attribute.String(name, fmt.Sprint(v)))
		}
	}
}

// End ends the part, which failed where there is an error. What that says stays here, since it may name
// values.
func (s *Span) End(err error) {
	if err != nil {
		s.span.SetStatus(codes.Error, "failed; the log says why")
	}
	s.span.End()
}
