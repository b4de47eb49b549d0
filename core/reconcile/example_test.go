package reconcile_test

import (
	"context"
	"fmt"

	"mantilla/core/period"
	"mantilla/core/reconcile"
	"mantilla/core/timetable"
)

// Three payments are held beside the lines of a statement of the bank.
func ExampleMatch() {
	day := func(n int) period.Day { return period.Date(2026, 9, n) }
	ours := []reconcile.Item{
		{Amount: -12_500, Day: day(1), Reference: "P-2041"},
		{Amount: -8_000, Day: day(2), Reference: "P-2042"},
		{Amount: -990, Day: day(30), Reference: "P-2043"},
	}
	theirs := []reconcile.Item{
		{Amount: -8_000, Day: day(3), Text: "transfer"},
		{Amount: -12_500, Day: day(2), Text: "HONEY P2041"},
		{Amount: -475, Day: day(15), Text: "fees"},
	}
	rule := reconcile.Rule{To: 3, Off: timetable.Weekend, Until: day(30)}
	sets, err := reconcile.Match(context.Background(), ours, theirs, rule, nil)
	if err != nil {
		panic(err)
	}
	for _, set := range sets {
		fmt.Println(set.Class, set.How, set.Ours, set.Theirs)
	}
	for _, sum := range reconcile.Sum(ours, theirs, sets) {
		fmt.Println(sum.Class, sum.Ours, sum.Theirs)
	}
	// Output:
	// matched by reference [0] [1]
	// matched by amount and day [1] [0]
	// only theirs  [] [2]
	// next period  [2] []
	// matched -20500 -20500
	// only theirs 0 -475
	// next period -990 0
}
