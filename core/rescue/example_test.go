package rescue_test

import (
	"errors"
	"fmt"

	"mantilla/core/rescue"
)

func ExampleCall() {
	err := rescue.Call(func() error {
		var rows []int
		fmt.Println(rows[3])
		return nil
	})
	var p *rescue.Panic
	fmt.Println(errors.As(err, &p), err)
	// Output:
	// true a fault in the program: runtime error: index out of range [3] with length 0
}
