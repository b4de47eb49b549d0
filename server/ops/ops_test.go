package ops_test

import (
	"encoding/json"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"mantilla/demo/demotest"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/standing"
	"mantilla/server/ops"
)

func asked(t *testing.T, h http.Handler, method, path string) (int, string) {
	t.Helper()
	w := httptest.NewRecorder()
	h.ServeHTTP(w, httptest.NewRequestWithContext(t.Context(), method, path, nil))
	return w.Code, w.Body.String()
}

// TestHowTheServiceStands is told part by part, and in numbers.
func TestHowTheServiceStands(t *testing.T) {
	at := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	dir := demotest.Loaded(t, at.Time())
	l := librarytest.Open(t, dir, at)
	librarytest.RunWell(t, librarytest.Person(t, l, "runa"), capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "2026-09"}})
	level := &slog.LevelVar{}
	w := ops.New(l, level, "test")
	w.Observe("readView", 200, 20*time.Millisecond)
	w.Observe("", 404, time.Millisecond)
	h := w.Handler()
	if status, body := asked(t, h, "GET", "/healthz"); status != 200 || body != "ok\n" {
		t.Errorf("it lives: %d %s", status, body)
	}
	status, body := asked(t, h, "GET", "/readyz")
	var told struct {
		Ready bool
		Parts []standing.Part
	}
	if err := json.Unmarshal([]byte(body), &told); err != nil || status != 200 || !told.Ready || len(told.Parts) != 8 {
		t.Errorf("it is ready: %d %s, %v", status, body, err)
	}
	for _, p := range told.Parts {
		if !p.Good || p.Says == "" {
			t.Errorf("%s: %+v", p.Name, p)
		}
	}
	_, numbers := asked(t, h, "GET", "/metrics")
	for _, want := range []string{`mantilla_requests_total{operation="readView",status="200"} 1`,
		`mantilla_requests_total{operation="console",status="404"} 1`, `mantilla_runs{state="done"}`, "mantilla_results ",
		`mantilla_source_up{source="coop"} 1`, `mantilla_part_good{part="disk"} 1`, `mantilla_info{version="test"} 1`,
		"mantilla_due_late_seconds 0", "go_goroutines"} {
		if !strings.Contains(numbers, want) {
			t.Errorf("%s is not among\n%s", want, numbers)
		}
	}
	if _, err := l.AsService().Catalog.Report("intake-lots"); err != nil {
		t.Fatal(err)
	}
	librarytest.Exec(t, dir, "update run set state = 'waiting', asked_at = '2026-10-15T08:00:00.000Z'")
	if _, body := asked(t, h, "GET", "/readyz"); !strings.Contains(body, "the oldest run since 1h0m0s") {
		t.Errorf("a run that waits for long is not told: %s", body)
	}
}

// TestTheLevelOfTheLog is changed while the service runs.
func TestTheLevelOfTheLog(t *testing.T) {
	at := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	level := &slog.LevelVar{}
	h := ops.New(librarytest.WithPeople(t, at), level, "test").Handler()
	if status, _ := asked(t, h, "PUT", "/log-level?to=debug"); status != 204 || level.Level() != slog.LevelDebug {
		t.Errorf("it is %d, %s", status, level.Level())
	}
	if status, body := asked(t, h, "PUT", "/log-level?to=loud"); status != 400 || !strings.Contains(body,
		`"loud" is not`) {
		t.Errorf("a level that is none: %d %s", status, body)
	}
	if _, body := asked(t, h, "GET", "/log-level"); body != "DEBUG\n" {
		t.Errorf("it is told as %q", body)
	}
}
