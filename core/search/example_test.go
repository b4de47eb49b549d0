package search_test

import (
	"fmt"

	"mantilla/core/search"
)

// Reports are found by their titles before their descriptions, with slips of typing.
func ExampleIndex_Find() {
	index := search.New([][]search.Field{
		{{Text: "Honey intake by origin"}, {Text: "What members brought", Weight: 2, Says: "in its description"}},
		{{Text: "Members"}, {Text: "Who keeps bees for us", Weight: 2, Says: "in its description"}},
		{{Text: "Open invoices"}},
	})
	for _, hit := range index.Find("membres") {
		fmt.Println(hit.Doc, hit.Score, hit.Says)
	}
	// Output:
	// 0 5 in its description
	// 1 3
}
