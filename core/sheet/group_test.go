package sheet

import (
	"fmt"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/core/table"
)

// intake is a dataset with computed columns, figures of groups, codes and
// tones.
var intake = report.Dataset{ID: "intake", Key: []string{"lot"}, Columns: []report.Column{
	{ID: "lot", Label: "Lot", Kind: frame.Text},
	{ID: "region", Label: "Region", Kind: frame.Text, Code: "region_code"},
	{ID: "region_code", Label: "Code", Kind: frame.Text},
	{ID: "district", Label: "District", Kind: frame.Text},
	{ID: "received", Label: "Received", Kind: frame.Date},
	{
		ID:    "kg",
		Label: "Net weight",
		Kind:  frame.Decimal,
		Scale: 1,
		Unit:  "kg",
		Total: frame.Sum,
		Tones: []report.Tone{{When: "kg < 5", As: "attention"}},
	},
	{ID: "price", Label: "Price", Kind: frame.Money, Scale: 2, Currency: "EUR"},
	{ID: "value", Label: "Value", Kind: frame.Money, Scale: 2, Currency: "EUR", Formula: "kg * price", Total: frame.Sum},
	{ID: "lots", Label: "Lots", Kind: frame.Integer, Formula: "count(*)", AtGroups: true},
	{
		ID:       "per_kg",
		Label:    "Paid per kg",
		Kind:     frame.Money,
		Scale:    2,
		Currency: "EUR",
		Formula:  "sum(value) / sum(kg)",
		AtGroups: true,
		Tones:    []report.Tone{{When: "per_kg > 6", As: "good"}},
	},
	{ID: "share", Label: "Share", Kind: frame.Decimal, Scale: 1, Unit: "%", Formula: "share(sum(kg))", AtGroups: true},
	{ID: "so_far", Label: "So far", Kind: frame.Decimal, Scale: 1, Formula: "running(sum(kg))", AtGroups: true},
	{ID: "change", Label: "Change", Kind: frame.Decimal, Scale: 1, Formula: "change(sum(kg))", AtGroups: true},
}}

type delivery struct {
	lot, region, district string
	day                   period.Day
	kg, price             int64
}

var deliveries = []delivery{
	{"L1", "North", "Hollin", period.Date(2026, 7, 3), 100, 500},
	{"L2", "North", "Marr", period.Date(2026, 9, 4), 40, 700},
	{"L3", "South", "Tarn", period.Date(2026, 7, 5), 250, 600},
	{"L4", "North", "Hollin", period.Date(2026, 9, 6), 60, 500},
	{"L5", "South", "", period.Date(2026, 10, 7), 50, 650},
	{"L6", "North", "Marr", period.Date(2026, 7, 9), 0, 700},
}

func frameOf(t testing.TB, d *report.Dataset, size int, list []delivery) *kept.Table {
	t.Helper()
	return kept.Of(rowsFrom(t, d, size, list), table.Fresh{})
}

func rowsFrom(t testing.TB, d *report.Dataset, size int, list []delivery) *frame.Frame {
	t.Helper()
	var records []arrow.RecordBatch
	b := frame.NewBuilder(d.Schema(), size, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, x := range list {
		b.Text(0, []byte(x.lot))
		b.Text(1, []byte(x.region))
		b.Text(2, []byte(x.region[:1]))
		if x.district != "" {
			b.Text(3, []byte(x.district))
		}
		for col, v := range map[int]int64{4: int64(x.day), 5: x.kg, 6: x.price} {
			if err := b.Int(col, v); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(d.Schema(), records...)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func sheetOf(t testing.TB, v report.View, c ask.Changes) *Sheet {
	t.Helper()
	if v.Show == "" {
		v.Show = report.Table
	}
	if v.Open == 0 {
		v.Open = -1
	}
	v.Rest = "Others"
	s, err := Lay(t.Context(), frameOf(t, &intake, 2, deliveries), &intake, &v, c, setting)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// printed writes all lines of a sheet: what the line is, then its cells.
func printed(t testing.TB, s *Sheet) string {
	t.Helper()
	lines, err := s.Read(t.Context(), 0, s.Lines)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for _, l := range lines {
		if l.Kind != RowLine {
			fmt.Fprintf(&b, "%s%s (%d)", strings.Repeat(" ", max(l.Level-1, 0)), s.KeyText(l.Key), l.Size)
		} else {
			b.WriteString("-")
		}
		for i, v := range l.Cells {
			b.WriteString(" | " + v.String())
			if l.Tones != nil && l.Tones[i] != "" {
				b.WriteString("!" + l.Tones[i])
			}
		}
		b.WriteString("\n")
	}
	return b.String()
}

func totals(s *Sheet) string {
	var out []string
	for _, t := range s.Totals {
		out = append(out, t.Value.String())
	}
	return strings.Join(out, " | ")
}

func TestGroupedTable(t *testing.T) {
	v := report.View{
		Of:      "intake",
		Levels:  []string{"region", "district"},
		Columns: []string{"lots", "kg", "value", "per_kg"},
		Sort:    []frame.Key{{Column: "value", Descending: true}},
	}
	cases := []struct {
		name    string
		changes ask.Changes
		want    string
	}{
		{"as made", ask.Changes{}, `South (2) | 2 | 30.0 | 182.50 | 6.08!good
 Tarn (1) | 1 | 25.0 | 150.00 | 6.00
 (none) (1) | 1 | 5.0 | 32.50 | 6.50!good
North (4) | 4 | 20.0 | 108.00 | 5.40
 Hollin (2) | 2 | 16.0 | 80.00 | 5.00
 Marr (2) | 2 | 4.0!attention | 28.00 | 7.00!good
`},
		{"folded", ask.Changes{Open: new(1), Fold: []string{"North"}}, `South (2) | 2 | 30.0 | 182.50 | 6.08!good
North (4) | 4 | 20.0 | 108.00 | 5.40
 Hollin (2) | 2 | 16.0 | 80.00 | 5.00
 Marr (2) | 2 | 4.0!attention | 28.00 | 7.00!good
`},
		{"opened to the rows",
			ask.Changes{
				Open:    new(1),
				Fold:    []string{"North", "North/Hollin"},
				Columns: []string{"lot", "kg", "per_kg"},
				Sort:    []string{"kg"},
			},
			`North (4) |  | 20.0 | 5.40
 Marr (2) |  | 4.0!attention | 7.00!good
 Hollin (2) |  | 16.0 | 5.00
- | L4 | 6.0 | 
- | L1 | 10.0 | 
South (2) |  | 30.0 | 6.08!good
`},
		{"by another column",
			ask.Changes{
				Group:   []string{"month(received)"},
				Sort:    []string{"-month(received)"},
				Columns: []string{"kg", "so_far", "change", "share"},
			},
			`Oct 2026 (1) | 5.0 | 50.0 | -5.0 | 10.0
Sep 2026 (2) | 10.0 | 45.0 | -25.0 | 20.0
Jul 2026 (3) | 35.0 | 35.0 |  | 70.0
`},
		{"limited", ask.Changes{Group: []string{"district"}, Limit: new(1), Columns: []string{"lots", "kg", "per_kg"}},
			`Tarn (1) | 1 | 25.0 | 6.00
Others (5) | 5 | 25.0 | 5.62
`},
		{"without zeros",
			ask.Changes{
				Group:   []string{"lot"},
				Zeros:   "omit",
				Columns: []string{"kg"},
				Sort:    []string{"lot"},
				Filters: []string{"district=Marr"},
			}, "L2 (1) | 4.0!attention\n"},
		{"codes", ask.Changes{
			Group:   []string{"none"},
			Names:   "both",
			Columns: []string{"region", "kg"},
			Filters: []string{"kg>=10"},
			Sort:    []string{"kg"},
		}, "- | N | North | 10.0\n- | S | South | 25.0\n"},
		{"own columns", ask.Changes{
			Add:     []string{"Half = kg / 2", "Best = max(price)", "Long = length(lot) > 1"},
			Group:   []string{"region"},
			Columns: []string{"kg"},
			Sort:    []string{"region"},
		},
			"North (4) | 20.0 | 10.0000 | 7.00\nSouth (2) | 30.0 | 15.0000 | 6.50\n"},
	}
	for _, c := range cases {
		s := sheetOf(t, v, c.changes)
		if got := printed(t, s); got != c.want {
			t.Errorf("%s: got\n%swant\n%s", c.name, got, c.want)
		}
	}
	if got := totals(sheetOf(t, v, ask.Changes{})); got != "6 | 50.0 | 290.50 | 5.81" {
		t.Errorf("the totals are %s", got)
	}
}

func TestReadGivesTheSameLinesFromAnywhere(t *testing.T) {
	v := report.View{Of: "intake", Levels: []string{"region", "district"}, Columns: []string{"lot", "kg"}}
	s := sheetOf(t, v, ask.Changes{Open: new(3), Sort: []string{"-kg"}})
	if s.Lines != 12 {
		t.Fatalf("%d lines", s.Lines)
	}
	all, err := s.Read(t.Context(), 0, 100)
	if err != nil {
		t.Fatal(err)
	}
	for first := range s.Lines {
		for count := 1; count < 5; count++ {
			some, err := s.Read(t.Context(), first, count)
			if err != nil || len(some) != min(count, s.Lines-first) {
				t.Fatalf("%d lines from %d: %d, %v", count, first, len(some), err)
			}
			for i := range some {
				if fmt.Sprint(some[i]) != fmt.Sprint(all[first+i]) {
					t.Errorf("line %d is\n%+v\nand\n%+v", first+i, some[i], all[first+i])
				}
			}
		}
	}
}

func TestChangesThatDoNotFit(t *testing.T) {
	v := report.View{Of: "intake", Show: report.Table, Open: -1}
	for part, c := range map[string]ask.Changes{
		"group":  {Group: []string{"month(recieved)"}},
		"add":    {Add: []string{"x = kg +"}},
		"sort":   {Sort: []string{"-kgg"}},
		"open":   {Group: []string{"region"}, Open: new(7)},
		"names":  {Names: "none"},
		"filter": {Filters: []string{"per_kg>=3"}},
		"cells":  {Show: "crosstab", Down: []string{"region"}, Cells: []string{"price"}},
		"down":   {Show: "crosstab", Cells: []string{"kg"}},
		"show":   {Show: "map"},
		"total":  {Totals: []string{"per_kg:avg"}},
	} {
		_, err := Lay(t.Context(), frameOf(t, &intake, 2, deliveries), &intake, &v, c, setting)
		var f *ask.Fault
		if !asFault(err, &f) || f.Part != part {
			t.Errorf("%s: got %v", part, err)
		}
	}
	for add, says := range map[string]string{"kg": "name, = and a formula", "Lots = 1": "",
		"x = kg + lot": "character 4: + does not go", "own x = summ(kg)": "did you mean sum?"} {
		_, err := Lay(t.Context(), frameOf(t, &intake, 2, deliveries), &intake, &v, ask.Changes{Add: []string{add}}, setting)
		if says != "" && (err == nil || !strings.Contains(err.Error(), says)) {
			t.Errorf("%q: got %v", add, err)
		}
	}
}
