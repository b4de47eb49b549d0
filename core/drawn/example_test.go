package drawn_test

import (
	"fmt"

	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/shown"
)

// A chart says its figures to whoever doesn't see it.
func ExampleChart_Says() {
	c := drawn.Chart{
		Form:   "bar",
		Places: []drawn.Place{{Name: "Hollin"}, {Name: "Marr"}},
		Series: []drawn.Series{{Label: "Lots", Figures: []frame.Value{
			{Kind: frame.Integer, Number: frame.Exact(12, 0)},
			{Kind: frame.Integer, Number: frame.Exact(7, 0)},
		}}},
	}
	fmt.Println(c.Says(shown.Form{}, 200))
	fmt.Println(c.Says(shown.Form{}, 20))
	// Output:
	// Lots: Hollin 12, Marr 7
	// Lots: Hollin 12 and more
}
