package reading_test

import (
	"bytes"
	"errors"
	"regexp"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/sheet"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/keeping"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/model"
)

// written is a view of a result as somebody takes it away in CSV, with what was done to it.
func written(t *testing.T, a *library.Access, number int64, view string, c ask.Changes) string {
	t.Helper()
	x, err := a.Reading.Result(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	file, err := a.Reading.TakeAway(t.Context(), x, reading.Take{Format: "json",
		Views: []reading.Viewed{{View: view, Changes: c}}})
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if _, err := file.Write(t.Context(), &out, nil); err != nil {
		t.Fatal(err)
	}
	return out.String()
}

// TestWhatIsPersonalIsHidden has a list of people read by who sees them clear and who does not: as it
// is, filtered, searched, compared, and as a proof.
func TestWhatIsPersonalIsHidden(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.Open(t, demotest.Loaded(t, now.Time()), now)
	runa, lila := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "lila")
	rhea := func() *library.Access { return librarytest.Person(t, l, "rhea") }
	values := map[string]string{"shown": "no; name; role; born"}
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "staff-list", Typed: values})
	clear := written(t, runa, run.Result, "staff", ask.Changes{})
	name := regexp.MustCompile(`"P-157","([^"]+)"`).FindStringSubmatch(clear)[1]
	hidden := written(t, rhea(), run.Result, "staff", ask.Changes{})
	alias := regexp.MustCompile(`alias-[a-z2-7]{8}`)
	if strings.Contains(clear, "pseudonyms") || alias.MatchString(clear) {
		t.Errorf("runa is shown %.300s", clear)
	}
	if strings.Contains(hidden, name) || !alias.MatchString(hidden) ||
		!strings.Contains(hidden, "Name by pseudonyms; born hidden.") {
		t.Errorf("rhea is shown %s in %.600s", name, hidden)
	}
	if strings.Contains(hidden, `"1980-08-15"`) || !strings.Contains(clear, `"1980-08-15"`) {
		t.Error("days of birth are shown to rhea, or not to runa")
	}
	rows := func(a *library.Access, c ask.Changes) int {
		x, err := a.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		s, err := a.Reading.Sheet(t.Context(), x, "staff", c)
		if err != nil {
			t.Fatal(err)
		}
		return s.Rows
	}
	for _, filter := range []string{"name=" + name, "born<2000-01-01", "upper(name)='" + strings.ToUpper(name) + "'"} {
		with := ask.Changes{Filters: []string{filter}}
		if mine, hers := rows(runa, with), rows(rhea(), with); mine == 0 || hers != 0 {
			t.Errorf("%s finds %d rows for runa and %d for rhea", filter, mine, hers)
		}
	}
	again := librarytest.RunWell(t, runa, capture.Ask{Report: "staff-list", Typed: map[string]string{
		"shown": "no; name; role; born", "as_of": "2026-06-01"}})
	made, err := lila.Keeping.Compare(t.Context(), keeping.Comparison{Before: keeping.Side{Result: again.Result},
		After: keeping.Side{Result: run.Result}})
	if err != nil {
		t.Fatal(err)
	}
	compared := librarytest.Ended(t, lila, made).Result
	if theirs := written(t, lila, compared, "rows.rows", ask.Changes{}); !strings.Contains(theirs, name) {
		t.Errorf("%s is not in the comparison", name)
	} else if hers := written(t, rhea(), compared, "rows.rows", ask.Changes{}); strings.Contains(hers, name) {
		t.Errorf("the comparison shows %s to rhea", name)
	}
	x, err := rhea().Reading.Result(t.Context(), run.Result)
	if err != nil {
		t.Fatal(err)
	}
	var forbidden *model.Forbidden
	if err := rhea().Reading.Prove(t.Context(), x, nil, new(bytes.Buffer)); !errors.As(err, &forbidden) {
		t.Errorf("rhea gets a proof of all rows: %v", err)
	}
	p := rhea().Person()
	p.Given = []string{"personal"}
	if err := librarytest.Person(t, l, "adda").PutPerson(t.Context(), p, ""); err != nil {
		t.Fatal(err)
	}
	if got := written(t, rhea(), run.Result, "staff", ask.Changes{}); !strings.Contains(got, name) {
		t.Error("rhea was given the right to see what is personal, and does not")
	}
}

// TestHiddenFiguresOpenIntoTheirRows opens a figure of somebody who is hidden from whoever opens it: by the
// pseudonym it finds the rows that it finds by the name.
func TestHiddenFiguresOpenIntoTheirRows(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.Open(t, demotest.Loaded(t, now.Time()), now)
	runa, rhea := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "rhea")
	run := librarytest.RunWell(t, runa, capture.Ask{Report: "timesheet-batch"})
	opened := func(a *library.Access) (rows int, after string) {
		x, err := a.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		row := 0
		o, err := a.Reading.OpenFigure(t.Context(), x, "sheets", ask.Changes{Sort: []string{"hours"}},
			sheet.Cell{Row: &row, Column: "hours"})
		if err != nil {
			t.Fatal(err)
		}
		s, err := a.Reading.Sheet(t.Context(), x, o.View, ask.Changes{Filters: o.Filters})
		if err != nil {
			t.Fatal(err)
		}
		return s.Rows, o.Says
	}
	clear, clearly := opened(runa)
	hidden, so := opened(rhea)
	if clear == 0 || hidden != clear || !strings.Contains(so, "alias-") || strings.Contains(clearly, "alias-") {
		t.Errorf("runa opens %d rows (%s), rhea %d (%s)", clear, clearly, hidden, so)
	}
}
