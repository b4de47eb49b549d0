package entries

import (
	"strings"
	"testing"
	"time"

	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/period"
	"mantilla/core/report"
)

var lines = &report.Dataset{ID: "lines", Key: []string{"project", "line"}, Columns: []report.Column{
	{ID: "project", Label: "Project", Kind: frame.Text},
	{ID: "line", Label: "Line", Kind: frame.Integer},
	{ID: "spent", Label: "Spent", Kind: frame.Money, Scale: 2},
	{ID: "method", Label: "Method", Kind: frame.Text, Formula: "coalesce(entered_method, 'plan')",
		Entry: &report.Entry{Options: []string{"plan", "percent"}, Before: true}},
	{ID: "figure", Label: "Figure", Kind: frame.Decimal, Scale: 1, Formula: "entered_figure",
		Entry: &report.Entry{Least: "0", Most: "100"}},
	{ID: "due", Label: "Due", Kind: frame.Date, Formula: "entered_due", Entry: &report.Entry{}},
}}

// What people typed stands in columns behind those that were kept, in the rows of its key, however
// these are batched; what was typed of other rows stands nowhere.
func TestALayerOverRows(t *testing.T) {
	rows := frametest.Rows(lines.Schema(), 2, []any{"J-1", int64(1), int64(100)}, []any{"J-1", int64(2), int64(200)},
		[]any{nil, int64(1), int64(300)})
	layer := &Layer{Now: Values{
		"method": {Key([]string{"J-1", "2"}): "percent", Key([]string{"", "1"}): "plan", Key([]string{"J-9", "1"}): "plan"},
		"figure": {Key([]string{"J-1", "2"}): "12.5"}, "due": {Key([]string{"J-1", "1"}): "2026-10-31"},
	}, Before: Values{"method": {Key([]string{"J-1", "1"}): "plan"}}}
	over, set := layer.Over(rows, lines)
	var ids []string
	for _, c := range set.Kept() {
		ids = append(ids, c.ID)
	}
	if got, want := strings.Join(ids, " "),
		"project line spent entered_method before_method entered_figure entered_due"; got !=
		want {
		t.Fatalf("the columns are %s and not %s", got, want)
	}
	if set.Typed() != set || lines.Typed() == lines {
		t.Error("a dataset that has its typed columns gets them again, or never")
	}
	var got []string
	for i := range over.Batches() {
		b, err := over.Batch(t.Context(), i, []int{3, 4, 5, 6})
		if err != nil {
			t.Fatal(err)
		}
		for row := range b.Rows {
			var cells []string
			for col := range 4 {
				cells = append(cells, b.Value(3+col, row).String())
			}
			got = append(got, strings.Join(cells, "|"))
		}
	}
	if said, want := strings.Join(got, "\n"), "|plan||2026-10-31\npercent||12.5|\nplan|||"; said != want {
		t.Errorf("the rows are\n%s\nand not\n%s", said, want)
	}
	plain := &report.Dataset{ID: "x", Columns: lines.Columns[:3]}
	if same, of := layer.Over(rows, plain); same != rows || of != plain {
		t.Error("a dataset that nobody fills in is laid over")
	}
}

func TestParse(t *testing.T) {
	calendar := period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January)
	for _, c := range []struct{ column, typed, want, fault string }{
		{column: "method", typed: " Percent ", want: "percent"},
		{column: "method", typed: "guess", fault: "is none of plan or percent"},
		{column: "method", typed: "", want: ""},
		{column: "figure", typed: "12.5", want: "12.5"},
		{column: "figure", typed: "1 00", want: "100.0"},
		{column: "figure", typed: "100.1", fault: "100 is the most"},
		{column: "figure", typed: "−1", fault: "0 is the least"},
		{column: "figure", typed: "1.25", fault: "decimal places"},
		{column: "figure", typed: "much", fault: "not a number"},
		{column: "due", typed: "today", want: "2026-10-15"},
		{column: "due", typed: "2026-02-30", fault: "2026-02-30"},
	} {
		got, err := Parse(lines.Column(c.column), c.typed, calendar)
		if got != c.want || (err == nil) != (c.fault == "") || err != nil && !strings.Contains(err.Error(), c.fault) {
			t.Errorf("%s %q is %q, %v", c.column, c.typed, got, err)
		}
	}
	text := &report.Column{ID: "remark", Kind: frame.Text, Entry: &report.Entry{}}
	if _, err := Parse(text, strings.Repeat("ä", longest+1), calendar); err == nil {
		t.Error("a text of any length is let in")
	}
}
