package library_test

import (
	"errors"
	"log/slog"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/model"
	"mantilla/store"
)

// clock is a clock that a test moves while workers look at it.
type clock struct{ at atomic.Pointer[time.Time] }

func clockAt(t time.Time) *clock {
	c := &clock{}
	c.set(t)
	return c
}

func (c *clock) set(t time.Time) { c.at.Store(&t) }
func (c *clock) time() time.Time { return *c.at.Load() }

// open makes a library on the demo's catalog with a clock that the test moves.
func open(t *testing.T, dir string, now *clock) *library.Library {
	t.Helper()
	return openWith(t, dir, now, func(*library.Settings) {})
}

// openWith makes a library with further settings.
func openWith(t *testing.T, dir string, now *clock, change func(*library.Settings)) *library.Library {
	t.Helper()
	records, err := store.Open(t.Context(), dir, 32<<20)
	if err != nil {
		t.Fatal(err)
	}
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	settings := library.Settings{Zone: zone, Currency: "EUR", MaxRows: 1_000_000, MaxTime: time.Minute, Workers: 1, DataDir: dir, Now: now.time, MailLimit: 10 << 20, Folder: filepath.Join(dir, "outgoing")}
	change(&settings)
	l, err := library.Open(t.Context(), records, settings, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := errors.Join(l.Close(), records.Close()); err != nil {
			t.Error(err)
		}
	})
	return l
}

func TestMovingRangesFollowTheZonesMidnight(t *testing.T) {
	dir := demotest.Dir(t)
	now := clockAt(time.Date(2026, 9, 30, 21, 59, 0, 0, time.UTC)) // a minute to midnight in the zone
	l := open(t, dir, now)
	if err := demo.LoadCatalog(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	days := func() string {
		r, err := l.AsService().Resolve(t.Context(), "intake-lots", nil, library.With{})
		if err != nil || len(r.Faults) > 0 {
			t.Fatal(err, r.Faults)
		}
		return r.Facts[0].Resolved
	}
	if got := days(); got != "2026-08-01/2026-08-31" {
		t.Errorf("before midnight, last month is %s", got)
	}
	run, err := l.AsService().StartRun(t.Context(), library.Ask{Report: "intake-lots"})
	if err != nil {
		t.Fatal(err)
	}
	for begun := time.Now(); !run.State.Ended() && time.Since(begun) < 20*time.Second; time.Sleep(2 * time.Millisecond) {
		if run, err = l.AsService().Run(t.Context(), run.Number); err != nil {
			t.Fatal(err)
		}
	}
	now.set(now.time().Add(2 * time.Minute))
	if got := days(); got != "2026-09-01/2026-09-30" {
		t.Errorf("after midnight, last month is %s", got)
	}
	// The run keeps both what was meant and what it came to.
	if run.State != model.Done || run.Typed["received"] != "last month" || run.Facts[0].Resolved != "2026-08-01/2026-08-31" {
		t.Errorf("the run holds %+v", run)
	}
	result, err := l.AsService().Result(t.Context(), run.Result)
	if err != nil || result.Manifest.Fingerprint == "" || result.Manifest.Version != result.Definition.Version || result.RowsOf("lots") != run.Rows {
		t.Errorf("its result %+v, %v", result, err)
	}
}

func TestCatalogOutlivesTheService(t *testing.T) {
	dir, now := demotest.Dir(t), clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	t.Run("first", func(t *testing.T) {
		if err := demo.LoadCatalog(t.Context(), open(t, dir, now)); err != nil {
			t.Fatal(err)
		}
	})
	l := open(t, dir, now)
	entries, categories, err := l.AsService().Catalog(t.Context(), "", "")
	if err != nil || len(entries) != 46 || len(categories) != 9 || !slices.IsSortedFunc(entries, func(a, b library.Entry) int { return strings.Compare(a.Category, b.Category) }) {
		t.Errorf("%d reports in %v, %v", len(entries), categories, err)
	}
	var wrong param.Faults
	if _, err := l.AsService().StartRun(t.Context(), library.Ask{Report: "lot-history", Typed: map[string]string{"lot": "L99"}}); !errors.As(err, &wrong) || wrong[0].Parameter != "lot" {
		t.Errorf("an unknown lot: %v", err)
	}
	var missing *model.Missing
	if _, err := l.AsService().Report("lot-histori"); !errors.As(err, &missing) || !slices.Equal(missing.Near, []string{"lot-history"}) {
		t.Errorf("a misspelt report: %v", err)
	}
	var faults report.Faults
	if _, err := l.AsService().CheckReport(t.Context(), []byte("report: x")); !errors.As(err, &faults) || len(faults) < 5 {
		t.Errorf("an unfinished definition: %v", err)
	}
	if err := l.AsService().PutSource(t.Context(), "coop", []byte("source: coop\nkind: sqlite\nfile: coop.db\nlists: {x: {from: nothing, code: a, label: b}}\n")); err == nil || !strings.Contains(err.Error(), "list x") {
		t.Errorf("a source with a broken list: %v", err)
	}
	if _, err := l.AsService().Resolve(t.Context(), "intake-lots", map[string]string{"unit": "Hollin"}, library.With{}); err != nil {
		t.Errorf("afterwards the good source is gone: %v", err)
	}
}
