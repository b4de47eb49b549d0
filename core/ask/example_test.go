package ask_test

import (
	"fmt"
	"time"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
)

// A filter is read as it is typed, and becomes conditions once it is known what it looks at.
func ExampleReadFilter() {
	filter, err := ask.ReadFilter("received=2026-09")
	if err != nil {
		panic(err)
	}
	fmt.Println(filter.Column, filter.Test, filter.Value)
	calendar := period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January)
	if err := filter.Over(frame.Field{Name: "received", Kind: frame.Date}, calendar); err != nil {
		panic(err)
	}
	for _, condition := range filter.Conditions {
		fmt.Println(condition.Column, period.Day(condition.Ints[0]))
	}
	// Output:
	// received = 2026-09
	// received 2026-09-01
	// received 2026-09-30
}

// What a reader changes now lies over what was kept; added columns come together.
func ExampleChanges_Over() {
	kept := ask.Changes{Group: []string{"district"}, Add: []string{"Price = value / net_kg"}, Show: "table"}
	now := ask.Changes{Group: []string{"grade"}, Add: []string{"Tare = gross_kg - net_kg"}}
	both := now.Over(kept)
	fmt.Println(both.Group, both.Add, both.Show)
	// Output:
	// [grade] [Tare = gross_kg - net_kg Price = value / net_kg] table
}
