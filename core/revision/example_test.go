package revision_test

import (
	"fmt"
	"strings"

	"mantilla/core/definition"
	"mantilla/core/revision"
)

// What changed from one version of a report to the next, in words and as text.
func ExampleWords() {
	second := strings.Replace(first, "title: Lots", "title: All lots", 1)
	was, _ := definition.Parse([]byte(first), definition.Defaults{Currency: "EUR"})
	is, _ := definition.Parse([]byte(second), definition.Defaults{Currency: "EUR"})
	for _, said := range revision.Words(was, is) {
		fmt.Println(said)
	}
	fmt.Println(revision.Signature(was) == revision.Signature(is))
	fmt.Println(revision.Text("a\nb\n", "a\nc\n"))
	// Output:
	// the title was "Lots" and is "All lots"
	// true
	// --- was
	// +++ is
	// @@ -1,2 +1,2 @@
	//  a
	// -b
	// +c
}
