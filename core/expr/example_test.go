package expr_test

import (
	"fmt"
	"strings"

	"mantilla/core/expr"
)

// written writes a tree with its parts indented below it.
func written(e *expr.Expr, depth int) string {
	out := strings.Repeat("  ", depth) + strings.TrimSpace(e.Op+" "+e.Text) + "\n"
	for _, a := range e.Args {
		out += written(a, depth+1)
	}
	return out
}

func ExampleParse() {
	e, err := expr.Parse("sum(value) / count(*) > 12.50")
	if err != nil {
		panic(err)
	}
	fmt.Print(written(e, 0))
	// Output:
	// >
	//   /
	//     call sum
	//       name value
	//     call count
	//       all
	//   number 12.50
}

func ExampleMentioned() {
	fmt.Println(expr.Mentioned("case when paid is null then value else value - rebate end"))
	// Output: [paid value value rebate]
}
