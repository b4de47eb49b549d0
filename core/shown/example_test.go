package shown_test

import (
	"fmt"
	"time"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/shown"
)

func ExampleForm_Text() {
	form := shown.Form{Zone: time.FixedZone("CET", 3_600)}
	fmt.Println(form.Text(frame.Value{Kind: frame.Money, Number: frame.Exact(-1_234_550, 2)}))
	fmt.Println(form.Text(frame.Value{Kind: frame.Decimal, Number: frame.Exact(12_500, 3)}))
	fmt.Println(form.Text(frame.Value{Kind: frame.Decimal, Null: true}) == "")
	fmt.Println(shown.Heading(report.Column{Label: "Net weight", Unit: "kg"}))
	// Output:
	// −12,345.50
	// 12.500
	// true
	// Net weight, kg
}
