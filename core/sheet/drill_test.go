package sheet

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/period"
	"mantilla/core/report"
)

func TestOpenAgreesEverywhere(t *testing.T) {
	columns := []string{"lots", "kg", "value", "per_kg", "share", "so_far", "change"}
	views := map[string]report.View{
		"grouped": {Levels: []string{"region", "month(received)"}, Columns: columns},
		"limited": {Levels: []string{"district"}, Columns: columns, Limit: 1},
		"crosstab": {
			Show:   report.Crosstab,
			Down:   []string{"region", "district"},
			Across: []string{"quarter(received)", "month(received)"},
			Cells:  []string{"kg", "lots", "per_kg"},
			Fill:   true,
		},
		"stacked": {
			Show:    report.Crosstab,
			Down:    []string{"district"},
			Across:  []string{"band(kg, 5, 10.5)"},
			Cells:   []string{"kg", "per_kg"},
			Stacked: true,
		},
		"only down": {Show: report.Crosstab, Down: []string{"district"}, Cells: []string{"kg"}},
		"filtered":  {Levels: []string{"weekday(received)"}, Columns: columns},
		"totals":    {Levels: []string{"region"}, Columns: columns},
	}
	for name, v := range views {
		v.Of, v.Rest = "intake", "Others"
		c := ask.Changes{}
		if name == "totals" {
			c.Totals = []string{"kg:median", "value:max"}
		}
		if name == "filtered" {
			c.Filters = []string{"region=North"}
		}
		s := sheetOf(t, v, c)
		lines, err := s.Read(t.Context(), 0, s.Lines)
		if err != nil {
			t.Fatal(err)
		}
		opened := 0
		for _, l := range append(lines, Line{Kind: GroupLine}) {
			if l.Kind == RowLine {
				continue
			}
			for _, col := range s.Columns {
				o, err := s.Open(t.Context(), Cell{Path: l.Path, Across: col.Path, Column: col.ID})
				if err != nil {
					t.Errorf("%s: %s %s of %s: %v", name, l.Path, col.Path, col.ID, err)
					continue
				}
				if !o.Agree() {
					t.Errorf("%s: %s is %s, its rows by %q come to %s", name, o.Says, o.Before, o.Filters, o.After)
				}
				if s.View.Show == report.Crosstab && !s.of.As.Stacked && l.Cells != nil {
					at := indexOf(s.Columns, col)
					if shown := l.Cells[at]; shown.String() != o.Before.String() && o.Rows > 0 {
						t.Errorf("%s: %s shows %s and opens %s", name, o.Says, shown, o.Before)
					}
				}
				opened++
			}
		}
		if opened < 5 {
			t.Errorf("%s: only %d figures were opened", name, opened)
		}
	}
}

func indexOf(columns []Column, c Column) int {
	for i := range columns {
		if columns[i].Path == c.Path && columns[i].ID == c.ID {
			return i
		}
	}
	return -1
}

func TestOpenSaysWhatAndByWhat(t *testing.T) {
	s := sheetOf(t, report.View{Of: "intake", Levels: []string{"region", "district"}, Columns: []string{"kg"}},
		ask.Changes{})
	o, err := s.Open(t.Context(), Cell{Path: "North", Column: "kg"})
	if err != nil {
		t.Fatal(err)
	}
	if o.Says != "Net weight, kg of North" || strings.Join(o.Filters, " ") != "region=North" || o.Rows != 4 ||
		o.After.String() != "20.0" {
		t.Errorf("opened as %+v", o)
	}
	var by []string
	for _, a := range o.By {
		by = append(by, fmt.Sprint(a.Text, " ", a.Groups))
	}
	if got := strings.Join(by, ", "); got != "lot 4, district 2, month(received) 0" {
		t.Errorf("by %s", got)
	}
	if _, err := s.Open(t.Context(), Cell{Path: "North/Nowhere", Column: "kg"}); err == nil {
		t.Error("a group that is not there was opened")
	}
	if o, err = s.Open(t.Context(), Cell{Path: "South/~"}); err != nil ||
		strings.Join(o.Filters, " ") != "region=South district=" ||
		o.Rows != 1 || !o.Agree() {
		t.Errorf("the group without a district is opened as %+v, %v", o, err)
	}
}

// TestDrillingKeepsTheTotalOfRandomRows opens every figure of random rows.
func TestDrillingKeepsTheTotalOfRandomRows(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	levels := []string{"region", "district", "month(received)", "weekday(received)", "band(kg, -10, 0, 40)", "price",
		"received", "lot"}
	for range 6 {
		list := make([]delivery, 1+r.IntN(25))
		for i := range list {
			list[i] = delivery{fmt.Sprint("L", r.IntN(9)), []string{"North", "a;b", " it's "}[r.IntN(3)],
				[]string{"", "Hollin", "Marr / Tarn", "~", "x=y"}[r.IntN(5)],
				period.Date(2026, 1, 1) + period.Day(r.IntN(400)), r.Int64N(1000) - 300, r.Int64N(3) * 100}
		}
		v := report.View{
			Of:      "intake",
			Show:    report.Table,
			Open:    2,
			Levels:  []string{levels[r.IntN(4)], levels[4+r.IntN(4)]},
			Columns: []string{"kg", "per_kg", "lots"},
			Rest:    "Others",
			Limit:   r.IntN(4),
		}
		if r.IntN(2) == 0 {
			v.Show, v.Down, v.Across, v.Cells = report.Crosstab, v.Levels[:1], v.Levels[1:], v.Columns
		}
		s, err := Lay(t.Context(), frameOf(t, &intake, 4+r.IntN(20), list), &intake, &v, ask.Changes{}, setting)
		if err != nil {
			t.Fatal(err)
		}
		lines, err := s.Read(t.Context(), 0, s.Lines)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range lines {
			for i, col := range s.Columns {
				if l.Kind == RowLine {
					continue
				}
				o, err := s.Open(t.Context(), Cell{Path: l.Path, Across: col.Path, Column: col.ID})
				if err != nil {
					t.Fatalf("%v: %s %s: %v", v.Levels, l.Path, col.Path, err)
				}
				if !o.Agree() || l.Cells[i].String() != o.Before.String() && o.Rows > 0 {
					t.Fatalf("%v %s: %s shows %s, is %s, its rows by %q come to %s", v.Levels, v.Show, o.Says, l.Cells[i], o.Before,
						o.Filters, o.After)
				}
			}
		}
	}
}
