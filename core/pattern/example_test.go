package pattern_test

import (
	"fmt"

	"mantilla/core/pattern"
)

func ExamplePattern_Matches() {
	lots := pattern.Of("l-20_6-%7")
	fmt.Println(lots.Matches("l-2026-0017"), lots.Matches("l-2026-0018"), lots.Matches("l-20226-7"))
	// Output:
	// true false false
}
