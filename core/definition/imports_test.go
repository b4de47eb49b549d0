package definition

import (
	"strings"
	"testing"

	"mantilla/core/report"
)

const importing = `report: r
title: R
category: C
depth: lines
about: A.
source: s
datasets:
  d: {from: t, columns: [{id: day, is: a, type: date}, {id: kg, is: b, type: decimal, scale: 1, ` +
	`total: sum}, {id: mean, formula: avg(kg), type: decimal, scale: 1, at: groups}]}
views: {v: {of: d}}
imports:
`

func TestImportReadyFiles(t *testing.T) {
	d, faults := Parse([]byte(importing+"  ledger: {of: d, columns: [{is: day, as: Posting date}], unpivot: {columns: "+
		"[kg], name: Kind}, sort: [-day], separator: semicolon, decimal: comma, headings: false}\n"),
		Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	f := d.Import("ledger")
	if f == nil || f.Title != "Ledger" || f.Columns[0] != (report.ImportColumn{Is: "day", As: "Posting date"}) ||
		f.Unpivot[0] != "kg" ||
		f.Name != "Kind" || f.Value != "Value" || f.Separator != "semicolon" || f.Headings {
		t.Errorf("%+v", f)
	}
	for text, want := range map[string]string{
		"{of: x, columns: [day]}":                     `the dataset "x", which is not declared`,
		"{of: d, columns: [colour]}":                  `speaks of the column "colour"`,
		"{of: d, columns: [mean]}":                    `speaks of the column "mean"`,
		"{of: d, columns: [day], decimal: comma}":     "a comma cannot be",
		"{of: d, columns: [{is: day}]}":               "as",
		"{of: d, columns: [day], separator: dash}":    "dash",
		"{of: d, columns: [day], unpivot: {name: x}}": "columns",
	} {
		if _, faults := Parse([]byte(importing+"  f: "+text+"\n"), Defaults{Currency: "EUR"}); faults == nil ||
			!strings.Contains(faults.Error(), want) || faults[0].Line != 11 {
			t.Errorf("%s: %v", text, faults)
		}
	}
}
