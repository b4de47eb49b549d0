package fold_test

import (
	"fmt"

	"mantilla/core/fold"
)

func ExampleText() {
	fmt.Println(fold.Text("Crème ÉLEVÉE"), fold.Text("Ångström") == fold.Text("angstrom"))
	// Output:
	// creme elevee true
}
