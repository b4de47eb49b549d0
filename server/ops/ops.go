// Package ops answers what watches over the service, on an address of its own that nobody else
// reaches: whether it lives, whether it is ready, and its numbers as OpenMetrics has them.
package ops

import (
	"context"
	"encoding/json"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"mantilla/library"
	"mantilla/library/acting"
	"mantilla/library/standing"
)

// Watch is what is counted of requests, and what answers those who watch.
type Watch struct {
	library  *library.Library
	level    *slog.LevelVar
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	took     *prometheus.HistogramVec
}

// New makes a watch over a service, whose log has a level that can be changed.
func New(l *library.Library, level *slog.LevelVar, version string) *Watch {
	w := &Watch{library: l, level: level, registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "mantilla_requests_total",
			Help: "Requests that were answered, by operation of the contract and status."}, []string{"operation", "status"}),
		took: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "mantilla_request_seconds",
			Help:    "Seconds from a request to the end of its answer, by operation.",
			Buckets: []float64{.001, .005, .02, .05, .1, .3, 1, 3, 10, 60}}, []string{"operation"}),
	}
	about := prometheus.NewGauge(prometheus.GaugeOpts{Name: "mantilla_info", Help: "The program.",
		ConstLabels: prometheus.Labels{"version": version}})
	about.Set(1)
	w.registry.MustRegister(w.requests, w.took, about, &numbers{l}, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return w
}

// Observe counts a request.
func (w *Watch) Observe(operation string, status int, took time.Duration) {
	if operation == "" {
		operation = "console"
	}
	w.requests.WithLabelValues(operation, strconv.Itoa(status)).Inc()
	w.took.WithLabelValues(operation).Observe(took.Seconds())
}

// Handler answers GET /healthz, /readyz and /metrics, and GET and PUT /log-level.
func (w *Watch) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /healthz", func(out http.ResponseWriter, _ *http.Request) { _, _ = out.Write([]byte("ok\n")) })
	mux.HandleFunc("GET /readyz", w.ready)
	mux.Handle("GET /metrics", promhttp.HandlerFor(w.registry, promhttp.HandlerOpts{EnableOpenMetrics: true}))
	mux.HandleFunc("GET /log-level", func(out http.ResponseWriter, _ *http.Request) {
		_, _ = out.Write([]byte(w.level.Level().String() + "\n"))
	})
	mux.HandleFunc("PUT /log-level", w.setLevel)
	return mux
}

// ready answers how every part stands: 503 where one keeps the service from serving.
func (w *Watch) ready(out http.ResponseWriter, r *http.Request) {
	parts := w.library.Standing().Parts(r.Context())
	status := http.StatusOK
	for _, p := range parts {
		if !p.Ready {
			status = http.StatusServiceUnavailable
		}
	}
	out.Header().Set("Content-Type", "application/json")
	out.WriteHeader(status)
	_ = json.NewEncoder(out).Encode(struct { // whoever asked may have gone
		Ready bool            `json:"ready"`
		Parts []standing.Part `json:"parts"`
	}{status == http.StatusOK, parts})
}

func (w *Watch) setLevel(out http.ResponseWriter, r *http.Request) {
	var to slog.Level
	text := r.URL.Query().Get("to")
	if err := to.UnmarshalText([]byte(text)); err != nil {
		http.Error(out, strconv.Quote(text)+" is not debug, info, warn or error: PUT /log-level?to=debug",
			http.StatusBadRequest)
		return
	}
	from := w.level.Level()
	slog.Info("the level of the log is changed", "from", from, "to", to)
	ctx := acting.With(r.Context(), &acting.Act{Face: "service", Address: r.RemoteAddr})
	acting.Changes(ctx, from.String(), to.String())
	w.library.Note(ctx, acting.Done{Act: "changeSetting", Kind: "setting", ID: "log-level"})
	w.level.Set(to)
	out.WriteHeader(http.StatusNoContent)
}

// numbers are gathered when they are asked for.
type numbers struct{ library *library.Library }

var (
	runs     = prometheus.NewDesc("mantilla_runs", "Runs by state.", []string{"state"}, nil)
	parcels  = prometheus.NewDesc("mantilla_parcels", "Parcels by state.", []string{"state"}, nil)
	results  = prometheus.NewDesc("mantilla_results", "Results that are kept.", nil, nil)
	rows     = prometheus.NewDesc("mantilla_result_rows", "Rows of the results that are kept.", nil, nil)
	bytes    = prometheus.NewDesc("mantilla_result_bytes", "Bytes that these take.", nil, nil)
	cache    = prometheus.NewDesc("mantilla_cache_bytes", "Bytes of decoded rows in memory.", nil, nil)
	waitRun  = prometheus.NewDesc("mantilla_run_wait_seconds", "For how long the oldest run waits.", nil, nil)
	waitMail = prometheus.NewDesc("mantilla_parcel_wait_seconds", "For how long the oldest parcel waits.", nil, nil)
	dueLate  = prometheus.NewDesc("mantilla_due_late_seconds", "By how much a moment of a timetable is late.", nil, nil)
	unsent   = prometheus.NewDesc("mantilla_audit_unsent_lines", "Lines of the audit that were not sent on.", nil, nil)
	up       = prometheus.NewDesc("mantilla_source_up", "Whether a source can be read.", []string{"source"}, nil)
	part     = prometheus.NewDesc("mantilla_part_good", "Whether nothing is to be done about a part.", []string{"part"},
		nil)
)

// Describe tells nothing beforehand.
func (n *numbers) Describe(chan<- *prometheus.Desc) {}

// Collect gathers them.
func (n *numbers) Collect(to chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	of := n.library.Standing()
	tell := func(d *prometheus.Desc, value float64, labels ...string) {
		to <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, value, labels...)
	}
	for _, p := range of.Parts(ctx) {
		tell(part, flag(p.Good), p.Name)
	}
	for id, ok := range of.Sources() {
		tell(up, flag(ok), id)
	}
	c, err := of.Counts(ctx)
	if err != nil {
		to <- prometheus.NewInvalidMetric(runs, err)
		return
	}
	for _, state := range []string{"waiting", "running", "done", "failed", "stopped"} {
		tell(runs, float64(c.Runs[state]), state)
	}
	for _, state := range []string{"waiting", "sent", "failed", "stopped"} {
		tell(parcels, float64(c.Parcels[state]), state)
	}
	now := n.library.Settings().Now()
	since := func(at time.Time) float64 {
		if at.IsZero() || at.After(now) {
			return 0
		}
		return now.Sub(at).Seconds()
	}
	tell(results, float64(c.Results))
	tell(rows, float64(c.Rows))
	tell(bytes, float64(c.Bytes))
	tell(cache, float64(c.Cache))
	tell(waitRun, since(c.RunSince))
	tell(waitMail, since(c.ParcelSince))
	tell(dueLate, since(c.NextDue))
	tell(unsent, float64(c.Unsent))
}

func flag(yes bool) float64 {
	if yes {
		return 1
	}
	return 0
}
