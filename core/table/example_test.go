package table_test

import (
	"fmt"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// A condition is refused before any row is read where it cannot be asked of the cells.
func ExampleCondition_Fits() {
	holds := table.Condition{Column: "name", Test: table.Contains, Texts: []string{"brell"}}
	fmt.Println(holds.Fits(frame.Text))
	fmt.Println(holds.Fits(frame.Money))
	// Output:
	// <nil>
	// column name holds money, which cannot be searched for a text
}
