package frame_test

import (
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
)

// lots builds four rows of a district and a weight in kilograms, to the gram.
func lots() *frame.Frame {
	schema := frame.Schema{{Name: "district", Kind: frame.Text}, {Name: "kg", Kind: frame.Decimal, Scale: 3}}
	var records []arrow.RecordBatch
	rows := frame.NewBuilder(schema, frame.BatchRows, func(r arrow.RecordBatch) error {
		records = append(records, r)
		return nil
	})
	for _, lot := range []struct {
		district string
		grams    int64
	}{{"Hollin", 12_500}, {"Marr", 3_250}, {"Hollin", 750}, {"Marr", 1}} {
		rows.Text(0, []byte(lot.district))
		if err := rows.Int(1, lot.grams); err != nil {
			panic(err)
		}
		if err := rows.EndRow(); err != nil {
			panic(err)
		}
	}
	if err := rows.Close(); err != nil {
		panic(err)
	}
	f, err := frame.New(schema, records...)
	if err != nil {
		panic(err)
	}
	return f
}

func ExampleFrame_Group() {
	groups, err := lots().Group(nil, []int{0})
	if err != nil {
		panic(err)
	}
	field, totals, err := groups.Measure(frame.Measure{Column: 1, Op: frame.Sum})
	if err != nil {
		panic(err)
	}
	fmt.Println("all", totals[0].Value(field, 0))
	districts := groups.Levels[1]
	for g := range districts.Len() {
		fmt.Println(districts.Keys.Value(districts.Field, g), totals[1].Value(field, g), groups.RowsOf(1, g))
	}
	// Output:
	// all 16.501
	// Hollin 13.250 [0 2]
	// Marr 3.251 [1 3]
}
