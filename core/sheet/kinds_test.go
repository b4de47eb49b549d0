package sheet

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/core/table"
)

// remembered keeps everything, as the service's cache does.
type remembered struct{ sync.Map }

func (r *remembered) Get(key string, produce func() (table.Sized, error)) (table.Sized, error) {
	if v, ok := r.Load(key); ok {
		return v.(table.Sized), nil
	}
	v, err := produce()
	if err == nil {
		r.Store(key, v)
	}
	return v, err
}

// Whatever makes a figure is changed under the same names, over one cache.
func TestWhatIsCachedIsKeyedByAllThatMakesIt(t *testing.T) {
	remember := &remembered{}
	view := report.View{Show: report.Table, Open: -1, Rest: "Others"}
	draw := func(d *report.Dataset, c ask.Changes, change func(*ready.Setting)) string {
		t.Helper()
		own := setting
		own.Given = map[string]frame.Value{"limit": {Kind: frame.Integer, Number: frame.Exact(5, 0)}}
		if change != nil {
			change(&own)
		}
		out := ""
		for _, cache := range []table.Cache{remember, table.Fresh{}} {
			own.Cache = cache
			s, err := Lay(t.Context(), kept.Of(rowsFrom(t, d, 2, deliveries), cache), d, &view, c, own)
			if err != nil {
				t.Fatal(err)
			}
			drawn := printed(t, s) + totals(s)
			if out != "" && out != drawn {
				t.Errorf("%+v\nfrom the cache:\n%s\nmade anew:\n%s", c, out, drawn)
			}
			out = drawn
		}
		return out
	}
	own := func(formula string) ask.Changes {
		return ask.Changes{Add: []string{"Margin = " + formula}, Columns: []string{"own_margin"}, Group: []string{"region"}}
	}
	for _, formula := range []string{"sum(value)", "max(value)", "value", "value * 2", "sum(kg)", "avg(kg)",
		"share(sum(kg))", "share(sum(kg), parent)", "sum(kg) * limit"} {
		draw(&intake, own(formula), nil)
	}
	a := draw(&intake, own("sum(kg) * limit"), nil)
	b := draw(&intake, own("sum(kg) * limit"), func(s *ready.Setting) {
		s.Given = map[string]frame.Value{"limit": {Kind: frame.Integer, Number: frame.Exact(7, 0)}}
	})
	if a == b {
		t.Error("another limit gave the same figures")
	}
	month := ask.Changes{Filters: []string{"received=last month"}, Columns: []string{"kg"}}
	a = draw(&intake, month, nil)
	b = draw(&intake, month, func(s *ready.Setting) { s.Calendar.Today = period.Date(2026, 8, 15) })
	if a == b {
		t.Error("another day gave the same rows")
	}
	changed := intake
	changed.Columns = append([]report.Column{}, intake.Columns...)
	changed.Column("kg").Total = frame.Max
	for _, d := range []*report.Dataset{&intake, &changed} {
		draw(d, ask.Changes{Group: []string{"region"}, Columns: []string{"kg"}}, nil)
	}
}

func TestSharesOfWhatIsShownAddUpTo100(t *testing.T) {
	limit := 1
	s := sheetOf(t, report.View{},
		ask.Changes{
			Group:   []string{"district"},
			Columns: []string{"kg", "share", "so_far", "change"},
			Sort:    []string{"-kg"},
			Limit:   &limit,
		})
	want := "Tarn (1) | 25.0 | 50.0 | 45.0 | 21.0\nOthers (5) | 25.0 | 50.0 |  | \n"
	if got := printed(t, s); got != want {
		t.Errorf("got\n%swant\n%s", got, want)
	}
	s = sheetOf(t, report.View{Show: report.Crosstab},
		ask.Changes{
			Down:   []string{"district"},
			Across: []string{"region"},
			Cells:  []string{"share"},
			Sort:   []string{"-share"},
			Limit:  &limit,
		})
	lines, err := s.Read(t.Context(), 0, s.Lines)
	if err != nil {
		t.Fatal(err)
	}
	if rest := lines[len(lines)-1]; rest.Cells[len(rest.Cells)-1].String() != "50.0" {
		t.Errorf("the rest has a share of %v", rest.Cells)
	}
}

// Nothing, the empty text and all rows are three things.
func TestEmptyNothingAndAllAreToldApart(t *testing.T) {
	list := []delivery{}
	for i, d := range deliveries {
		if i == 0 {
			d.region = "?"
		}
		list = append(list, d)
	}
	d := intake
	blanked := kept.Of(rowsFrom(t, &d, 2, list).With(frame.Schema{{Name: "note", Kind: frame.Text}},
		func(_ context.Context, i, _ int) (*frame.Column, error) {
			v := frame.Vector{Texts: make([]string, 2)}
			switch i {
			case 0:
			case 1:
				v.Nulls = []bool{true, true}
			default:
				v.Texts = []string{"x", "x"}
			}
			return frame.ColumnOf(v), nil
		}), table.Fresh{})
	set := report.Dataset{ID: "notes"}
	set.Columns = append(intake.Kept(), report.Column{ID: "note", Label: "", Kind: frame.Text})
	v := report.View{Show: report.Table, Open: 1, Rest: "Others"}
	s, err := Lay(t.Context(), blanked, &set, &v, ask.Changes{Group: []string{"note"}, Columns: []string{"kg"}}, setting)
	if err != nil {
		t.Fatal(err)
	}
	lines, err := s.Read(t.Context(), 0, s.Lines)
	if err != nil || len(lines) != 3 {
		t.Fatalf("%d lines, %v", len(lines), err)
	}
	for _, l := range lines {
		o, err := s.Open(t.Context(), Cell{Path: l.Path, Column: "kg"})
		if err != nil || o.Rows != 2 || !o.Agree() {
			t.Errorf("%s opens as %+v, %v", s.KeyText(l.Key), o, err)
		}
	}
	if o, err := s.Open(t.Context(), Cell{Column: "kg"}); err != nil || o.Rows != 6 {
		t.Errorf("all rows open as %+v, %v", o, err)
	}
}

func TestALineIsZeroWhenAllItsFiguresAre(t *testing.T) {
	list := []delivery{
		// cancel
		{"L1", "North", "Hollin", period.Date(2026, 7, 3), 100, 500},
		{"L2", "North", "Hollin", period.Date(2026, 8, 3), -100, 500},
		{"L3", "South", "Marr", period.Date(2026, 7, 3), 0, 500}, {"L4", "South", "Tarn", period.Date(2026, 9, 3), 50, 500},
	}
	draw := func(v report.View, c ask.Changes) string {
		t.Helper()
		v.Zeros, v.Rest = "omit", "Others"
		s, err := Lay(t.Context(), frameOf(t, &intake, 2, list), &intake, &v, c, setting)
		if err != nil {
			t.Fatal(err)
		}
		lines, err := s.Read(t.Context(), 0, s.Lines)
		if err != nil || len(lines) != s.Lines {
			t.Fatalf("%d of %d lines, %v", len(lines), s.Lines, err)
		}
		return printed(t, s) + totals(s)
	}
	for _, c := range []struct {
		view    report.View
		changes ask.Changes
		want    string
	}{
		{report.View{Show: report.Table, Open: 1}, ask.Changes{Group: []string{"district"}, Columns: []string{"kg"}},
			"Hollin (2) | 0.0!attention\nTarn (1) | 5.0\n5.0"},
		{report.View{Show: report.Table, Open: 3},
			ask.Changes{Group: []string{"region", "district"}, Columns: []string{"lot", "kg"}},
			"North (2) |  | 0.0!attention\n Hollin (2) |  | 0.0!attention\n- | L1 | 10.0\n- | L2 | -10.0!attention\nSouth (2) " +
				"|  | 5.0\n Tarn (1) |  | 5.0\n- | L4 | 5.0\n | 5.0"},
		{report.View{Show: report.Table}, ask.Changes{Columns: []string{"lot", "kg"}},
			"- | L1 | 10.0\n- | L2 | -10.0!attention\n- | L4 | 5.0\n | 5.0"},
		{report.View{Show: report.Table}, ask.Changes{Columns: []string{"lot"}}, "- | L1\n- | L2\n- | L3\n- | L4\n"},
		{report.View{Show: report.Crosstab},
			ask.Changes{Down: []string{"region"}, Across: []string{"district"}, Cells: []string{"kg"}},
			"North (2) | 0.0!attention |  | 0.0!attention\nSouth (2) |  | 5.0 | 5.0\n0.0 | 5.0 | 5.0"},
	} {
		if got := draw(c.view, c.changes); got != c.want {
			t.Errorf("%+v\ngot  %q\nwant %q", c.changes, got, c.want)
		}
	}
}

// The largest of a comparison's total is found anew, not made of changes.
func TestTotalsOfAComparisonAreComputedAnew(t *testing.T) {
	d := report.Dataset{ID: "c", Columns: []report.Column{
		{ID: "kind", Label: "Kind", Kind: frame.Text},
		{ID: "now", Label: "Now", Kind: frame.Integer, Total: frame.Max},
		{ID: "before", Label: "Before", Kind: frame.Integer, Total: frame.Max},
		{
			ID:         "change",
			Label:      "Change",
			Kind:       frame.Integer,
			Total:      frame.Ratio,
			Difference: &report.Difference{Of: "now", From: "before"},
		},
		{
			ID:      "percent",
			Label:   "%",
			Kind:    frame.Decimal,
			Scale:   1,
			Total:   frame.Ratio,
			Percent: &report.Percent{Of: "change", By: "before"},
		},
	}}
	b := &rowsOf{t: t, schema: d.Schema()}
	f := b.frame([][]any{{"a", 10, 20, -10, -500}, {"a", 15, 5, 10, 2000}, {"b", 7, 3, 4, 1333}})
	v := report.View{Show: report.Table, Open: 1, Rest: "Others"}
	s, err := Lay(t.Context(), f, &d, &v, ask.Changes{Group: []string{"kind"}, Sort: []string{"change"}}, setting)
	if err != nil {
		t.Fatal(err)
	}
	if got, want := printed(t, s)+totals(s),
		"a (2) | 15 | 20 | -5 | -25.0\nb (1) | 7 | 3 | 4 | 133.3\n15 | 20 | -5 | -25.0"; got != want {
		t.Errorf("got  %q\nwant %q", got, want)
	}
	if o, err := s.Open(t.Context(), Cell{Path: "a", Column: "change"}); err != nil || !o.Agree() ||
		o.Before.String() != "-5" {
		t.Errorf("opened: %+v, %v", o, err)
	}
}

func TestWhatAReaderAsksIsBounded(t *testing.T) {
	many := func(n int, of string) (out []string) {
		for i := range n {
			out = append(out, fmt.Sprintf(of, i))
		}
		return out
	}
	for name, c := range map[string]ask.Changes{
		"add":    {Add: many(3000, "X%d = kg")},
		"filter": {Filters: many(500, "kg>=%d")},
		"group":  {Group: many(40, "band(kg, %d)")},
		"sort":   {Sort: []string{strings.Repeat("k", 1<<20)}},
	} {
		_, err := Lay(t.Context(), rows(t), &lots, &view, c, setting)
		var f *ask.Fault
		if !errors.As(err, &f) || f.Part != name || len(err.Error()) > 300 {
			t.Errorf("%s: %.200v", name, err)
		}
	}
	d := report.Dataset{
		ID: "n",
		Columns: []report.Column{{ID: "n", Label: "N", Kind: frame.Integer, Total: frame.Sum},
			{ID: "key", Label: "Key", Kind: frame.Integer}},
	}
	b := &rowsOf{t: t, schema: d.Schema()}
	cells := [][]any{}
	for i := range 3000 {
		cells = append(cells, []any{i, i})
	}
	chart := report.View{Show: report.Chart, Drawn: "bar", Rest: "Others"}
	_, err := Lay(t.Context(), b.frame(cells), &d, &chart, ask.Changes{Group: []string{"key"}, Cells: []string{"n"}},
		setting)
	var f *ask.Fault
	if !errors.As(err, &f) || !strings.Contains(err.Error(), "3000 places") {
		t.Errorf("a chart of 3000 places: %v", err)
	}
}

func TestChartsOfNoRows(t *testing.T) {
	none := ask.Changes{Filters: []string{"lot=none"}}
	for _, v := range []report.View{
		{Show: report.Chart, Drawn: "bar", Levels: []string{"site"}, Cells: []string{"kg"}},
		{Show: report.Chart, Drawn: "pie", Levels: []string{"site"}, Cells: []string{"kg"}},
		{Show: report.Chart, Drawn: "line", Levels: []string{"month(day)", "site"}, Cells: []string{"kg"}},
		{Show: report.Chart, Drawn: "histogram", X: "kg", Bins: 5},
		{Show: report.Chart, Drawn: "scatter", X: "kg", Y: "pay"},
	} {
		v.Rest = "Others"
		s, err := Lay(t.Context(), rows(t), &lots, &v, none, setting)
		if err != nil || len(s.Chart.Places) != 0 || len(s.Chart.Points) != 0 {
			t.Errorf("%s: %+v, %v", v.Drawn, s, err)
		}
	}
}

func TestValuesOfNoColumnAreRefused(t *testing.T) {
	for _, column := range []string{"", "none"} {
		if _, err := ValuesOf(t.Context(), rows(t), &lots, &view, ask.Changes{}, setting, column, "", 10); err == nil {
			t.Errorf("values of %q are listed", column)
		}
	}
}

func TestLabelsOfAnyLetterStandInSentences(t *testing.T) {
	for label, want := range map[string]string{"Über": "über", "": "", "A": "a", "9 to 5": "9 to 5", "\xff": "�"} {
		if got := shown.Uncapitalised(label); got != want {
			t.Errorf("%q became %q", label, got)
		}
	}
}

// Two of one name are two groups, each of which opens into its own rows.
func TestNamesakesAreToldApart(t *testing.T) {
	d := intake
	d.Columns = append([]report.Column{}, intake.Columns...)
	d.Column("district").Code = "lot"
	view := report.View{Show: report.Table, Levels: []string{"district"}, Columns: []string{"kg"}, Open: 1, Rest: "Others"}
	for limit, want := range map[int]string{
		0: "Hollin · L1 (1) | 10.0\nHollin · L4 (1) | 6.0\nMarr · L2 (1) | 4.0!attention\nMarr · L6 (1) | " +
			"0.0!attention\nTarn (1) | 25.0\n(none) (1) | 5.0\n",
		2: "Hollin · L1 (1) | 10.0\nHollin · L4 (1) | 6.0\n (4) | 34.0\n",
	} {
		s, err := Lay(t.Context(), frameOf(t, &d, 2, deliveries), &d, &view, ask.Changes{Limit: &limit}, setting)
		if err != nil {
			t.Fatal(err)
		}
		if got := strings.ReplaceAll(printed(t, s), "Others", ""); got != want && limit == 0 {
			t.Errorf("limit %d:\ngot\n%s\nwant\n%s", limit, got, want)
		}
		lines, err := s.Read(t.Context(), 0, s.Lines)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range lines {
			o, err := s.Open(t.Context(), Cell{Path: l.Path, Column: "kg"})
			if err != nil || !o.Agree() || o.Rows != l.Size {
				t.Errorf("%s opens as %+v, %v", l.Path, o, err)
			}
		}
	}
}
