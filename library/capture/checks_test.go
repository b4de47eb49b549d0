package capture_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// put takes a change of a report of the demo in, with other checks.
func put(t *testing.T, l *library.Library, id, text string) {
	t.Helper()
	lila := librarytest.SignIn(t, l, "lila")
	d, err := lila.Catalog.Report(id)
	if err != nil {
		t.Fatal(err)
	}
	whole, _, _ := strings.Cut(d.Text, "checks:\n")
	if _, err := lila.Drafting.PutReport(t.Context(), []byte(whole+text), catalog.Put{Was: d.Version}, false); err != nil {
		t.Fatal(err)
	}
}

// A run whose check fails it keeps nothing and says what does not hold; one that is
// marked keeps its rows and says so wherever its notes are.
func TestChecksOfARun(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa := librarytest.SignIn(t, l, "runa")
	ask := capture.Ask{Report: "intake-by-origin", Typed: map[string]string{"received": "2026-09"}}

	well := librarytest.RunWell(t, runa, ask)
	r, err := runa.Reading.Result(t.Context(), well.Result)
	if err != nil {
		t.Fatal(err)
	}
	if len(r.Manifest.Checks) != 2 || r.Manifest.Checks[1].Figure != "124435.030" ||
		len(r.Notes(morning.Location())) != 0 {
		t.Errorf("its checks are %+v, its notes %v", r.Manifest.Checks, r.Notes(morning.Location()))
	}
	if unchanged, err := runa.Reading.CheckSeal(t.Context(), r); err != nil || !unchanged {
		t.Error("the seal does not agree", err)
	}

	put(t, l, "intake-by-origin", `checks:
  - {id: few, of: districts, holds: sum(lots) < 100, else: mark, say: Many lots.}
  - {id: steady, of: districts, figure: sum(net_kg), within: 5, else: mark, say: Far from before.}
`)
	marked := librarytest.RunWell(t, runa, ask)
	if marked.Note != "Many lots." {
		t.Errorf("the run says %q", marked.Note)
	}
	if r, err = runa.Reading.Result(t.Context(), marked.Result); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(r.Notes(morning.Location()), "; "); got != "Many lots." {
		t.Errorf("its notes are %s", got)
	}
	if got := r.Manifest.Checks[1]; got.Before != "124435.030" || got.State != "held" {
		t.Errorf("compared with the run before it is %+v", got)
	}

	put(t, l, "intake-by-origin", `checks:
  - {id: few, of: districts, each: [district], holds: sum(lots) < 60, else: fail, say: Too many lots.}
`)
	failed := librarytest.Finish(t, runa, ask)
	if failed.State != model.Failed || failed.Result != 0 ||
		!strings.Contains(failed.Reason, "nothing was kept: Too many lots. It does not hold of ") {
		t.Errorf("the run is %s, result %d: %s", failed.State, failed.Result, failed.Reason)
	}
}

// Expectations are tried on real rows, and refuse a definition whose figures are others.
func TestExpectationsAreTried(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila := librarytest.SignIn(t, l, "lila")
	d, err := lila.Catalog.Report("intake-by-origin")
	if err != nil {
		t.Fatal(err)
	}
	tried, err := lila.Drafting.Try(t.Context(), []byte(d.Text))
	if err != nil || len(tried.Cases) != 2 {
		t.Fatal(tried, err)
	}
	for _, c := range tried.Cases {
		if !c.Held() || c.Rows == 0 {
			t.Errorf("%s is not held: %+v", c.Name, c)
		}
	}
	wrong := []byte(strings.Replace(d.Text, "sum(lots): 228", "sum(lots): 229", 1))
	var refused *model.Refused
	if _, err = lila.Drafting.PutReport(t.Context(), wrong, catalog.Put{Was: d.Version}, false); !errors.As(err,
		&refused) ||
		!strings.Contains(err.Error(), "sum(lots) is 228 and not 229") {
		t.Errorf("other figures are answered by %v", err)
	}
	if _, err = lila.Drafting.PutReport(t.Context(), wrong, catalog.Put{Was: d.Version}, true); err != nil {
		t.Errorf("taking it in untried is answered by %v", err)
	}
	unread := []byte(strings.Replace(d.Text, "grade: A}", "grade: none of these}", 1))
	if tried, err = lila.Drafting.Try(t.Context(), unread); err != nil ||
		!strings.Contains(tried.Cases[1].Failed, "grade") {
		t.Errorf("values that are wrong are answered by %+v, %v", tried, err)
	}
}
