package exact_test

import (
	"fmt"

	"mantilla/core/exact"
	"mantilla/core/frame"
)

// The median and the 90th percentile of four weights in grams, told in kilograms.
func ExamplePercentile() {
	grams := []int64{750, 1_000, 3_250, 12_500}
	fmt.Println(exact.Percentile(grams, 3, frame.Exact(50, 0)))
	fmt.Println(exact.Percentile(grams, 3, frame.Exact(90, 0)))
	// Output:
	// 2.12500
	// 9.72500
}

func ExampleDeviation() {
	fmt.Println(exact.Deviation([]int64{2, 4, 4, 4, 5, 5, 7, 9}, 0, 6))
	// Output:
	// 2.138090 <nil>
}

func ExampleHalfAway() {
	fmt.Println(exact.HalfAway(5, 2), exact.HalfAway(-5, 2), exact.HalfAway(4, 3))
	// Output:
	// 3 -3 1
}
