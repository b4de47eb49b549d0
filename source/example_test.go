package source_test

import (
	"fmt"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
)

// A query becomes a statement in the dialect of a source. Values are bound, never
// written into the text.
func ExampleWrite() {
	d, faults := definition.Parse([]byte(`report: lots
title: Lots
category: Intake
depth: lines
about: Every lot.
source: coop
parameters:
  - {id: received, type: range, required: true}
  - {id: grade, type: choice, options: {A: Select, B: Table}}
datasets:
  lots:
    from: lot
    where: [{is: lot.came, within: received}, "lot.grade = :grade"]
    columns: [{id: no, is: lot.no, type: text}]
views:
  lots: {of: lots}
`), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		panic(faults)
	}
	values := param.Recall(d.Parameters, map[string]string{"received": "2026-09-01/2026-09-30", "grade": "B"},
		period.Calendar{})
	queries, err := query.Plan(d, values, report.Reach{}, marked{}.Quotes())
	if err != nil {
		panic(err)
	}
	s := source.Write(queries[0], marked{})
	fmt.Println(s.Text)
	fmt.Println(s.Args...)
	// Output:
	// select lot.no as "no"
	// from lot
	// where (day(lot.came, 'lot.came') >= day(?, 'lot.came') and day(lot.came, 'lot.came') <= day(?, 'lot.came'))
	//   and (lot.grade = ?)
	// 2026-09-01 2026-09-30 B
}
