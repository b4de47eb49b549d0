package meaning_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/meaning"
	"mantilla/library/reading"
	"mantilla/model"
)

func open(t *testing.T) *library.Library {
	return librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
}

func columnOf(t *testing.T, o meaning.Origin, dataset, id string) meaning.Column {
	t.Helper()
	for _, c := range o.Columns {
		if c.Dataset == dataset && c.ID == id {
			return c
		}
	}
	t.Fatalf("there is no column %s of %s", id, dataset)
	return meaning.Column{}
}

// From a column the formula, the columns in it, the SQL and the tables are found.
func TestWhereFiguresComeFrom(t *testing.T) {
	runa := librarytest.SignIn(t, open(t), "runa")
	run := librarytest.RunWell(t, runa,
		capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}})
	o, err := runa.Meaning.OfResult(t.Context(), run.Result)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []struct{ column, sql, tables string }{
		{"net_kg", "lot.net_g", "lot"},
		{"district", "district.name", "district"},
		{"keeper", "keeper.name", "keeper"},
		{"grade", "grade.label", "grade"},
	} {
		c := columnOf(t, o, "lots", want.column)
		if c.SQL != want.sql || !slices.Contains(c.Tables, want.tables) {
			t.Errorf("%s is read by %q from %v", want.column, c.SQL, c.Tables)
		}
	}
	st := o.Statements["lots"]
	if !strings.Contains(st.Text, "lot.received_on between") || len(st.Args) != 2 {
		t.Errorf("the statement is %s with %v", st.Text, st.Args)
	}
	o, err = runa.Meaning.OfReport(t.Context(), "lab-measurements")
	if err != nil {
		t.Fatal(err)
	}
	place := columnOf(t, o, "measurements", "place")
	if place.Formula != "100 * (value - low) / (high - low)" ||
		!slices.Equal(place.MadeOf, []string{"low", "high", "value"}) {
		t.Errorf("place is computed by %q of %v", place.Formula, place.MadeOf)
	}
	if !slices.Equal(place.Tables, []string{"measure_limit", "measurement"}) {
		t.Errorf("place comes from %v", place.Tables)
	}
	if len(o.Statements) > 0 {
		t.Error("a report that was not run has statements with values")
	}
}

// A term is found by its other words, says of which columns it is, and cannot go while a
// column points to it.
func TestGlossary(t *testing.T) {
	l := open(t)
	aron, lila, rhea := librarytest.SignIn(t, l, "aron"), librarytest.SignIn(t, l, "lila"),
		librarytest.SignIn(t, l, "rhea")
	ctx := t.Context()
	entries, _, err := rhea.Catalog.Catalog(ctx, "refractometer", "")
	if err != nil || len(entries) != 1 || entries[0].ID != "intake-lots" ||
		entries[0].Found != "by what its column Moisture means" {
		t.Errorf("a word of a meaning finds %v, %v", entries, err)
	}
	found := rhea.Meaning.Glossary("water content")
	if len(found) != 1 || found[0].ID != "moisture" || len(found[0].By) != 1 {
		t.Errorf("another word for moisture finds %+v", found)
	}
	if _, err := rhea.Meaning.PutTerm(ctx, model.Term{ID: "x", Name: "X", Meaning: "x"}); err == nil {
		t.Error("a reader changed the glossary")
	}
	refused := map[string]model.Term{
		"another term has the word": {ID: "wet", Name: "Water", Meaning: "x"},
		"no id":                     {ID: "Wet", Name: "Wet", Meaning: "x"},
		"no meaning":                {ID: "wet", Name: "Wet", Meaning: " "},
		"an owner who is not here":  {ID: "wet", Name: "Wet", Meaning: "x", Owner: "nobody"},
	}
	for what, term := range refused {
		var why *model.Refused
		if _, err := aron.Meaning.PutTerm(ctx, term); !errors.As(err, &why) {
			t.Errorf("a term with %s is answered by %v", what, err)
		}
	}
	moist := found[0].Term
	moist.Meaning = "Share of water."
	kept, err := aron.Meaning.PutTerm(ctx, moist)
	if err != nil || kept.Revision != moist.Revision+1 {
		t.Fatal(kept, err)
	}
	if _, err := aron.Meaning.PutTerm(ctx, moist); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change is answered by %v", err)
	}
	if entries, _, _ = rhea.Catalog.Catalog(ctx, "refractometer", ""); len(entries) != 0 {
		t.Errorf("the catalog still finds %v by what the term no longer says", entries)
	}
	if err := lila.Meaning.DeleteTerm(ctx, "moisture"); err == nil ||
		!strings.Contains(err.Error(), "intake-lots") {
		t.Errorf("deleting a term in use is answered by %v", err)
	}
}

// A column that points to no term is warned of, with the nearest one.
func TestAColumnThatPointsToNothing(t *testing.T) {
	aron := librarytest.SignIn(t, open(t), "aron")
	d, err := aron.Catalog.Report("intake-lots")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(d.Text, "means: moisture", "means: moistures", 1)
	changed, faults := definition.Parse([]byte(text),
		definition.Defaults{Currency: "EUR", Shared: aron.Catalog.SharedParameters()})
	if faults != nil {
		t.Fatal(faults)
	}
	warnings, err := aron.Catalog.Warnings(t.Context(), changed)
	want := "lots, column moisture means moistures, which the glossary does not have; did you mean moisture?"
	if err != nil || !slices.Contains(warnings, want) {
		t.Errorf("it is warned: %v, %v", warnings, err)
	}
}

// The words of a column go with what is taken away.
func TestMeaningsAreTakenAway(t *testing.T) {
	l := open(t)
	runa := librarytest.SignIn(t, l, "runa")
	run := librarytest.RunWell(t, runa,
		capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-09-01"}})
	r, err := runa.Reading.Result(t.Context(), run.Result)
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	file, err := runa.Reading.TakeAway(t.Context(), r, reading.Take{Format: "html"})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := file.Write(t.Context(), &out, nil); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"Column Moisture, %", "Share of water by the refractometer", "Column Net weight, kg"} {
		if !strings.Contains(out.String(), want) {
			t.Errorf("the page of how it was made lacks %q", want)
		}
	}
	if strings.Contains(out.String(), "Column Entered") {
		t.Error("a column that is not shown is told")
	}
}
