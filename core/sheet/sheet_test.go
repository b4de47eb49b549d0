package sheet

import (
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/core/table"
)

var lots = report.Dataset{ID: "lots", Columns: []report.Column{
	{
		ID:    "lot",
		Label: "Lot",
		Kind:  frame.Text,
		Opens: &report.Opens{
			Report: "history",
			With: []report.Fill{{Parameter: "lot", From: "lot"}, {Parameter: "site", From: "site"},
				{Parameter: "days", From: ":days"}},
		},
	},
	{ID: "site", Label: "Site", Kind: frame.Text},
	{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 1, Unit: "kg", Total: frame.Sum},
	{ID: "pay", Label: "Value", Kind: frame.Money, Scale: 2, Currency: "EUR", Total: frame.Max},
	{ID: "day", Label: "Received", Kind: frame.Date},
	{ID: "at", Label: "Entered", Kind: frame.Timestamp},
	{ID: "ok", Label: "Checked", Kind: frame.Flag},
}}

var view = report.View{
	ID:      "lots",
	Title:   "Lots",
	Of:      "lots",
	Columns: []string{"lot", "kg", "pay"},
	Sort:    []frame.Key{{Column: "kg", Descending: true}},
}

func rows(t *testing.T) *kept.Table {
	t.Helper()
	var records []arrow.RecordBatch
	b := frame.NewBuilder(lots.Schema(), 2, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, r := range []struct {
		lot, site        string
		kg, pay, day, ok int64
	}{{"L1", "Mill", 105, 900, 20700, 1}, {"L2", "Ford", 300, -50, 20701, 0}, {"L3", "Mill", 5, 1234567, 20730, 1},
		{"L4", "Weir", 200, 0, 20731, 1}, {"L5", "Mill", 70, 1, 20761, 0}} {
		b.Text(0, []byte(r.lot))
		b.Text(1, []byte(r.site))
		for col, v := range map[int]int64{2: r.kg, 3: r.pay, 4: r.day, 5: r.day*86_400_000_000 + 3_600_000_000, 6: r.ok} {
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
	f, err := frame.New(lots.Schema(), records...)
	if err != nil {
		t.Fatal(err)
	}
	return kept.Of(f, table.Fresh{})
}

func sheetOfLots(t *testing.T, c ask.Changes) *Sheet {
	t.Helper()
	s, err := Lay(t.Context(), rows(t), &lots, &view, c, setting)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// column joins the cells of one column over all batches of the sheet.
func column(t *testing.T, s *Sheet, col int) string {
	t.Helper()
	var cells []string
	err := s.Each(t.Context(), func(b *frame.Batch) error {
		for r := range b.Rows {
			cells = append(cells, b.Value(col, r).String())
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return strings.Join(cells, " ")
}

var setting = ready.Setting{Calendar: period.Calendar{Today: period.Date(2026, 10, 15)}, Cache: table.Fresh{}}

func TestLay(t *testing.T) {
	cases := []struct {
		name    string
		changes ask.Changes
		lots    string
		rows    int
		sum     string
	}{
		{"as made", ask.Changes{}, "L2 L4 L1 L5 L3", 5, "68.0"},
		{"in kept order", ask.Changes{Sort: []string{}}, "L1 L2 L3 L4 L5", 5, "68.0"},
		{"sorted by a column that is not shown", ask.Changes{Sort: []string{"site", "kg"}}, "L2 L3 L5 L1 L4", 5, "68.0"},
		{"filtered", ask.Changes{Filters: []string{"site=Mill"}}, "L1 L5 L3", 3, "18.0"},
		{"filtered in kept order", ask.Changes{Sort: []string{}, Filters: []string{"site=Mill;Ford", "kg>=10"}}, "L1 L2", 2,
			"40.5"},
		{"filtered to nothing", ask.Changes{Filters: []string{"site=Nowhere"}}, "", 0, ""},
	}
	for _, c := range cases {
		s := sheetOfLots(t, c.changes)
		if got := column(t, s, 0); got != c.lots || s.Rows != c.rows || s.Of != 5 || s.Totals[1].Value.String() != c.sum {
			t.Errorf("%s: got %q, %d of %d rows, sum %s; want %q, %d, %s", c.name, got, s.Rows, s.Of, s.Totals[1].Value, c.lots,
				c.rows, c.sum)
		}
	}
}

func TestLayChoosesColumnsAndLinks(t *testing.T) {
	s := sheetOfLots(t, ask.Changes{Columns: []string{"pay", "lot"}})
	if len(s.Columns) != 2 || s.Columns[0].ID != "pay" || strings.Join(s.Links, " ") != "lot site" {
		t.Fatalf("columns %v, links %v", s.Columns, s.Links)
	}
	lines, err := s.Read(t.Context(), 0, 1)
	if err != nil {
		t.Fatal(err)
	}
	var cells []string
	for _, v := range append(lines[0].Cells, lines[0].Links...) {
		cells = append(cells, v.String())
	}
	if got := strings.Join(cells, " "); got != "-0.50 L2 L2 Ford" {
		t.Errorf("the first row with its link values is %q", got)
	}
	if s := sheetOfLots(t, ask.Changes{Columns: []string{"kg"}}); len(s.Links) != 0 {
		t.Errorf("columns without links want %v", s.Links)
	}
}

func TestLayRefusesUnknownColumns(t *testing.T) {
	for _, c := range []ask.Changes{{Columns: []string{"lott"}}, {Sort: []string{"lott"}}} {
		if _, err := Lay(t.Context(), rows(t), &lots, &view, c, setting); err == nil ||
			!strings.Contains(err.Error(), "did you mean lot?") {
			t.Errorf("%+v: %v", c, err)
		}
	}
}

func TestReadStaysWithinTheSheet(t *testing.T) {
	s := sheetOfLots(t, ask.Changes{})
	for _, c := range []struct{ first, count, want int }{{0, 2, 2}, {4, 10, 1}, {5, 1, 0}, {99, 5, 0}, {-3, 2, 2},
		{0, -1, 0}} {
		if lines, err := s.Read(t.Context(), c.first, c.count); err != nil || len(lines) != c.want {
			t.Errorf("%d rows from %d: got %d, %v; want %d", c.count, c.first, len(lines), err, c.want)
		}
	}
}

func TestFilters(t *testing.T) {
	for text, want := range map[string]string{
		"site=mill":                       "",
		"site=Mill;Weir":                  "L1 L3 L4 L5",
		"site<>Mill":                      "L2 L4",
		"lot~l":                           "L1 L2 L3 L4 L5",
		"lot~3":                           "L3",
		"kg>=20":                          "L2 L4",
		"kg <= 7":                         "L3 L5",
		"kg=10.5":                         "L1",
		"pay<>0;9":                        "L2 L3 L5",
		"day=2026-09":                     "L1 L2",
		"day>=last month":                 "L1 L2 L3 L4 L5",
		"day>=2026-10":                    "L3 L4 L5",
		"day<=2026-09-04":                 "L1",
		"at=2026-09-04":                   "L1",
		"at>=2026-10-04":                  "L3 L4 L5",
		"ok=yes":                          "L1 L3 L4",
		"ok=no":                           "L2 L5",
		"site=":                           "",
		"site<>":                          "L1 L2 L3 L4 L5",
		"pay>=-1":                         "L1 L2 L3 L4 L5",
		"site>=n":                         "L4",
		"lot=L1;L2;missing":               "L1 L2",
		"lot='L1';'L;2'":                  "L1",
		"day<>2026-09-04":                 "L2 L3 L4 L5",
		"at=2026-09-04T01:00:00Z":         "L1",
		"month(day)=2026-09":              "L1 L2",
		"month(day)>=2026-10":             "L3 L4 L5",
		"band(kg, 10, 25)=10 to below 25": "L1 L4",
		"weekday(day)=Friday;Saturday":    "L1 L2",
	} {
		s := sheetOfLots(t, ask.Changes{Sort: []string{}, Filters: []string{text}})
		if got := column(t, s, 0); got != want {
			t.Errorf("%q: got %q, want %q", text, got, want)
		}
	}
}

func TestFiltersRefuse(t *testing.T) {
	for text, says := range map[string]string{
		"site":            "has no test",
		"sit=Mill":        "did you mean site?",
		"kg~3":            "~ searches texts",
		"kg=heavy":        "not a number",
		"kg>=":            "a value is missing",
		"day=2026-02-30":  "February 2026 has 28 days",
		"day<>2026-02":    "does not go with several days",
		"month(dax)=2026": "did you mean day?",
		"sum(kg)=3":       "figure of many rows",
		"ok=perhaps":      "neither yes nor no",
	} {
		if _, err := Lay(t.Context(), rows(t), &lots, &view, ask.Changes{Filters: []string{text}}, setting); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%q: got %v; want an error with %q", text, err, says)
		}
	}
}

func TestText(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	number := func(kind frame.Kind, digits int64, scale int32) frame.Value {
		return frame.Value{Kind: kind, Number: frame.Exact(digits, scale)}
	}
	for want, v := range map[string]frame.Value{
		"1,234,567.89":           number(frame.Money, 123456789, 2),
		"−1,000":                 number(frame.Integer, -1000, 0),
		"999":                    number(frame.Integer, 999, 0),
		"0.005":                  number(frame.Decimal, 5, 3),
		"−0.05":                  number(frame.Money, -5, 2),
		"4 Sep 2026":             number(frame.Date, 20700, 0),
		"25 Oct 2026 02:30 CET":  number(frame.Timestamp, 1792891800_000_000, 0), // an hour that comes twice
		"25 Oct 2026 02:30 CEST": number(frame.Timestamp, 1792888200_000_000, 0),
		"yes":                    number(frame.Flag, 1, 0),
		"":                       {Kind: frame.Date, Null: true},
	} {
		if got := (shown.Form{Zone: berlin}).Text(v); got != want {
			t.Errorf("got %q, want %q", got, want)
		}
	}
}

func TestHeading(t *testing.T) {
	for i, want := range []string{"Lot", "Site", "Weight, kg", "Value, EUR", "Received"} {
		if got := shown.Heading(lots.Columns[i]); got != want {
			t.Errorf("got %q, want %q", got, want)
		}
	}
}
