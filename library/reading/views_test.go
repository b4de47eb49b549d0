package reading_test

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/sheet"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/render"
)

var noon = time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin)

// lots is a library with the lots of August, read by runa.
func lots(t *testing.T) (l *library.Library, runa *library.Access, x *reading.Result) {
	t.Helper()
	l = librarytest.WithPeople(t, librarytest.At(noon))
	runa = librarytest.Person(t, l, "runa")
	run := librarytest.RunWell(t, runa,
		capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}})
	x, err := runa.Reading.Result(t.Context(), run.Result)
	if err != nil {
		t.Fatal(err)
	}
	return l, runa, x
}

// TestViewsAreKeptByWhoMayAndAsTheyFit keeps, changes, deletes and brings back views of two people.
func TestViewsAreKeptByWhoMayAndAsTheyFit(t *testing.T) {
	l, runa, x := lots(t)
	rhea, dora := librarytest.Person(t, l, "rhea"), librarytest.Person(t, l, "dora")
	v := model.View{Report: "intake-lots", Base: "lots", Name: "By district", Everyone: true,
		Changes: ask.Changes{Group: []string{"district"}, Filters: []string{"(net_kg > 300)=yes"}}}
	var forbidden *model.Forbidden
	if _, err := rhea.Reading.KeepView(t.Context(), v); !errors.As(err, &forbidden) {
		t.Errorf("a reader keeps one for everyone: %v", err)
	}
	for says, change := range map[string]func(*model.View){
		"a view needs a name":       func(v *model.View) { v.Name = "  " },
		"at most 80 characters":     func(v *model.View) { v.Name = strings.Repeat("x", 81) },
		"did you mean lots?":        func(v *model.View) { v.Base = "lotz" },
		"did you mean intake-lots?": func(v *model.View) { v.Report = "intake-lot" },
		"did you mean district?":    func(v *model.View) { v.Changes.Group = []string{"distric"} },
		"did you mean net_kg?":      func(v *model.View) { v.Changes.Filters = []string{"net_kgs>5"} },
		"a value is wanted":         func(v *model.View) { v.Changes.Add = []string{"Worth=value/"} },
	} {
		wrong := v
		change(&wrong)
		if _, err := runa.Reading.KeepView(t.Context(), wrong); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v, want %q", wrong, err, says)
		}
	}
	kept, err := runa.Reading.KeepView(t.Context(), v)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Reading.KeepView(t.Context(), v); err == nil || !strings.Contains(err.Error(), "the name is taken") {
		t.Errorf("a name that is in use: %v", err)
	}
	id := "V-1"
	s, err := dora.Reading.KeptViews(t.Context(), "intake-lots")
	if err != nil || len(s) != 1 || s[0].Mine || s[0].Name != "By district" {
		t.Errorf("another person sees %+v, %v", s, err)
	}
	laid, err := runa.Reading.Sheet(t.Context(), x, id, ask.Changes{})
	if err != nil ||
		!strings.Contains(laid.Told(), "Of which net weight > 300 yes: 266 of 911 rows; grouped by district") {
		t.Errorf("it is laid as %q, %v", laid.Told(), err)
	}
	laid, err = runa.Reading.Sheet(t.Context(), x, id,
		ask.Changes{Group: []string{"none"}, Filters: []string{"grade=Select"}})
	if err != nil || strings.Contains(laid.Told(), "Grouped") || !strings.Contains(laid.Told(), "Select") {
		t.Errorf("changed again it is %q, %v", laid.Told(), err)
	}

	changed := kept.View
	changed.Everyone, changed.Changes = false, ask.Changes{Sort: []string{"-value"}}
	if _, err := dora.Reading.ChangeView(t.Context(), changed); !errors.As(err, &forbidden) {
		t.Errorf("changed by who does not own it: %v", err)
	}
	if _, err := runa.Reading.ChangeView(t.Context(), changed); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Reading.ChangeView(t.Context(), changed); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	if _, err := dora.Reading.Kept(t.Context(), kept.Number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("what is runa's alone is seen: %v", err)
	}
	if err := dora.Reading.DeleteView(t.Context(), kept.Number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted by who does not see it: %v", err)
	}
	if err := runa.Reading.DeleteView(t.Context(), kept.Number); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Reading.Sheet(t.Context(), x, id, ask.Changes{}); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("what is deleted is laid: %v", err)
	}
	if err := dora.Reading.RestoreView(t.Context(), kept.Number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("brought back by somebody else: %v", err)
	}
	if err := runa.Reading.RestoreView(t.Context(), kept.Number); err != nil {
		t.Error(err)
	}
}

// TestLinksAreOfTheRow opens what a row leads to with the row's values, and tells what does not.
func TestLinksAreOfTheRow(t *testing.T) {
	_, runa, x := lots(t)
	read, err := runa.Reading.Read(t.Context(), x, "lots", ask.Changes{})
	if err != nil {
		t.Fatal(err)
	}
	columns, line, err := read.Row(t.Context(), 3)
	if err != nil || columns[0].ID != "lot_no" {
		t.Fatalf("%+v, %v", columns[0], err)
	}
	link, err := runa.Reading.Link(t.Context(), x, "lots", 3, "lot_no")
	if err != nil || link.Report() != "lot-history" || link.Values()["lot"] != line.Cells[0].String() ||
		!link.ForReaders() {
		t.Errorf("row 3, lot %s, leads to %s with %v, %v", line.Cells[0], link.Report(), link.Values(), err)
	}
	for says, at := range map[string]struct {
		row    int
		column string
	}{"there is no row -1": {-1, "lot_no"}, "there is no row 100000": {100_000, "lot_no"},
		"no report opens from the column \"value\"": {3, "value"}, "no report opens from the column \"lot\"": {3, "lot"}} {
		if _, err := runa.Reading.Link(t.Context(), x, "lots", at.row, at.column); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v, want %q", at, err, says)
		}
	}
	for _, number := range []int{-1, int(x.Rows)} {
		if _, _, err := read.Row(t.Context(), number); err == nil || !strings.Contains(err.Error(), "has the rows 0 to") {
			t.Errorf("row %d: %v", number, err)
		}
	}
}

// TestFiguresOpenByAnyGrouping opens the figure of each group of each level and finds the same.
func TestFiguresOpenByAnyGrouping(t *testing.T) {
	_, runa, x := lots(t)
	for _, by := range [][]string{{"district", "grade"}, {"net_kg > 300"}, {"month(received)", "flower"},
		{"band(net_kg, 100, 200, 300)", "state"}, {"weekday(received)"}} {
		changes := ask.Changes{Group: by}
		laid, err := runa.Reading.Sheet(t.Context(), x, "lots", changes)
		if err != nil {
			t.Fatal(err)
		}
		lines, err := laid.Read(t.Context(), 0, 500)
		if err != nil {
			t.Fatal(err)
		}
		opened := 0
		for _, line := range lines {
			if line.Path == "" {
				continue
			}
			o, err := runa.Reading.OpenFigure(t.Context(), x, "lots", changes, sheet.Cell{Path: line.Path, Column: "net_kg"})
			if err != nil {
				t.Errorf("by %q: %s: %v", by, line.Path, err)
				continue
			}
			opened++
			rows, err := runa.Reading.Sheet(t.Context(), x, o.View, ask.Changes{Filters: o.Filters, Add: o.Add})
			if err != nil || rows.Rows == 0 {
				t.Errorf("by %q: %s opens %d rows: %v", by, line.Path, rows.Rows, err)
			}
		}
		if opened < 2 {
			t.Errorf("by %q only %d groups were opened", by, opened)
		}
	}
}

// TestWhatIsTakenAwayIsWhatIsShown writes views as JSON and holds rows and totals against the sheet.
func TestWhatIsTakenAwayIsWhatIsShown(t *testing.T) {
	_, runa, x := lots(t)
	for _, changes := range []ask.Changes{{}, {Filters: []string{"grade=Select"}}, {Sort: []string{"-net_kg"},
		Columns: []string{"lot_no", "net_kg", "value"}}, {Filters: []string{"net_kg>300", "keeper~é"}}} {
		laid, err := runa.Reading.Sheet(t.Context(), x, "lots", changes)
		if err != nil {
			t.Fatal(err)
		}
		file, err := runa.Reading.TakeAway(t.Context(), x, reading.Take{Format: "json",
			Views: []reading.Viewed{{View: "lots", Changes: changes}}})
		if err != nil {
			t.Fatal(err)
		}
		var b strings.Builder
		if _, err := file.Write(t.Context(), &b, nil); err != nil {
			t.Fatal(err)
		}
		if !json.Valid([]byte(b.String())) {
			t.Errorf("%+v gives no JSON", changes)
		}
		if told := laid.Told(); told != "" && !strings.Contains(b.String(), told) {
			t.Errorf("%+v: the file does not say %q", changes, told)
		}
	}
	for says, take := range map[string]reading.Take{
		"\"doc\" is not a format": {Format: "doc"},
		"did you mean lots?":      {Format: "csv", Views: []reading.Viewed{{View: "lotz"}}},
		"did you mean value?": {Format: "csv", Views: []reading.Viewed{{View: "lots",
			Changes: ask.Changes{Sort: []string{"valu"}}}}},
		"charts can be taken": {Format: "svg", Views: []reading.Viewed{{View: "lots"}}},
		"separator":           {Format: "csv", Options: render.Options{Table: render.TableForm{Separator: "dot"}}},
	} {
		file, err := runa.Reading.TakeAway(t.Context(), x, take)
		if err == nil {
			_, err = file.Write(t.Context(), &strings.Builder{}, nil)
		}
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v, want %q", take, err, says)
		}
	}
}

// TestWhatAKeptViewHasIsLeftOut says none of the filters, groups, totals and order of a kept view, one by one,
// and all at once.
func TestWhatAKeptViewHasIsLeftOut(t *testing.T) {
	_, runa, x := lots(t)
	if _, err := runa.Reading.KeepView(t.Context(), model.View{Report: "intake-lots", Base: "lots", Name: "Select",
		Changes: ask.Changes{Filters: []string{"grade=Select"}, Group: []string{"district"}, Sort: []string{"-value"},
			Totals: []string{"net_kg:avg"}}}); err != nil {
		t.Fatal(err)
	}
	none := []string{"none"}
	const averaged = "the total of net weight is the average."
	for want, c := range map[string]ask.Changes{
		"Of which grade Select: 460 of 911 rows; grouped by district; " + averaged: {},
		"Grouped by district; " + averaged:                                         {Filters: none},
		"Of which grade Select: 460 of 911 rows; " + averaged:                      {Group: none},
		"": {Filters: none, Group: none, Sort: none, Totals: none},
		"Of which flower Clover: 131 of 911 rows.": {Filters: []string{"none", "flower=Clover"}, Group: none, Sort: none,
			Totals: none},
	} {
		s, err := runa.Reading.Sheet(t.Context(), x, "V-1", c)
		if err != nil {
			t.Fatalf("%+v: %v", c, err)
		}
		if s.Told() != want {
			t.Errorf("%+v is told as\n%q, not\n%q", c, s.Told(), want)
		}
	}
}
