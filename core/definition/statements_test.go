package definition

import (
	"strings"
	"testing"
)

const stated = `report: r
title: R
category: C
depth: lines
about: A.
source: s
datasets:
  d: {from: t, columns: [{id: paid, is: a, type: date}, {id: batch, is: c, type: text}, ` +
	`{id: amount, is: b, type: money, total: sum}]}
views: {v: {of: d}}
statements:
`

func TestStatements(t *testing.T) {
	d, faults := Parse([]byte(stated+"  bank: {of: d, day: paid, amount: amount, reference: batch, follows: 2..5, "+
		"tolerance: 0.05, reversed: true, file: {day: Booked, amount: Sum, separator: semicolon, dates: dmy}}\n"),
		Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	s := d.Statement("bank")
	if s == nil || s.Title != "Bank" || s.From != 2 || s.To != 5 || !s.Reversed || s.File.Day != "Booked" ||
		s.File.Decimal != "point" || s.File.Dates != "dmy" || d.Statement("till") != nil {
		t.Errorf("%+v", s)
	}
	for text, want := range map[string]string{
		"{of: x, day: paid, amount: amount}":                                   `the dataset "x", which is not declared`,
		"{of: d, day: batch, amount: amount}":                                  `"batch", which is not a date`,
		"{of: d, day: paid, amount: paid}":                                     `"paid", which is not a number`,
		"{of: d, day: paid, amount: amount, reference: lot}":                   `"lot", which is not a text`,
		"{of: d, day: paid, amount: amount, follows: 5..2}":                    `"5..2" is no lag`,
		"{of: d, day: paid, amount: amount, follows: 2..5 days}":               `"2..5 days" is no lag`,
		"{of: d, day: paid, amount: amount, tolerance: much}":                  `tolerance "much"`,
		"{of: d, day: paid, amount: amount, tolerance: -0.01}":                 `tolerance "-0.01"`,
		"{of: d, day: paid}":                                                   "amount",
		"{of: d, day: paid, amount: amount, file: {day: Booked}}":              "both day and amount",
		"{of: d, day: paid, amount: amount, file: {day: B, amount: A, in: x}}": `no key "in"`,
	} {
		_, faults := Parse([]byte(stated+"  bank: "+text+"\n"), Defaults{Currency: "EUR"})
		if len(faults) == 0 || !strings.Contains(faults.Error(), want) {
			t.Errorf("%s: %v and not %s", text, faults, want)
		}
	}
}
