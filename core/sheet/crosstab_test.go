package sheet

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
)

func asFault(err error, f **ask.Fault) bool { return errors.As(err, f) }

// heads writes the columns of a crosstab.
func heads(s *Sheet) string {
	var out []string
	for _, c := range s.Columns {
		out = append(out, strings.Join(append(append([]string{}, c.Heads...), c.ID), "/"))
	}
	return strings.Join(out, " ")
}

func TestCrosstab(t *testing.T) {
	v := report.View{
		Of:     "intake",
		Show:   report.Crosstab,
		Down:   []string{"region", "district"},
		Across: []string{"month(received)"},
		Cells:  []string{"kg"},
		Fill:   true,
	}
	s := sheetOf(t, v, ask.Changes{})
	if got := heads(s); got != "Jul 2026/kg Aug 2026/kg Sep 2026/kg Oct 2026/kg kg" {
		t.Errorf("columns %s", got)
	}
	want := `North (4) | 10.0 |  | 10.0 |  | 20.0
 Hollin (2) | 10.0 |  | 6.0 |  | 16.0
 Marr (2) | 0.0!attention |  | 4.0!attention |  | 4.0!attention
South (2) | 25.0 |  |  | 5.0 | 30.0
 Tarn (1) | 25.0 |  |  |  | 25.0
 (none) (1) |  |  |  | 5.0 | 5.0
`
	if got := printed(t, s); got != want {
		t.Errorf("got\n%swant\n%s", got, want)
	}
	if got := totals(s); got != "35.0 |  | 10.0 | 5.0 | 50.0" {
		t.Errorf("totals %s", got)
	}
}

func TestCrosstabForms(t *testing.T) {
	v := report.View{
		Of:     "intake",
		Show:   report.Crosstab,
		Down:   []string{"region"},
		Across: []string{"quarter(received)", "month(received)"},
		Cells:  []string{"kg", "lots"},
	}
	for name, c := range map[string]struct {
		changes           ask.Changes
		heads, lines, sum string
	}{
		"levels across": {ask.Changes{Cells: []string{"kg"}}, "Q3 2026/Jul 2026/kg Q3 2026/Sep 2026/kg Q3 2026/kg Q4 " +
			"2026/Oct " +
			"2026/kg Q4 2026/kg kg",
			"North (4) | 10.0 | 10.0 | 20.0 |  |  | 20.0\nSouth (2) | 25.0 |  | 25.0 | 5.0 | 5.0 | 30.0\n",
			"35.0 | 10.0 | 45.0 | 5.0 | 5.0 | 50.0"},
		"side by side": {ask.Changes{Across: []string{"quarter(received)"}},
			"Q3 2026/kg Q3 2026/lots Q4 2026/kg Q4 2026/lots kg lots",
			"North (4) | 20.0 | 4 |  |  | 20.0 | 4\nSouth (2) | 25.0 | 1 | 5.0 | 1 | 30.0 | 2\n",
			"45.0 | 5 | 5.0 | 1 | 50.0 | 6"},
		"nothing across": {ask.Changes{Across: []string{"none"}}, "kg lots", "North (4) | 20.0 | 4\nSouth (2) | 30.0 | 2\n",
			"50.0 | 6"},
		"nothing down": {ask.Changes{Down: []string{"none"}, Across: []string{"region"}, Cells: []string{"lots"}},
			"North/lots South/lots lots", "", "4 | 2 | 6"},
		"sorted": {ask.Changes{Across: []string{"none"}, Sort: []string{"-kg"}, Cells: []string{"kg"}}, "kg",
			"South (2) | 30.0\nNorth (4) | 20.0\n", "50.0"},
		"without zeros": {ask.Changes{
			Down:    []string{"district"},
			Across:  []string{"month(received)"},
			Cells:   []string{"kg"},
			Zeros:   "omit",
			Filters: []string{"district=Marr"},
		}, "Sep 2026/kg kg", "Marr (2) | 4.0!attention | 4.0!attention\n", "4.0 | 4.0"},
		"limited": {ask.Changes{
			Across: []string{"region"},
			Down:   []string{"district"},
			Cells:  []string{"kg"},
			Limit:  new(1),
			Sort:   []string{"-kg"},
		}, "North/kg South/kg kg", "Tarn (1) |  | 25.0 | 25.0\nOthers (5) | 20.0 | 5.0 | 25.0\n", "20.0 | 30.0 | 50.0"},
	} {
		s := sheetOf(t, v, c.changes)
		if got := heads(s); got != c.heads {
			t.Errorf("%s: columns %s", name, got)
		}
		if got := printed(t, s); got != c.lines {
			t.Errorf("%s: got\n%swant\n%s", name, got, c.lines)
		}
		if got := totals(s); got != c.sum {
			t.Errorf("%s: totals %s", name, got)
		}
	}
}

func TestStackedCrosstabHasALineForEachMeasure(t *testing.T) {
	v := report.View{
		Of:      "intake",
		Show:    report.Crosstab,
		Down:    []string{"region"},
		Across:  []string{"quarter(received)"},
		Cells:   []string{"kg", "lots"},
		Stacked: true,
	}
	s := sheetOf(t, v, ask.Changes{})
	want := `North (4) | 20.0 |  | 20.0
North (4) | 4 |  | 4
South (2) | 25.0 | 5.0 | 30.0
South (2) | 1 | 1 | 2
Total (6) | 45.0 | 5.0 | 50.0
Total (6) | 5 | 1 | 6
`
	if got := printed(t, s); got != want {
		t.Errorf("got\n%s", got)
	}
}

func TestFillShowsThePeriodsThatWereAskedFor(t *testing.T) {
	day := func(y, m, d int) frame.Value {
		return frame.Value{Kind: frame.Date, Number: frame.Exact(int64(period.Date(y, timeMonth(m), d)), 0)}
	}
	own := setting
	own.Given = map[string]frame.Value{"received.start": day(2026, 5, 1), "received.end": day(2026, 11, 30)}
	v := report.View{
		Of:     "intake",
		Show:   report.Crosstab,
		Open:   -1,
		Down:   []string{"region"},
		Across: []string{"month(received)"},
		Cells:  []string{"kg"},
		Fill:   true,
	}
	s, err := Lay(t.Context(), frameOf(t, &intake, 2, deliveries), &intake, &v, ask.Changes{}, own)
	if err != nil {
		t.Fatal(err)
	}
	if len(s.Columns) != 8 || s.Columns[0].Heads[0] != "May 2026" || s.Columns[6].Heads[0] != "Nov 2026" {
		t.Errorf("columns %s", heads(s))
	}
	o, err := s.Open(t.Context(), Cell{Path: "North", Across: s.Columns[0].Path, Column: "kg"})
	if err != nil || o.Rows != 0 || !o.Agree() {
		t.Errorf("an empty month opens as %+v, %v", o, err)
	}
}

// TestPivotAndUnpivotReturn writes the cells of a random crosstab as rows and
// crosses them again.
func TestPivotAndUnpivotReturn(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 30 {
		list := make([]delivery, 1+r.IntN(80))
		for i := range list {
			list[i] = delivery{"L", fmt.Sprint("r", r.IntN(5)), fmt.Sprint("d", r.IntN(7)), period.Date(2026, 1, 1),
				r.Int64N(1000) - 300, 100}
		}
		v := report.View{
			Of:     "intake",
			Show:   report.Crosstab,
			Open:   -1,
			Down:   []string{"region"},
			Across: []string{"district"},
			Cells:  []string{"kg"},
		}
		first, err := Lay(t.Context(), frameOf(t, &intake, 16, list), &intake, &v, ask.Changes{}, setting)
		if err != nil {
			t.Fatal(err)
		}
		lines, err := first.Read(t.Context(), 0, first.Lines)
		if err != nil {
			t.Fatal(err)
		}
		var unpivoted []delivery
		for _, l := range lines {
			for i, c := range first.Columns[:len(first.Columns)-1] {
				if !l.Cells[i].Null {
					unpivoted = append(unpivoted,
						delivery{"L", l.Key.Text, c.Heads[0], period.Date(2026, 1, 1), l.Cells[i].Int(), 100})
				}
			}
		}
		again, err := Lay(t.Context(), frameOf(t, &intake, 16, unpivoted), &intake, &v, ask.Changes{}, setting)
		if err != nil {
			t.Fatal(err)
		}
		strip := func(s *Sheet) (out string) {
			lines, err := s.Read(t.Context(), 0, s.Lines)
			if err != nil {
				t.Fatal(err)
			}
			for _, l := range lines {
				out += l.Key.Text + fmt.Sprint(l.Cells) + "\n"
			}
			return out + totals(s)
		}
		if a, b := strip(first), strip(again); a != b {
			t.Fatalf("pivoted\n%s\nand again\n%s", a, b)
		}
	}
}

func TestCrosstabOfThousandsOfColumns(t *testing.T) {
	var list []delivery
	for i := range 4000 {
		list = append(list,
			delivery{fmt.Sprint("L", i), []string{"North", "South"}[i%2], "d", period.Date(2026, 1, 1), 10, 100})
	}
	v := report.View{
		Of:     "intake",
		Show:   report.Crosstab,
		Open:   -1,
		Down:   []string{"region"},
		Across: []string{"lot"},
		Cells:  []string{"kg"},
	}
	s, err := Lay(t.Context(), frameOf(t, &intake, 512, list), &intake, &v, ask.Changes{}, setting)
	if err != nil {
		t.Fatal(err)
	}
	lines, err := s.Read(t.Context(), 0, 10)
	if err != nil || len(s.Columns) != 4001 || len(lines) != 2 || lines[0].Cells[4000].String() != "2000.0" {
		t.Errorf("%d columns, %d lines, %v", len(s.Columns), len(lines), err)
	}
}
