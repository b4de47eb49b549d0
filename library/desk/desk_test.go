package desk_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// morning is a day of the demo.
var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, librarytest.Berlin)

// month keeps a run control of the lots of a month and returns the library.
func month(t *testing.T) (l *library.Library, runa *library.Access) {
	t.Helper()
	l = librarytest.WithPeople(t, librarytest.At(morning))
	runa = librarytest.Person(t, l, "runa")
	c := controls.Control{Control: model.Control{ID: "month", Title: "Month of the lots", Shared: "everyone"},
		Outputs: []string{"kept"}, Steps: []controls.Step{{Report: "intake-lots",
			Typed: map[string]string{"received": "last month"}}}}
	if _, err := runa.Controls.PutControl(t.Context(), c); err != nil {
		t.Fatal(err)
	}
	return l, runa
}

// run runs the control over a month, and waits.
func run(t *testing.T, a *library.Access, received string) {
	t.Helper()
	runs, err := a.Controls.RunControl(t.Context(), "month", map[string]string{"received": received}, false)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range runs[0].Runs {
		librarytest.Ended(t, a, r)
	}
}

var value = desk.Tile{Control: "month", Step: 1, View: "lots", Show: "figure", Measure: "value"}

func TestTilesThatShowNothingAreRefused(t *testing.T) {
	_, runa := month(t)
	for says, change := range map[string]func(*desk.Tile){
		"there is no run control":                 func(x *desk.Tile) { x.Control = "moth" },
		"has the reports 1 to 1":                  func(x *desk.Tile) { x.Step = 2 },
		"the reports 1 to":                        func(x *desk.Tile) { x.Step = 0 },
		"there is no view \"lotz\"; did you mean": func(x *desk.Tile) { x.View = "lotz" },
		"use figure, chart or table":              func(x *desk.Tile) { x.Show = "pie" },
		"1 to 4 quarters of the desk across":      func(x *desk.Tile) { x.Width = 5 },
		"a figure needs a measure":                func(x *desk.Tile) { x.Measure = "" },
		"did you mean value?":                     func(x *desk.Tile) { x.Measure = "sum(valu)" },
		"the measure \"keeper\"":                  func(x *desk.Tile) { x.Measure = "keeper" },
	} {
		tile := value
		change(&tile)
		_, err := runa.Desk.PutDesk(t.Context(), desk.Desk{Kind: "person", Owner: "runa", Tiles: []desk.Tile{value, tile}})
		var refused *model.Refused
		if !errors.As(err, &refused) || refused.Part != "tiles.2" || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v, want %q", tile, err, says)
		}
	}
	many := make([]desk.Tile, 41)
	for i := range many {
		many[i] = value
	}
	if _, err := runa.Desk.PutDesk(t.Context(), desk.Desk{Kind: "person", Owner: "runa", Tiles: many}); err == nil ||
		!strings.Contains(err.Error(), "at most 40") {
		t.Errorf("41 tiles: %v", err)
	}
	if all, err := runa.Desk.Desks(t.Context()); err != nil || len(all[0].Tiles) != 0 {
		t.Errorf("a refused desk is kept: %+v, %v", all, err)
	}
}

func TestATileShowsTheLatestResultAndItsChange(t *testing.T) {
	l, runa := month(t)
	dora := librarytest.Person(t, l, "dora")
	if s, err := runa.Desk.Show(t.Context(), value); err != nil || s.Result != nil {
		t.Fatalf("before any run: %+v, %v", s, err)
	}
	run(t, runa, "2026-07")
	first, err := runa.Desk.Show(t.Context(), value)
	if err != nil || first.Result == nil || first.Before != nil || first.Label != "Value, EUR" || first.Figure.Null {
		t.Fatalf("after one run: %+v, %v", first, err)
	}
	run(t, runa, "2026-08")
	s, err := runa.Desk.Show(t.Context(), value)
	if err != nil {
		t.Fatal(err)
	}
	was, is := s.Was.Number.Digits.BigInt().Int64(), s.Figure.Number.Digits.BigInt().Int64()
	if s.Was.String() != first.Figure.String() || s.Change.Number.Digits.BigInt().Int64() != is-was {
		t.Errorf("it was %s, is %s, and changed by %s", s.Was, s.Figure, s.Change)
	}
	if want := fmt.Sprintf("%.1f", 100*float64(is-was)/float64(was)); s.Percent.String() != want {
		t.Errorf("in percent %s, want %s", s.Percent, want)
	}
	if !strings.Contains(s.Sentence, "August 2026") {
		t.Errorf("it says %q", s.Sentence)
	}
	ofAll := value
	ofAll.Measure = "count(*)"
	if s, err := runa.Desk.Show(t.Context(), ofAll); err != nil ||
		s.Figure.Number.Digits.BigInt().Int64() != s.Result.Rows {
		t.Errorf("a formula of all rows gives %s of %d, %v", s.Figure, s.Result.Rows, err)
	}
	table := desk.Tile{Control: "month", Step: 1, View: "lots", Show: "table"}
	if s, err := runa.Desk.Show(t.Context(), table); err != nil || !strings.Contains(s.Sentence, "August 2026") {
		t.Errorf("a table says %q, %v", s.Sentence, err)
	}
	// A result that is placed stays, as it was laid out, whatever the run control gives later.
	stays := desk.Tile{Result: first.Result.Number, View: "lots", Show: "table",
		Changes: ask.Changes{Group: []string{"district"}}}
	if s, err := runa.Desk.Show(t.Context(), stays); err != nil || s.Result.Number != first.Result.Number ||
		!strings.Contains(s.Sentence, "Grouped by district.") {
		t.Errorf("a result that stays says %q, %v", s.Sentence, err)
	}
	stays.Result = 99
	if _, err := runa.Desk.Show(t.Context(), stays); err == nil || !strings.Contains(err.Error(), "R-000099") {
		t.Errorf("a result that is not there: %v", err)
	}
	// Whose units are narrower sees no result that was made under wider ones.
	if s, err := dora.Desk.Show(t.Context(), value); err != nil || s.Result != nil {
		t.Errorf("dora sees %+v, %v", s.Result, err)
	}
	run(t, dora, "2026-08")
	hers, err := dora.Desk.Show(t.Context(), value)
	if err != nil || hers.Result == nil || hers.Result.Rows >= s.Result.Rows {
		t.Errorf("her own is %+v, %v", hers.Result, err)
	}
}

func TestADeskIsItsOwnersOrItsGroups(t *testing.T) {
	l, runa := month(t)
	dora, aron := librarytest.Person(t, l, "dora"), librarytest.Person(t, l, "aron")
	shared := desk.Desk{Kind: "group", Owner: "field", Tiles: []desk.Tile{value}}
	kept, err := runa.Desk.PutDesk(t.Context(), shared)
	if err != nil || kept.Tiles[0].ID == "" {
		t.Fatalf("%+v, %v", kept, err)
	}
	if _, err := dora.Desk.PutDesk(t.Context(), shared); !errors.Is(err, model.ErrStale) {
		t.Errorf("another member who had not seen it: %v", err)
	}
	var forbidden *model.Forbidden
	for _, d := range []desk.Desk{shared, {Kind: "person", Owner: "runa"}, {Kind: "person", Owner: "nobody"},
		{Kind: "else", Owner: "aron"}} {
		if _, err := aron.Desk.PutDesk(t.Context(), d); !errors.As(err, &forbidden) {
			t.Errorf("who is not in the group, %+v: %v", d, err)
		}
	}
	all, err := dora.Desk.Desks(t.Context())
	if err != nil || len(all) < 2 || all[0].Owner != "dora" || len(all[0].Tiles) != 0 {
		t.Fatalf("dora's are %+v, %v", all, err)
	}
	field := all[len(all)-1]
	if field.Owner != "field" || len(field.Tiles) != 1 {
		t.Fatalf("the group's is %+v", field)
	}
	field.Tiles = nil
	if _, err := dora.Desk.PutDesk(t.Context(), field); err != nil {
		t.Fatal(err)
	}
	thrown, err := dora.Trash.List(t.Context())
	if err != nil || len(thrown) != 1 || thrown[0].ID != "T-1" || thrown[0].Name != "Month of the lots" {
		t.Fatalf("the trash has %+v, %v", thrown, err)
	}
	if err := aron.Desk.ReturnTile(t.Context(), 1); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("brought back by who is not in the group: %v", err)
	}
	if err := runa.Desk.ReturnTile(t.Context(), 1); err != nil {
		t.Fatal(err)
	}
	if err := runa.Desk.ReturnTile(t.Context(), 1); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("brought back twice: %v", err)
	}
	all, err = dora.Desk.Desks(t.Context())
	if field = all[len(all)-1]; err != nil || len(field.Tiles) != 1 || field.Tiles[0].ID != kept.Tiles[0].ID {
		t.Errorf("it came back as %+v, %v", field, err)
	}
}
