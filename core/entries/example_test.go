package entries_test

import (
	"context"
	"fmt"
	"time"

	"mantilla/core/entries"
	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/period"
	"mantilla/core/report"
)

// What people typed in beside the rows belongs to the key of a row, and is there whenever they are read.
func ExampleLayer_Over() {
	set := &report.Dataset{ID: "lines", Key: []string{"project"}, Columns: []report.Column{
		{ID: "project", Label: "Project", Kind: frame.Text},
		{ID: "done", Label: "Done", Kind: frame.Decimal, Scale: 1, Formula: "entered_done",
			Entry: &report.Entry{Most: "100"}},
	}}
	calendar := period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January)
	done, err := entries.Parse(set.Column("done"), " 62.50 ", calendar)
	if err != nil {
		panic(err)
	}
	_, err = entries.Parse(set.Column("done"), "120", calendar)
	fmt.Println(err)

	rows := frametest.Rows(set.Schema(), 8, []any{"J-1"}, []any{"J-2"})
	typed := entries.Layer{Now: entries.Values{"done": {entries.Key([]string{"J-2"}): done}}}
	over, read := typed.Over(rows, set)
	b, err := over.Batch(context.Background(), 0, []int{0, 1})
	if err != nil {
		panic(err)
	}
	fmt.Println(read.Kept()[1].ID)
	for row := range b.Rows {
		fmt.Printf("%s %q\n", b.Value(0, row), b.Value(1, row).String())
	}
	// Output:
	// 120 is not possible: 100 is the most
	// entered_done
	// J-1 ""
	// J-2 "62.5"
}
