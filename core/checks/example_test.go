package checks_test

import (
	"context"
	"fmt"

	"mantilla/core/checks"
	"mantilla/core/definition"
)

// A definition says what holds of its figures; a result is marked where it does not.
func ExampleOf() {
	d, faults := definition.Parse([]byte(ledger+"  - {id: balanced, of: lines, each: [journal], "+
		"holds: sum(amount) = 0, else: mark, say: A journal does not balance.}\n"), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		panic(faults)
	}
	lines := [][]any{{"J-1", 20_000, 500}, {"J-1", 20_000, -500}, {"J-2", 20_001, 725}}
	outcomes, err := checks.Of(context.Background(), d, rowsOf(725, lines), setting(), nil)
	if err != nil {
		panic(err)
	}
	for _, outcome := range outcomes {
		fmt.Println(outcome.State, outcome.Groups)
		fmt.Println(outcome.Says())
	}
	fmt.Println(checks.Marks(outcomes))
	// Output:
	// broken [J-2]
	// A journal does not balance. It does not hold of J-2.
	// true
}
