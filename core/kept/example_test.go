package kept_test

import (
	"context"
	"fmt"

	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/kept"
	"mantilla/core/table"
)

// lots builds four rows of a district and a weight in kilograms, to the gram.
func lots() *kept.Table {
	schema := frame.Schema{{Name: "district", Kind: frame.Text}, {Name: "kg", Kind: frame.Decimal, Scale: 3}}
	return kept.Of(frametest.Rows(schema, 4,
		[]any{"Hollin", 12_500}, []any{"Marr", 3_250}, []any{"Hollin", 750}, []any{"Marr", 1}), table.Fresh{})
}

func ExampleTable_Groups() {
	sum := table.Measure{Column: 1, Op: frame.Sum}
	groups, err := lots().Groups(context.Background(), table.Where{}, []int{0}, []table.Measure{sum})
	if err != nil {
		panic(err)
	}
	field, totals, _ := groups.Figures(sum)
	fmt.Println("all", totals[0].Value(field, 0))
	districts := groups.Levels[1]
	for g := range districts.Len() {
		fmt.Println(districts.Key(g), totals[1].Value(field, g), districts.Size(g), "rows")
	}
	// Output:
	// all 16.501
	// Hollin 13.250 2 rows
	// Marr 3.251 2 rows
}

func ExampleTable_Page() {
	heaviest := table.Order{Keys: []frame.Key{{Column: "kg", Descending: true}}}
	page, numbers, err := lots().Page(context.Background(), heaviest, 0, 2, []int{1})
	if err != nil {
		panic(err)
	}
	for r := range page.Rows {
		fmt.Println(numbers[r], page.Value(0, r))
	}
	// Output:
	// 0 12.500
	// 1 3.250
}
