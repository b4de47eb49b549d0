package sheet_test

import (
	"context"
	"fmt"
	"time"

	"mantilla/core/ask"
	"mantilla/core/definition"
	"mantilla/core/frame/frametest"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/table"
)

const lots = `report: lots
title: Lots
category: Intake
depth: lines
about: Every lot.
source: coop
datasets:
  lots:
    from: lot
    columns:
      - {id: district, is: lot.district, type: text}
      - {id: net_kg, is: lot.net_g, type: decimal, scale: 3, unit: kg, total: sum}
views:
  lots: {of: lots}
`

// A view is laid out over kept rows; a reader groups it, filters it, and opens a
// figure into the rows that made it.
func ExampleLay() {
	d, faults := definition.Parse([]byte(lots), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		panic(faults)
	}
	set := d.Dataset("lots")
	setting := ready.Setting{Calendar: period.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), time.UTC, time.January),
		Cache: table.Fresh{}}
	changes := ask.Changes{Group: []string{"district"}, Filters: []string{"net_kg>=0.5"}}
	s, err := sheet.Lay(context.Background(), keptRows(set), set, d.View("lots"), changes, setting)
	if err != nil {
		panic(err)
	}
	fmt.Println(s.Told())
	lines, err := s.Read(context.Background(), 0, s.Lines)
	if err != nil {
		panic(err)
	}
	for _, line := range lines {
		fmt.Println(line.Cells)
	}
	opened, err := s.Open(context.Background(), sheet.Cell{Path: "Hollin", Column: "net_kg"})
	if err != nil {
		panic(err)
	}
	fmt.Println(opened.Says, opened.Rows, opened.Before, opened.After, opened.Agree())
	// Output:
	// Of which net kg at least 0.5: 3 of 4 rows; grouped by district.
	// [13.250]
	// [3.250]
	// Net kg, kg of Hollin 2 13.250 13.250 true
}

// keptRows are four kept rows.
func keptRows(set *report.Dataset) *kept.Table {
	return kept.Of(frametest.Rows(set.Schema(), 4,
		[]any{"Hollin", 12_500}, []any{"Marr", 3_250}, []any{"Hollin", 750}, []any{"Marr", 1}), table.Fresh{})
}
