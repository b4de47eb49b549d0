package keeping_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/keeping"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

func compared(t *testing.T, a *library.Access, c keeping.Comparison) model.Run {
	t.Helper()
	run, err := a.Keeping.Compare(t.Context(), c)
	if err != nil {
		t.Fatal(err)
	}
	if run = librarytest.Ended(t, a, run); run.State != model.Done {
		t.Fatalf("it ended as %s: %s", run.State, run.Reason)
	}
	return run
}

func says(t *testing.T, a *library.Access, result int64) string {
	t.Helper()
	r, err := a.Reading.Result(t.Context(), result)
	if err != nil {
		t.Fatal(err)
	}
	s, err := a.Reading.Sheet(t.Context(), r, "changes", ask.Changes{})
	if err != nil {
		t.Fatal(err)
	}
	return s.View.Says
}

// A result is compared with another: what changed is a result whose sums agree with both, which
// is sealed, says what it is made of, and is no result of the report's own.
func TestResultsAreCompared(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa := librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	values := map[string]string{"received": "2026-09"}
	before := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots", Typed: values})
	after := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "2026-09-02/2026-10-01"}})
	run := compared(t, runa, keeping.Comparison{Before: keeping.Side{Result: before.Result},
		After: keeping.Side{Result: after.Result}})
	r, err := runa.Reading.Result(ctx, run.Result)
	if err != nil {
		t.Fatal(err)
	}
	if m := r.Manifest.Made; m == nil || m.Of[0].Result != before.Result || len(m.Of[1].Seal) != 64 ||
		strings.Join(m.Key, ",") != "lot_no" || !strings.Contains(r.Sentence, "rows are found by Lot.") {
		t.Errorf("it is made of %+v: %s", m, r.Sentence)
	}
	if whole, err := runa.Reading.CheckSeal(ctx, r); err != nil || !whole {
		t.Errorf("its seal: %v, %v", whole, err)
	}
	for result, column := range map[int64]string{before.Result: "net_kg_before", after.Result: "net_kg"} {
		side, err := runa.Reading.Result(ctx, result)
		if err != nil {
			t.Fatal(err)
		}
		whole, err := runa.Reading.Read(ctx, side, "lots.rows", ask.Changes{})
		if err != nil {
			t.Fatal(err)
		}
		part, err := runa.Reading.Read(ctx, r, "rows.rows", ask.Changes{})
		if err != nil {
			t.Fatal(err)
		}
		want, err := whole.Figure(ctx, "sum(net_kg)")
		got, wrong := part.Figure(ctx, "sum("+column+")")
		if err != nil || wrong != nil || got.String() != want.String() {
			t.Errorf("the sum of %s is %s and not %s: %v, %v", column, got, want, err, wrong)
		}
	}
	runs, err := runa.Capture.Runs(ctx, model.RunWish{Limit: 50})
	if err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]keeping.Comparison{
		"are made of other results": {Before: keeping.Side{Result: run.Result}, After: keeping.Side{Result: after.Result}},
		"not found":                 {Before: keeping.Side{Result: 99}, After: keeping.Side{Result: after.Result}},
		"they have lot_no, received": {Before: keeping.Side{Result: before.Result}, After: keeping.Side{Result: after.Result},
			Key: []string{"town"}},
		`no dataset "lot"`: {Before: keeping.Side{Result: before.Result, Dataset: "lot"},
			After: keeping.Side{Result: after.Result}},
		"the later side": {Before: keeping.Side{Result: before.Result},
			After: keeping.Side{Report: "intake-lots", Typed: map[string]string{"received": "someday"}}},
	} {
		name = strings.Replace(name, "are made", "is made", 1)
		if _, err := runa.Keeping.Compare(ctx, c); err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("it is answered by %v and not by %q", err, name)
		}
	}
	side := keeping.Side{Report: "intake-lots", Typed: values}
	if _, err := runa.Keeping.Compare(ctx, keeping.Comparison{Before: side, After: keeping.Side{Result: 99}}); err == nil {
		t.Error("what is not there is compared")
	}
	if now, err := runa.Capture.Runs(ctx, model.RunWish{Limit: 50}); err != nil || len(now) != len(runs) {
		t.Errorf("what cannot be compared started %d runs: %v", len(now)-len(runs), err)
	}
}

// Both sides are run for it, and it waits for them; when one fails, so does it, and says which.
func TestBothSidesAreRun(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa := librarytest.SignIn(t, l, "runa")
	side := func(report, received string) keeping.Side {
		return keeping.Side{Report: report, Typed: map[string]string{"received": received}}
	}
	run := compared(t, runa, keeping.Comparison{Before: side("intake-by-origin", "2026-08"),
		After: side("intake-by-origin", "2026-09")})
	if said := says(t, runa, run.Result); said != "12 changed, 0 new, 0 gone, 0 the same." {
		t.Error(said)
	}
	same := compared(t, runa, keeping.Comparison{Before: side("intake-lots", "2026-08"), After: side("intake-lots",
		"2026-08")})
	if said := says(t, runa, same.Result); said != "Nothing changed: 911 rows are the same." {
		t.Error(said)
	}
	before := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "2026-08"}})
	failing, err := runa.Keeping.Compare(t.Context(), keeping.Comparison{Before: keeping.Side{Result: before.Result},
		After: keeping.Side{Report: "lot-history", Typed: map[string]string{"lot": "L26-16430"}}, Key: []string{"town"}})
	if err != nil {
		t.Fatal(err)
	}
	if failing = librarytest.Ended(t, runa, failing); failing.State != model.Failed ||
		!strings.Contains(failing.Reason, "to find rows by") {
		t.Errorf("it ended as %s: %s", failing.State, failing.Reason)
	}
}

// Two versions of a report are run with the same values, for those who write definitions: which
// rows and figures a change of the definition moved.
func TestVersionsAreCompared(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	d, err := lila.Catalog.Report("intake-lots")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(d.Text, "is: lot.net_g,", "is: lot.net_g + 1000 * (lot.lot_no = 'L26-17343'),", 1)
	if _, err := lila.Drafting.PutReport(ctx, []byte(text), catalog.Put{Was: d.Version}, true); err != nil {
		t.Fatal(err)
	}
	side := func(version int) keeping.Side {
		return keeping.Side{Report: "intake-lots", Version: version, Typed: map[string]string{"received": "2026-09"}}
	}
	run := compared(t, lila, keeping.Comparison{Before: side(1), After: side(2)})
	if said := says(t, lila, run.Result); said != "1 changed, 0 new, 0 gone, 546 the same." {
		t.Error(said)
	}
	for who, want := range map[*library.Access]string{runa: "needs the role author", lila: "no version"} {
		if _, err := who.Keeping.Compare(ctx, keeping.Comparison{Before: side(1), After: side(9)}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("it is answered by %v and not by %q", err, want)
		}
	}
}

// What changed is seen by those alone who see both sides: their reports and their units.
func TestWhoSeesWhatChanged(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, dora, rhea := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora"), librarytest.SignIn(t, l,
		"rhea")
	ctx := t.Context()
	ask := capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}}
	wide, cut := librarytest.RunWell(t, runa, ask), librarytest.RunWell(t, dora, ask)
	own := compared(t, dora, keeping.Comparison{Before: keeping.Side{Result: cut.Result},
		After: keeping.Side{Result: cut.Result}})
	both := compared(t, runa, keeping.Comparison{Before: keeping.Side{Result: cut.Result},
		After: keeping.Side{Result: wide.Result}})
	if _, err := dora.Reading.Result(ctx, own.Result); err != nil {
		t.Errorf("dora does not see what she compared: %v", err)
	}
	if _, err := dora.Reading.Result(ctx, both.Result); err == nil {
		t.Error("dora sees rows of other units by way of a comparison")
	}
	if _, err := dora.Keeping.Compare(ctx, keeping.Comparison{Before: keeping.Side{Result: wide.Result},
		After: keeping.Side{Result: cut.Result}}); err == nil {
		t.Error("dora compares a result that she does not see")
	}
	if _, err := rhea.Keeping.Compare(ctx, keeping.Comparison{Before: keeping.Side{Result: wide.Result},
		After: keeping.Side{Result: wide.Result}}); err == nil {
		t.Error("a reader compares")
	}
	listed, err := dora.Reading.Results(ctx, model.ResultWish{Limit: 50})
	if err != nil || len(listed) != 2 {
		t.Errorf("dora's list has %d: %v", len(listed), err)
	}
}
