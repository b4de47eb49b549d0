package frame_test

import (
	"context"
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

func ExampleFrame_Column() {
	kept := lots()
	kg, err := kept.Column(context.Background(), 0, 1)
	if err != nil {
		panic(err)
	}
	fmt.Println(kg.Rows(), "cells from", kg.Stats.Least, "to", kg.Stats.Greatest, "grams")
	for row := range kg.Rows() {
		fmt.Println(kg.Value(kept.Schema()[1], row))
	}
	// Output:
	// 4 cells from 1 to 12500 grams
	// 12.500
	// 3.250
	// 0.750
	// 0.001
}
