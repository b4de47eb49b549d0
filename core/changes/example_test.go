package changes_test

import (
	"context"
	"fmt"

	"mantilla/core/changes"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// Rows of two results are paired by their key, and each is told what became of it.
func ExampleFind() {
	set := &report.Dataset{ID: "lots", Columns: []report.Column{
		{ID: "lot", Kind: frame.Text}, {ID: "grade", Kind: frame.Text}}}
	layout, err := changes.Compare(set, set, []string{"lot"})
	if err != nil {
		panic(err)
	}
	schema := set.Schema()
	side := func(lots, grades []string) changes.Side {
		vectors := []frame.Vector{{Texts: lots}, {Texts: grades}}
		return changes.Side{frame.Gathered(schema, vectors, len(lots))}
	}
	before := side([]string{"L-1", "L-2", "L-3"}, []string{"Select", "Table", "Table"})
	after := side([]string{"L-3", "L-4", "L-1"}, []string{"Select", "Table", "Select"})
	match, err := changes.Find(context.Background(), before, after, schema, len(layout.Key))
	if err != nil {
		panic(err)
	}
	fmt.Println(match.Said())
	err = match.Each(func(became string, was, is changes.Row) error {
		side, row := after, is
		if is.Batch < 0 {
			side, row = before, was
		}
		fmt.Println(side[row.Batch].Text(0, row.Row), became)
		return nil
	})
	if err != nil {
		panic(err)
	}
	// Output:
	// 1 changed, 1 new, 1 gone, 1 the same.
	// L-3 changed
	// L-4 new
	// L-1 same
	// L-2 gone
}
