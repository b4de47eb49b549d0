package sheet

import (
	"fmt"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/report"
)

func TestFiguresOfAllRows(t *testing.T) {
	v := report.View{Of: "intake", Show: report.Table}
	for _, c := range []struct {
		condition string
		filters   []string
		holds     bool
		fault     string
	}{
		{"sum(kg) > 40", nil, true, ""}, {"sum(kg) > 40", []string{"region=North"}, false, ""},
		{"count(*) = 6", nil, true, ""},
		{"max(kg) >= 25 and min(kg) = 0", nil, true, ""}, {"sum(kg) / count(*) < 8", []string{"region=South"}, false, ""},
		{"avg(kg) > 1", []string{"region=Nowhere"}, false, ""}, // no row, no figure
		{"sum(kg)", nil, false, "is no condition"}, {"sum(kgs) > 1", nil, false, "kgs"},
	} {
		f := frameOf(t, &intake, 2, deliveries)
		got, err := Holds(t.Context(), f, &intake, &v, ask.Changes{Filters: c.filters}, setting, c.condition)
		if got != c.holds || (err == nil) != (c.fault == "") || err != nil && !strings.Contains(err.Error(), c.fault) {
			t.Errorf("%s of %v: %t, %v", c.condition, c.filters, got, err)
		}
	}
}

// TestWhatLiesBelowAGroup holds the number of lines below each group against
// the lines themselves.
func TestWhatLiesBelowAGroup(t *testing.T) {
	for open := range 4 {
		s := sheetOf(t, report.View{Of: "intake", Show: report.Table, Levels: []string{"region", "month(received)"}},
			ask.Changes{Open: &open})
		lines, err := s.Read(t.Context(), 0, s.Lines)
		if err != nil {
			t.Fatal(err)
		}
		for i, l := range lines {
			if l.Kind != GroupLine {
				continue
			}
			below := 0
			for _, next := range lines[i+1:] {
				if next.Kind != RowLine && next.Level <= l.Level {
					break
				}
				below++
			}
			if l.Below != below {
				t.Errorf("unfolded to %d, line %d: %d lie below, not %d", open, i, below, l.Below)
			}
		}
		if s.ShowsRows() != (open == 3) {
			t.Errorf("unfolded to %d it shows rows: %s", open, fmt.Sprint(s.ShowsRows()))
		}
	}
}
