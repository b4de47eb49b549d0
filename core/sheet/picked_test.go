package sheet

import (
	"fmt"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/report"
)

// pickedOf writes what a rectangle comes to: column by column, then its lines.
func pickedOf(t *testing.T, s *Sheet, r Rect) string {
	t.Helper()
	p, err := s.Pick(t.Context(), r)
	if err != nil {
		return err.Error()
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%d %v", p.Cells, p.Mixed)
	for _, c := range p.Columns {
		fmt.Fprintf(&b, "; %s %d: %s %s %s %s", c.Column.ID, c.Filled, c.Sum, c.Average, c.Least, c.Most)
	}
	fmt.Fprintf(&b, "; %s", strings.Join(p.Heads, "|"))
	for _, line := range p.Grid {
		texts := []string{}
		for _, v := range line {
			texts = append(texts, v.String())
		}
		fmt.Fprintf(&b, "; %s", strings.Join(texts, "|"))
	}
	return b.String()
}

// TestPickedCellsAreAddedUp adds up exactly what was picked of rows, groups and crosstabs: numbers alone,
// and tells where groups stand beside what is in them.
func TestPickedCellsAreAddedUp(t *testing.T) {
	rows := ask.Changes{Columns: []string{"lot", "received", "kg"}, Sort: []string{"lot"}}
	for name, c := range map[string]struct {
		changes ask.Changes
		rect    Rect
		want    string
	}{
		"rows": {rows, Rect{First: 1, Count: 3, Left: 1, Width: 2},
			"6 false; received 3:   2026-07-05 2026-09-06; kg 3: 35.0 11.67 4.0 25.0; Received|Net weight, kg; " +
				"2026-09-04|4.0; 2026-07-05|25.0; 2026-09-06|6.0"},
		"texts": {rows, Rect{Count: 2, Width: 1}, "2 false; lot 2:    ; Lot; L1; L2"},
		"beyond": {rows, Rect{First: 5, Count: 99, Left: 2, Width: 9},
			"1 false; kg 1: 0.0 0.00 0.0 0.0; Net weight, kg; 0.0"},
		"nothing": {rows, Rect{First: 99, Count: 5, Left: 9, Width: 9}, "0 false; "},
		"groups": {ask.Changes{Columns: []string{"kg"}, Group: []string{"region", "district"}, Open: new(2)},
			Rect{Count: 3, Width: 1},
			"3 true; kg 3: 40.0 13.33 4.0 20.0; Region, District|Net weight, kg; North|20.0"},
		"crosstab": {ask.Changes{Show: "crosstab", Down: []string{"region"}, Across: []string{"month(received)"},
			Cells: []string{"kg"}}, Rect{Count: 2, Left: 0, Width: 1}, "2 false; kg 2: 35.0 17.50 10.0 25.0; Region|Jul 2026"},
	} {
		s := sheetOf(t, report.View{}, c.changes)
		if got := pickedOf(t, s, c.rect); !strings.HasPrefix(got, c.want) {
			t.Errorf("%s:\n%s\nwant\n%s", name, got, c.want)
		}
	}
}
