package compare_test

import (
	"context"
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/compare"
	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
)

// One row for each town, with its figure in this period and in the one before.
func ExamplePeriods() {
	town := frame.Field{Name: "town", Kind: frame.Text}
	money := func(name string) frame.Field {
		return frame.Field{Name: name, Kind: frame.Money, Scale: 2, Currency: "EUR"}
	}
	read := frame.Schema{town, money("amount")}
	september := frametest.Rows(read, 8, []any{"Hollin", 12_000}, []any{"Marr", 5_000})
	august := frametest.Rows(read, 8, []any{"Hollin", 10_000}, []any{"Quern", 900})

	written := frame.Schema{town, money("amount"), money("amount_2"), money("change_2"),
		{Name: "percent_2", Kind: frame.Decimal, Scale: 1}}
	out := frame.NewBuilder(written, 8, func(r arrow.RecordBatch) error {
		rows, err := frame.New(written, r)
		if err != nil {
			return err
		}
		b, err := rows.Batch(context.Background(), 0, []int{0, 1, 2, 3, 4})
		if err != nil {
			return err
		}
		for row := range b.Rows {
			for col := range written {
				fmt.Printf("%6s|", b.Value(col, row))
			}
			fmt.Println()
		}
		return nil
	})
	layout := compare.Layout{Key: []int{0}, Measure: []bool{false, true}}
	if err := compare.Periods(context.Background(), []*frame.Frame{september, august}, layout, out); err != nil {
		panic(err)
	}
	if err := out.Close(); err != nil {
		panic(err)
	}
	// Output:
	// Hollin|120.00|100.00| 20.00|  20.0|
	//   Marr| 50.00|      | 50.00|      |
	//  Quern|      |  9.00| -9.00|-100.0|
}

func ExamplePercent() {
	euros := func(cents int64) frame.Value { return frame.Value{Kind: frame.Money, Number: frame.Exact(cents, 2)} }
	fmt.Println(compare.Percent(euros(2_000), euros(10_000)))
	fmt.Println(compare.Percent(euros(-125), euros(-1_000)))
	fmt.Println(compare.Percent(euros(100), euros(0)).Null)
	// Output:
	// 20.0
	// -12.5
	// true
}
