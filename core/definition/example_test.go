package definition_test

import (
	"fmt"

	"mantilla/core/definition"
)

func ExampleParse() {
	_, faults := definition.Parse([]byte(`report: lots
title: Lots
category: Intake
depth: lines
about: Every lot.
source: coop
parameters:
  - {id: received, type: range, required: true}
datasets:
  lots:
    from: lot
    where: [{is: lot.received_on, within: recieved}]
    columns: [{id: no, is: lot.no, type: txet}]
views:
  lots: {of: lots}
`), definition.Defaults{Currency: "EUR"})
	for _, fault := range faults {
		fmt.Println(fault)
	}
	// Output:
	// line 12, column 13: the condition lies within :recieved, which is not a parameter; did you mean received?
	// line 13, column 36: "txet" is not a column type; use text, integer, decimal, money, date, timestamp, flag
}
