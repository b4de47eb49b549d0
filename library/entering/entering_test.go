package entering_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/entering"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// forecast is a figure of the forecast of a result, as of a moment; "" for now.
func forecast(t *testing.T, a *library.Access, result int64, formula, asOf string) string {
	t.Helper()
	r, err := a.Reading.Result(t.Context(), result)
	if err != nil {
		t.Fatal(err)
	}
	of, err := a.Reading.Read(t.Context(), r, "forecast", ask.Changes{Entries: asOf})
	if err != nil {
		t.Fatal(err)
	}
	n, err := of.Figure(t.Context(), formula)
	if err != nil {
		t.Fatal(err)
	}
	return n.String()
}

func estimate(t *testing.T, a *library.Access, result int64, line, method, figure string) ([]model.Entry, error) {
	t.Helper()
	key := []string{"J-08", line}
	return a.Entering.Put(t.Context(), result, entering.Change{Way: model.WayTyped, Cells: []entering.Cell{
		{Column: "method", Key: key, Value: method}, {Column: "figure", Key: key, Value: figure}}})
}

// Estimates are of rows, not of runs: they count in every result, older ones of a moment as they
// were then, and those of last month stand beside this month's.
func TestEstimatesStay(t *testing.T) {
	clock := librarytest.At(time.Date(2026, 9, 20, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, clock)
	runa := librarytest.SignIn(t, l, "runa")
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "project-forecast",
		Typed: map[string]string{"project": "J-08"}})
	planned := forecast(t, runa, run.Result, "sum(planned)", "")
	if got := forecast(t, runa, run.Result, "sum(forecast)", ""); got != planned {
		t.Errorf("nobody estimated, and the forecast is %s, not the plan %s", got, planned)
	}
	if _, err := estimate(t, runa, run.Result, "labour", "cost at completion", "100000"); err != nil {
		t.Fatal(err)
	}
	clock.Set(morning)
	if _, err := estimate(t, runa, run.Result, "labour", "cost at completion", "120000"); err != nil {
		t.Fatal(err)
	}
	again := librarytest.RunWell(t, runa, capture.Ask{Report: "project-forecast",
		Typed: map[string]string{"project": "J-08"}})
	for formula, want := range map[string]string{"sum(forecast) - sum(forecast_before)": "20000.00", "sum(estimated)": "1",
		"sum(case when cost_line = 'labour' then forecast end)": "120000.00"} {
		if got := forecast(t, runa, again.Result, formula, ""); got != want {
			t.Errorf("%s is %s and not %s", formula, got, want)
		}
	}
	for asOf, want := range map[string]string{"2026-09-30": "100000.00", "2026-10-14": "100000.00", "today": "120000.00",
		"2026-10-15T08:59:59Z": "100000.00"} {
		if got := forecast(t, runa, run.Result, "sum(case when cost_line = 'labour' then forecast end)", asOf); got != want {
			t.Errorf("as of %s it is %s and not %s", asOf, got, want)
		}
	}
	r, err := runa.Reading.Result(t.Context(), run.Result)
	if err != nil {
		t.Fatal(err)
	}
	if whole, err := runa.Reading.CheckSeal(t.Context(), r); err != nil || !whole {
		t.Errorf("the seal of the rows: %v, %v", whole, err)
	}
}

// When two fill in a cell, the later is told of the first; nothing of a change is kept that is not
// right as a whole.
func TestTwoPeopleTypeIn(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, lila, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l,
		"dora")
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "project-forecast"})
	key, none := []string{"J-08", "labour"}, int64(0)
	first, err := estimate(t, runa, run.Result, "labour", "percent done", "60")
	if err != nil || len(first) != 2 || first[0].Change != first[1].Change {
		t.Fatalf("%v: %+v", err, first)
	}
	_, err = lila.Entering.Put(t.Context(), run.Result, entering.Change{Cells: []entering.Cell{
		{Column: "remark", Key: key, Value: "seen"}, {Column: "figure", Key: key, Value: "70", Seen: &none}}, Way: "typed"})
	var conflict *model.EntryConflict
	if !errors.As(err, &conflict) || conflict.Entry.Person != "runa" || !strings.Contains(err.Error(),
		"runa typed 60.00 into figure of J-08, labour meanwhile") {
		t.Errorf("it is answered by %v", err)
	}
	s, err := lila.Entering.Entries(t.Context(), run.Result, "")
	if err != nil || len(s.Entries) != 2 {
		t.Errorf("of a change that met a conflict something was kept: %v, %+v", err, s.Entries)
	}
	if _, err := lila.Entering.Put(t.Context(), run.Result, entering.Change{Cells: []entering.Cell{
		{Column: "figure", Key: key, Value: "70", Seen: &first[1].Number}}, Way: "typed"}); err != nil {
		t.Error(err)
	}
	if _, err := runa.Entering.Undo(t.Context(), run.Result, ""); !errors.As(err, &conflict) {
		t.Errorf("what somebody else changed since is undone: %v", err)
	}
	cut := librarytest.RunWell(t, dora, capture.Ask{Report: "project-forecast"})
	mine, err := dora.Entering.Entries(t.Context(), cut.Result, "")
	if err != nil || len(mine.Entries) != 0 {
		t.Errorf("dora sees what is of other units: %v, %+v", err, mine.Entries)
	}
	if _, err := estimate(t, dora, cut.Result, "labour", "percent done", "10"); err == nil ||
		!strings.Contains(err.Error(), "no row has the key J-08, labour") {
		t.Errorf("dora types into a row of other units: %v", err)
	}
}

// Columns are closed to those whom their author did not mean, after a day, and by a sign-off.
func TestWhoTypesInAndUntilWhen(t *testing.T) {
	clock := librarytest.At(morning)
	l := librarytest.WithPeople(t, clock)
	runa, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila")
	d, err := lila.Catalog.Report("project-forecast")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(d.Text, "entry: {options: [percent done, cost to complete, cost at completion, units left], "+
		"before: true, until: signed}", "entry: {options: [percent done], who: [field], until: 2026-10-20, before: true}", 1)
	if _, err := lila.Drafting.PutReport(t.Context(), []byte(text), catalog.Put{Was: d.Version}, true); err != nil {
		t.Fatal(err)
	}
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "project-forecast"})
	type attempt struct {
		who    *library.Access
		column string
		want   string
	}
	try := func(a attempt) {
		t.Helper()
		value := "1"
		if a.column == "method" {
			value = "percent done"
		}
		_, err := a.who.Entering.Put(t.Context(), run.Result, entering.Change{Way: "typed",
			Cells: []entering.Cell{{Column: a.column, Key: []string{"J-08", "labour"}, Value: value}}})
		if a.want == "" && err != nil || a.want != "" && (err == nil || !strings.Contains(err.Error(), a.want)) {
			t.Errorf("%s: %v and not %q", a.column, err, a.want)
		}
	}
	try(attempt{lila, "method", "it is filled in by field"})
	try(attempt{runa, "method", ""})
	clock.Set(time.Date(2026, 10, 21, 9, 0, 0, 0, time.UTC))
	try(attempt{runa, "method", "it was open until 20 October 2026"})
	try(attempt{lila, "figure", ""})
	if _, err := lila.Keeping.SignOff(t.Context(), run.Result, "agreed"); err != nil {
		t.Fatal(err)
	}
	try(attempt{lila, "figure", "the result is signed off"})
}
