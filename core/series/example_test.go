package series_test

import (
	"context"
	"fmt"
	"strings"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/changes"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/core/series"
)

// Two captures of the same rows are read as one history; the month between was not kept.
func ExampleHistory() {
	set := &report.Dataset{ID: "keepers", Key: []string{"no"}, Columns: []report.Column{
		{ID: "no", Label: "No.", Kind: frame.Text}, {ID: "stage", Label: "Stage", Kind: frame.Text}}}
	layout, err := series.Lay(set, nil, []string{"stage"})
	if err != nil {
		panic(err)
	}
	schema := set.Schema()
	history := layout.Begin(schema)
	capture := func(stages ...string) changes.Side {
		return changes.Side{frame.Gathered(schema, []frame.Vector{{Texts: []string{"K-1", "K-2"}}, {Texts: stages}}, 2)}
	}
	states := layout.StateRows()
	out := frame.NewBuilder(states.Schema(), 16, func(r arrow.RecordBatch) error {
		fmt.Println(r.NumRows(), "states")
		return nil
	})
	ctx := context.Background()
	if err := history.Add(ctx, period.Date(2026, 7, 31), "R-7", capture("new", "full"), out); err != nil {
		panic(err)
	}
	history.Miss(period.Date(2026, 8, 31), "not kept")
	if err := history.Add(ctx, period.Date(2026, 9, 30), "R-9", capture("full", "full"), out); err != nil {
		panic(err)
	}
	if err := history.End(ctx, out); err != nil {
		panic(err)
	}
	if err := out.Close(); err != nil {
		panic(err)
	}
	fmt.Println(strings.ReplaceAll(history.Say(), "; ", ";\n"))
	// Output:
	// 3 states
	// 2 captures from 31 July 2026 to 30 September 2026: 2 rows in the last;
	// 0 entered, 1 changed, 0 left. 1 capture is missing, and nothing is known of 31 August 2026.
}
