package sheet

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/kept"
	"mantilla/core/report"
	"mantilla/core/table"
)

// TestALaidSheetIsReadByManyAtOnce holds that readers who share a sheet, as those of one
// result do, read what one alone reads.
func TestALaidSheetIsReadByManyAtOnce(t *testing.T) {
	cache := &remembered{}
	own := setting
	own.Cache = cache
	rows := kept.Of(rowsFrom(t, &intake, 2, deliveries), cache)
	for name, c := range map[string]ask.Changes{
		"rows":     {Sort: []string{"-kg"}, Group: []string{"none"}},
		"groups":   {Group: []string{"region", "district"}, Open: new(3), Sort: []string{"-value"}},
		"limited":  {Group: []string{"district"}, Limit: new(1), Zeros: "omit"},
		"crosstab": {Show: "crosstab", Down: []string{"region"}, Across: []string{"month(received)"}, Cells: []string{"kg"}},
	} {
		v := report.View{Show: report.Table, Open: -1, Rest: "Others"}
		s, err := Lay(t.Context(), rows, &intake, &v, c, own)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		alone := told(t.Context(), s)
		var all sync.WaitGroup
		for range 8 {
			all.Go(func() {
				if got := told(t.Context(), s); got != alone {
					t.Errorf("%s is read as\n%s\nbeside others, and alone as\n%s", name, got, alone)
				}
			})
		}
		all.Wait()
	}
}

// told is all that a reader gets of a sheet: its lines, what is found, its figures opened.
func told(ctx context.Context, s *Sheet) string {
	lines, err := s.Read(ctx, 0, s.Lines)
	out := fmt.Sprintln(lines, err)
	found, err := s.Find(ctx, "marr", 0, false)
	out += fmt.Sprintln(found, err)
	for _, l := range lines {
		if l.Kind != RowLine {
			o, err := s.Open(ctx, Cell{Path: l.Path, Column: "kg"})
			if err != nil {
				return out + err.Error()
			}
			out += fmt.Sprintln(o.Says, o.Before, o.After, o.Rows, o.By)
		}
	}
	return out
}

// TestASheetStopsWithItsReader holds that a sheet which was laid for one reader is not
// bound to that one's context.
func TestASheetStopsWithItsReader(t *testing.T) {
	gone, leave := context.WithCancel(t.Context())
	rows := kept.Of(rowsFrom(t, &intake, 2, deliveries), table.Fresh{})
	v := report.View{Show: report.Table, Open: -1, Rest: "Others"}
	s, err := Lay(gone, rows, &intake, &v, ask.Changes{Group: []string{"none"}}, setting)
	if err != nil {
		t.Fatal(err)
	}
	leave()
	if _, err := s.Read(gone, 0, 2); err == nil {
		t.Error("whoever left goes on reading")
	}
	if lines, err := s.Read(t.Context(), 0, 2); err != nil || len(lines) != 2 {
		t.Errorf("another reader gets %d lines, %v", len(lines), err)
	}
}
