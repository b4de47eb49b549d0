package asking_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestUsualValuesAndLastRun fills a form from a person's own values.
func TestUsualValuesAndLastRun(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	runa, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora")
	kept, err := runa.Asking.KeepCriteria(t.Context(),
		model.Criteria{
			Report: "intake-lots",
			Name:   " Hollin  lots ",
			Shared: "field",
			Typed:  map[string]string{"received": "last quarter", "unit": "Hollin"},
		})
	if err != nil || kept.Name != "Hollin lots" || kept.Sentence != "Received 1 July – 30 September 2026; district "+
		"Hollin with everything below; all grades." {
		t.Fatalf("%+v, %v", kept, err)
	}
	if err := runa.Asking.SetUsual(t.Context(), kept.Number, true); err != nil {
		t.Fatal(err)
	}
	form, err := runa.Asking.Form(t.Context(), "intake-lots")
	if err != nil || form.Defaults["received"] != "last quarter" || form.From["received"] != "your usual values" {
		t.Errorf("%v %v, %v", form.Defaults, form.From, err)
	}
	if form, err := dora.Asking.Form(t.Context(), "intake-lots"); err != nil ||
		form.Defaults["received"] != "last month" || len(form.Lists["unit"]) != 9 {
		t.Errorf("another's form: %v, %d units, %v", form.Defaults, len(form.Lists["unit"]), err)
	}
	// What was resolved moves with the day; what was typed does not.
	now.Set(time.Date(2027, 1, 2, 9, 0, 0, 0, time.UTC))
	if again, err := dora.Asking.CriteriaOf(t.Context(), kept.Number); err != nil ||
		!strings.HasPrefix(again.Sentence, "Received 1 October – 31 December 2026") ||
		again.Typed["received"] != "last quarter" {
		t.Errorf("%+v, %v", again, err)
	}
	if _, err := dora.Asking.ChangeCriteria(t.Context(),
		model.Criteria{Number: kept.Number, Name: "x", Revision: 1}); err == nil ||
		!strings.Contains(err.Error(), "belongs to runa") {
		t.Errorf("another's criteria were changed: %v", err)
	}
	run := librarytest.Finish(t, dora,
		capture.Ask{Report: "weighing-waits", Typed: map[string]string{"windows": "2026-09"}})
	if form, err := dora.Asking.Form(t.Context(), "weighing-waits"); err != nil || run.State != model.Done ||
		form.Defaults["windows"] != "2026-09" || form.From["windows"] != "your last run" {
		t.Errorf("%v, %v, %v", form.Defaults, form.From, err)
	}
}

// TestKeptResultIsOffered runs the same again with the source unchanged, and
// then changed.
func TestKeptResultIsOffered(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	runa, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora")
	run := librarytest.Finish(t, runa, capture.Ask{Report: "intake-lots", Typed: map[string]string{"unit": "Hollin"}})
	kept := func(a *library.Access, typed map[string]string) int64 {
		r, err := a.Asking.Resolve(t.Context(), "intake-lots", typed, asking.With{})
		if err != nil {
			t.Fatal(err)
		}
		if r.Kept == nil {
			return 0
		}
		return r.Kept.Number
	}
	if got := kept(runa, map[string]string{"unit": "UF-HOL", "received": "2026-09"}); got != run.Result {
		t.Errorf("the same values written otherwise offer result %d", got)
	}
	if got := kept(runa, map[string]string{"unit": "Marr"}); got != 0 {
		t.Errorf("other values offer result %d", got)
	}
	if got := kept(dora, map[string]string{"unit": "Hollin"}); got != 0 {
		t.Errorf("a person of another reach is offered result %d", got)
	}
}

func TestMovingRangesFollowTheZonesMidnight(t *testing.T) {
	dir := demotest.Dir(t)
	now := librarytest.At(time.Date(2026, 9, 30, 21, 59, 0, 0, time.UTC)) // a minute to midnight in the zone
	l := librarytest.Open(t, dir, now)
	if err := demo.LoadCatalog(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	days := func() string {
		r, err := l.AsService().Asking.Resolve(t.Context(), "intake-lots", nil, asking.With{})
		if err != nil || len(r.Faults) > 0 {
			t.Fatal(err, r.Faults)
		}
		return r.Facts[0].Resolved
	}
	if got := days(); got != "2026-08-01/2026-08-31" {
		t.Errorf("before midnight, last month is %s", got)
	}
	run, err := l.AsService().Capture.StartRun(t.Context(), capture.Ask{Report: "intake-lots"})
	if err != nil {
		t.Fatal(err)
	}
	for begun := time.Now(); !run.State.Ended() && time.Since(begun) < 20*time.Second; time.Sleep(2 * time.Millisecond) {
		if run, err = l.AsService().Capture.Run(t.Context(), run.Number); err != nil {
			t.Fatal(err)
		}
	}
	now.Set(now.Time().Add(2 * time.Minute))
	if got := days(); got != "2026-09-01/2026-09-30" {
		t.Errorf("after midnight, last month is %s", got)
	}
	// The run keeps both what was meant and what it came to.
	if run.State != model.Done || run.Typed["received"] != "last month" ||
		run.Facts[0].Resolved != "2026-08-01/2026-08-31" {
		t.Errorf("the run holds %+v", run)
	}
	result, err := l.AsService().Reading.Result(t.Context(), run.Result)
	if err != nil || result.Manifest.Fingerprint == "" || result.Manifest.Version != result.Definition.Version ||
		result.RowsOf("lots") != run.Rows {
		t.Errorf("its result %+v, %v", result, err)
	}
}
