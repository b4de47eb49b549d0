package nearest_test

import (
	"fmt"

	"mantilla/core/nearest"
)

func ExampleNames() {
	known := []string{"received", "released", "unit", "grade"}
	fmt.Println("did you mean " + nearest.Or(nearest.Names("recieved", known, 2)) + "?")
	// Output:
	// did you mean received?
}
