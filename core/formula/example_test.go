package formula_test

import (
	"errors"
	"fmt"

	"mantilla/core/formula"
	"mantilla/core/frame"
)

func ExampleParse() {
	scope := formula.Scope{Columns: frame.Schema{
		{Name: "net_kg", Kind: frame.Decimal, Scale: 3},
		{Name: "value", Kind: frame.Money, Scale: 2, Currency: "EUR"},
	}}
	f, err := formula.Parse("value / net_kg", scope)
	if err != nil {
		panic(err)
	}
	rows := frame.Columns(scope.Columns, []frame.Vector{{Ints: []int64{12_500, 1_000}}, {Ints: []int64{9_900, 725}}}, 2)
	prices, err := f.Rows(rows)
	if err != nil {
		panic(err)
	}
	for row := range 2 {
		fmt.Println(prices.Value(f.Field, row))
	}
	_, err = formula.Parse("value / net_gk", scope)
	var fault *formula.Fault
	fmt.Println(errors.As(err, &fault), err)
	// Output:
	// 7.920000
	// 7.250000
	// true "net_gk" is not known here; did you mean net_kg?
}
