package sheet

import (
	"slices"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/report"
)

// summed is the intake as a source might have grouped it, with the rows elsewhere.
func summed(t *testing.T, v report.View, c ask.Changes, by ...string) *Sheet {
	t.Helper()
	set := intake
	set.Behind = &report.Behind{Of: "lots", By: by}
	v.Of, v.Show, v.Open, v.Rest = "intake", report.Table, -1, "Others"
	s, err := Lay(t.Context(), frameOf(t, &set, 2, deliveries), &set, &v, c, setting)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// TestRowsBehindAreSelected tells what selects the rows behind figures of one line, of
// a group and of all lines.
func TestRowsBehindAreSelected(t *testing.T) {
	byDistrict := report.View{Levels: []string{"district"}}
	row := 2
	for _, c := range []struct {
		name     string
		by       []string
		filters  []string
		at       Cell
		want     string
		compared bool
		refused  string
	}{
		{"all", []string{"lot"}, nil, Cell{Column: "kg"}, "", true, ""},
		{"a group", []string{"district"}, nil, Cell{Path: "Hollin", Column: "kg"}, "district=Hollin", true, ""},
		{"a group told by lines", []string{"lot"}, []string{"district=Tarn"}, Cell{Column: "kg"}, "lot=", true, ""},
		{"a figure that does not add up", []string{"district"}, nil, Cell{Path: "Hollin", Column: "per_kg"},
			"district=Hollin", false, ""},
		{"one row", []string{"lot", "district"}, nil, Cell{Row: &row, Column: "kg"}, "lot=", true, ""},
		{"a group that is not told", []string{"region"}, []string{"district=Hollin"}, Cell{Column: "kg"}, "", false,
			"open the lines one by one"},
		{"no such group", []string{"district"}, nil, Cell{Path: "Nowhere", Column: "kg"}, "", false, "Nowhere"},
		{"no such column", []string{"district"}, nil, Cell{Row: &row, Column: "weight"}, "", false, "no column"},
	} {
		s := summed(t, byDistrict, ask.Changes{Filters: c.filters}, c.by...)
		b, err := s.Behind(t.Context(), c.at)
		if c.refused != "" {
			if err == nil || !strings.Contains(err.Error(), c.refused) {
				t.Errorf("%s: %+v, %v; want … %s", c.name, b, err, c.refused)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		got := strings.Join(b.Filters, " ")
		if !strings.HasPrefix(got, c.want) || (c.want == "") != (got == "") || b.Compared != c.compared {
			t.Errorf("%s: selected by %q, compared %v", c.name, got, b.Compared)
		}
		if alone, err := s.with(s.of.Where(), b.Filters); err != nil {
			t.Errorf("%s: its filters are not read: %v", c.name, err)
		} else if n, err := s.of.Rows.Count(t.Context(), alone); err != nil || n == 0 {
			t.Errorf("%s: %d rows, %v", c.name, n, err)
		}
	}
}

// TestRowsBehindARowAreSaid names the row by what its rows are found by.
func TestRowsBehindARowAreSaid(t *testing.T) {
	s := summed(t, report.View{}, ask.Changes{}, "district", "lot")
	lines, err := s.Read(t.Context(), 0, 1)
	if err != nil {
		t.Fatal(err)
	}
	row := int(lines[0].Row)
	b, err := s.Behind(t.Context(), Cell{Row: &row, Column: "kg"})
	if err != nil {
		t.Fatal(err)
	}
	at := slices.IndexFunc(s.Columns, func(c Column) bool { return c.ID == "kg" })
	if b.Before.String() != lines[0].Cells[at].String() || !strings.HasPrefix(b.Says, "Net weight, kg of ") {
		t.Errorf("%q is %s, the row has %s", b.Says, b.Before, lines[0].Cells[at])
	}
	for _, n := range []int{-1, 1 << 20} {
		if _, err := s.Behind(t.Context(), Cell{Row: &n, Column: "kg"}); err == nil {
			t.Errorf("row %d is opened", n)
		}
	}
}
