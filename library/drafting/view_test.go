package drafting_test

import (
	"strconv"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// figures are the first lines of a view of a result, as text.
func figures(t *testing.T, a *library.Access, result int64, view string) string {
	t.Helper()
	r, err := a.Reading.Result(t.Context(), result)
	if err != nil {
		t.Fatal(err)
	}
	s, err := a.Reading.Sheet(t.Context(), r, view, ask.Changes{})
	if err != nil {
		t.Fatal(err)
	}
	lines, err := s.Read(t.Context(), 0, 40)
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	for _, c := range s.Columns {
		out.WriteString(c.Label + "|")
	}
	for _, l := range lines {
		out.WriteString("\n" + l.Path + " ")
		for _, c := range l.Cells {
			out.WriteString(c.String() + "|")
		}
	}
	return out.String()
}

// A report that begins from a kept view shows what the view shows: its groups, its columns,
// those that the reader added, and its filters on texts; what cannot be taken over is told.
func TestAReportBeginsFromAKeptView(t *testing.T) {
	l := office(t)
	aron := librarytest.SignIn(t, l, "aron")
	ctx := t.Context()
	values := map[string]string{"received": "2026-09"}
	open := 1
	for name, c := range map[string]ask.Changes{
		"worth by district": {Group: []string{"district", "grade"}, Columns: []string{"net_kg", "value", "own_worth"},
			Add: []string{"Worth = value / net_kg"}, Filters: []string{"flower=Clover; Lime"}, Sort: []string{"-value"},
			Open: &open},
		"crossed": {Show: "crosstab", Down: []string{"district"}, Across: []string{"flower"}, Cells: []string{"net_kg"},
			Filters: []string{"grade=Select"}},
		"heavy by month": {Group: []string{"month(received)"}, Columns: []string{"net_kg", "own_mean"},
			Add: []string{"Mean = sum(net_kg) / count(*)"}},
	} {
		kept, err := aron.Reading.KeepView(ctx, model.View{Report: "intake-lots", Base: "lots", Name: name, Changes: c})
		if err != nil {
			t.Fatal(name, err)
		}
		d, err := aron.Drafting.Begin(ctx, drafting.Beginning{View: "V-" + strconv.FormatInt(kept.Number, 10)})
		if err != nil {
			t.Fatal(name, err)
		}
		f, err := aron.Drafting.Find(ctx, []byte(d.Text), true)
		if err != nil || len(f.Faults) > 0 {
			t.Fatalf("%s: %v %v\n%s", name, err, f.Faults, d.Text)
		}
		was := librarytest.RunWell(t, aron, capture.Ask{Report: "intake-lots", Typed: values})
		is := librarytest.RunWell(t, aron, capture.Ask{Report: d.ReportID(), Typed: values})
		want, got := figures(t, aron, was.Result, "V-"+strconv.FormatInt(kept.Number, 10)), figures(t, aron, is.Result, "*")
		if want != got {
			t.Errorf("%s shows\n%s\nand the report of it\n%s\n%s", name, want, got, d.Text)
		}
	}
	kept, err := aron.Reading.KeepView(ctx, model.View{Report: "intake-lots", Base: "lots", Name: "large ones",
		Changes: ask.Changes{Filters: []string{"net_kg>=300"}}})
	if err != nil {
		t.Fatal(err)
	}
	d, err := aron.Drafting.Begin(ctx,
		drafting.Beginning{View: "V-" + strconv.FormatInt(kept.Number, 10), Title: "Large lots"})
	if err != nil || !strings.Contains(d.Text, "# The view was filtered by net_kg>=300.") || d.Report != "large-lots" {
		t.Errorf("the draft of %s is\n%.400s\n%v", d.Report, d.Text, err)
	}
	if _, err := aron.Drafting.Begin(ctx, drafting.Beginning{View: "V-999"}); err == nil {
		t.Error("a draft begins from a view that there is not")
	}
}
