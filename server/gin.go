package server

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"net/http"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-contrib/requestid"
	"github.com/gin-gonic/gin"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/server/answer"
	"mantilla/tracing"
)

// This file alone knows Gin: it brings requests through the steps that all of
// them take to the handlers, which know a context and the contract's types.

// Handler makes the service's HTTP handler. It fails when the proxies are not
// addresses or networks.
func Handler(l *library.Library, o Settings, log *slog.Logger) (http.Handler, error) {
	rules, err := readContract()
	if err != nil {
		return nil, err
	}
	prefix := prefixOf(l.Settings().Address)
	s := newService(&answer.Service{Library: l, Below: prefix, Version: o.Version, Log: log,
		Closing:  o.Closing,
		Provider: o.Provider, Local: o.Local || o.Provider == nil}, rules)
	l.Words(rules.acts)
	if o.Observe != nil {
		s.observe = o.Observe
	}
	s.paces = newPaces(o.Rate)
	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	engine.ContextWithFallback = true // handlers see the end of the request
	if err := engine.SetTrustedProxies(o.TrustedProxies); err != nil {
		return nil, fmt.Errorf("trusted-proxies: %w", err)
	}
	engine.Use(requestid.New(), s.logged, s.recovered, s.begun(networks(o.TrustedProxies)),
		s.step(headed), s.step(bounded), s.step(s.signedIn), s.step(s.paced),
		s.step(s.asContracted),
		gzip.Gzip(gzip.BestSpeed, gzip.WithExcludedPathsRegexs([]string{`/progress$`, `/file$`})))
	strict := handlers.NewStrictHandlerWithOptions(s, []handlers.StrictMiddlewareFunc{s.noted, lasting},
		handlers.StrictGinServerOptions{
			RequestErrorHandlerFunc:  s.refuseRequest,
			HandlerErrorFunc:         s.refuse,
			ResponseErrorHandlerFunc: s.cutOff,
		})
	handlers.RegisterHandlersWithOptions(engine, strict, handlers.GinServerOptions{BaseURL: "/api",
		ErrorHandler: func(c *gin.Context, err error, _ int) { s.refuseRequest(c, err) }})
	engine.GET("/api/openapi.yaml", func(c *gin.Context) { c.Data(http.StatusOK, "application/yaml", api.Contract) })
	engine.GET("/api/", func(c *gin.Context) { c.Data(http.StatusOK, "text/html; charset=utf-8", rules.pages) })
	console := console(o.Console, prefix)
	engine.NoRoute(func(c *gin.Context) {
		c.Status(http.StatusOK) // Gin's own answer would be not found
		if err := console(c.Writer, c.Request); err != nil {
			s.refuse(c, err)
		}
	})
	sites := http.NewCrossOriginProtection()
	sites.SetDenyHandler(http.HandlerFunc(refuseSite))
	return below(prefix, versioned(sites.Handler(engine))), nil
}

// begun notes what handlers may ask of the call itself.
func (s *service) begun(proxies networkList) gin.HandlerFunc {
	return func(c *gin.Context) {
		proxied := proxies.have(c.Request.RemoteAddr) && strings.EqualFold(c.GetHeader("X-Forwarded-Proto"), "https")
		x := &answer.Call{Library: s.Library, Below: s.Below, URL: c.Request.URL, Secret: answer.SecretIn(c.Request),
			From:  c.ClientIP(),
			ByTLS: c.Request.TLS != nil || proxied, Known: c.GetHeader("If-None-Match"),
			Numbers: answer.NumbersOf(c.GetHeader("Accept-Language"))}
		if away, err := c.Request.Cookie("mantilla-away"); err == nil {
			x.Away = away.Value
		}
		ctx := acting.With(c.Request.Context(), &acting.Act{Face: faceOf(c.Request), Address: x.From,
			Request: requestid.Get(c)})
		c.Request = c.Request.WithContext(context.WithValue(ctx, answer.CallKey{}, x))
	}
}

// step lets requests take a step; where it fails they are refused.
func (s *service) step(take func(w http.ResponseWriter, r *http.Request) error) gin.HandlerFunc {
	return func(c *gin.Context) {
		if err := take(c.Writer, c.Request); err != nil {
			s.refuse(c, err)
		}
	}
}

// lasting gives handlers a context of their own. Gin uses its contexts again
// for other requests, while what a handler began, a file that is written or a
// query that is given up, may look at its context a moment longer.
func lasting(handle handlers.StrictHandlerFunc, _ string) handlers.StrictHandlerFunc {
	return func(c *gin.Context, request any) (any, error) { return handle(c.Copy(), request) }
}

// noted keeps in the audit what somebody does, and what they are refused, before they are answered.
func (s *service) noted(handle handlers.StrictHandlerFunc, operation string) handlers.StrictHandlerFunc {
	n := s.rules.notings[strings.ToLower(operation[:1])+operation[1:]]
	return func(c *gin.Context, request any) (any, error) {
		answer.CallOf(c).Operation = operation
		response, err := handle(c, request)
		s.note(c, n, c.Param, err)
		return response, err
	}
}

// broken is what a span has of a status that is the service's own fault.
func broken(status int) error {
	if status >= http.StatusInternalServerError {
		return errors.New(http.StatusText(status))
	}
	return nil
}

func (s *service) logged(c *gin.Context) {
	start := time.Now()
	ctx, span := tracing.Answering(c.Request)
	c.Request = c.Request.WithContext(ctx)
	c.Next()
	took := time.Since(start)
	operation := ""
	if call, ok := c.Request.Context().Value(answer.CallKey{}).(*answer.Call); ok {
		operation = call.Operation
	}
	s.observe(operation, c.Writer.Status(), took)
	span.Called(cmp.Or(operation, "console"))
	span.Has("http.request.method", c.Request.Method, "http.response.status_code", c.Writer.Status(), "mantilla.request",
		requestid.Get(c))
	span.End(broken(c.Writer.Status()))
	s.Log.Debug("request", "request", requestid.Get(c), "method", c.Request.Method, "path", c.Request.URL.Path,
		"status", c.Writer.Status(), "bytes", c.Writer.Size(), "elapsed", took)
}

// recovered answers a panic as a problem, and lets a cut-off answer pass.
func (s *service) recovered(c *gin.Context) {
	defer func() {
		switch p := recover(); p {
		case nil:
		case http.ErrAbortHandler:
			panic(p)
		default:
			s.Log.Error("a request panicked", "request", requestid.Get(c), "path", c.Request.URL.Path,
				"panic", p, "stack", string(debug.Stack()))
			if c.Writer.Written() {
				panic(http.ErrAbortHandler) // the caller notices that the answer is cut off
			}
			s.refuse(c, fmt.Errorf("a fault in the program: %v", p))
		}
	}()
	c.Next()
}

// refuse answers a request with a problem.
func (s *service) refuse(c *gin.Context, err error) {
	c.Abort()
	if c.Request.Context().Err() != nil && errors.Is(err, context.Canceled) {
		return // the caller has gone
	}
	var waits *access.Waits
	if errors.As(err, &waits) {
		c.Header("Retry-After", strconv.Itoa(int(math.Ceil(waits.For.Seconds()))))
	}
	p := problem(err)
	id := requestid.Get(c)
	p.Request = &id
	if p.Status >= 500 {
		s.Log.Error("request failed", "request", id, "path", c.Request.URL.Path, "error", err)
	}
	write(c.Writer, p)
}

// refuseRequest answers a request that could not be read.
func (s *service) refuseRequest(c *gin.Context, err error) { s.refuse(c, unreadable(err)) }

// cutOff ends an answer that failed after it had begun, in a way that the
// caller notices: the connection is dropped before the end of the body.
func (s *service) cutOff(c *gin.Context, err error) {
	if c.Request.Context().Err() == nil {
		s.Log.Error("answer cut off", "request", requestid.Get(c), "path", c.Request.URL.Path, "error", err)
	}
	if c.Writer.Written() {
		panic(http.ErrAbortHandler)
	}
	s.refuse(c, err)
}
