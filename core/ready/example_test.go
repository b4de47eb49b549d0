package ready_test

import (
	"fmt"

	"mantilla/core/frame"
	"mantilla/core/ready"
)

// The path of a group is written by its values, and a slash within one is no step.
func ExamplePath() {
	fmt.Println(ready.Path([]frame.Value{{Kind: frame.Text, Text: "Mill/Ford"}, {Kind: frame.Text, Null: true},
		{Kind: frame.Text}}))
	fmt.Println(ready.Offer("distric", []string{"district", "grade"}))
	// Output:
	// Mill%2FFord/~/~empty
	// did you mean district?
}
