package revision_test

import (
	"fmt"
	"strings"
	"testing"

	"mantilla/core/definition"
	"mantilla/core/report"
	"mantilla/core/revision"
)

const first = `report: lots
title: Lots
category: Intake
depth: lines
about: Every lot.
source: coop
parameters:
  - {id: received, type: range, required: true, default: last month}
  - {id: grade, type: choice, options: {A: Select, B: Table}}
datasets:
  lots:
    from: lot
    where:
      - {is: lot.received_on, within: received}
      - lot.grade = :grade
    columns:
      - {id: lot_no, is: lot.lot_no, type: text}
      - {id: net_kg, is: lot.net_g, type: decimal, scale: 3, total: sum}
views:
  lots: {of: lots, sort: [-net_kg]}
  sums: {of: lots, group: [lot_no]}
`

func parse(t *testing.T, text string) *report.Definition {
	t.Helper()
	d, faults := definition.Parse([]byte(text), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	return d
}

// Each case changes the definition and tells the change, and nothing else, in words.
func TestChangesAreToldInWords(t *testing.T) {
	for _, c := range []struct{ from, to, says string }{
		{"title: Lots", "title: All lots", `the title was "Lots" and is "All lots"`},
		{"# ", "# ", ""},
		{"default: last month", "default: last week",
			`the default of parameter received was "last month" and is "last week"`},
		{"type: choice, ", "type: choice, many: true, ", "parameter grade takes several now"},
		{"B: Table}", "C: Table}", `the entries of parameter grade was "A, B" and is "A, C"`},
		{"lot.grade = :grade", "lot.grade <> :grade",
			`condition 2 of dataset lots was "lot.grade = :grade" and is "lot.grade <> :grade"`},
		{"scale: 3, total", "scale: 2, total",
			`the type of column net_kg of lots was "decimal with 3 places" and is "decimal with 2 places"`},
		{"from: lot\n", "from: lot join site on true\n", "what rows are read from of dataset lots changed"},
		{"is: lot.lot_no", "is: upper(lot.lot_no)",
			`the SQL of column lot_no of lots was "lot.lot_no" and is "upper(lot.lot_no)"`},
		{"  sums: {of: lots, group: [lot_no]}\n", "", "view sums is gone"},
		{"group: [lot_no]", "group: [lot_no], open: 1", "how it is laid out of view sums changed"},
		{"sort: [-net_kg]", "sort: [net_kg]", `the sorting of view lots was "-net_kg" and is "net_kg"`},
	} {
		text := strings.Replace(first, c.from, c.to, 1)
		got := strings.Join(revision.Words(parse(t, first), parse(t, text)), "\n")
		if c.from == "  sums: {of: lots, group: [lot_no]}\n" {
			got = strings.Split(got, "\n")[0] // the page goes with it
		}
		if got != c.says {
			t.Errorf("%q to %q:\n%s\nwant\n%s", c.from, c.to, got, c.says)
		}
	}
	renamed := strings.ReplaceAll(first, "net_kg", "weight")
	got := strings.Join(revision.Words(parse(t, first), parse(t, renamed)), "; ")
	for _, says := range []string{"column of lots net_kg is gone", "column of lots weight is new"} {
		if !strings.Contains(got, says) {
			t.Errorf("%q is not in %s", says, got)
		}
	}
}

func TestTextsAreComparedByLines(t *testing.T) {
	if d := revision.Text(first, first); d != "" {
		t.Errorf("alike: %s", d)
	}
	d := revision.Text(first, strings.Replace(first, "title: Lots", "title: All lots", 1))
	if !strings.Contains(d, "-title: Lots\n+title: All lots\n") {
		t.Errorf("got %s", d)
	}
}

func ExampleText() {
	fmt.Print(revision.Text("a\nb\n", "a\nc\n"))
	// Output:
	// --- was
	// +++ is
	// @@ -1,2 +1,2 @@
	//  a
	// -b
	// +c
}

// What stands lower in the file than before has not changed.
func TestWhatMovedIsTheSame(t *testing.T) {
	text := first + `imports:
  ledger: {of: lots, columns: [{is: lot_no, as: Lot}]}
statements:
  bank: {of: days, day: day, amount: net_kg}
`
	text = strings.Replace(text, "views:\n", `  days:
    from: lot
    columns: [{id: day, is: d, type: date}, {id: net_kg, is: kg, type: integer, tone: {when: net_kg < 0, as: alert}}]
views:
  bars: {of: lots, show: chart, form: bar, by: lot_no, measure: net_kg, marks: {at: avg(net_kg), label: Mean}}
`, 1)
	lower := "# a word before all\n\n" + text
	if told := revision.Words(parse(t, text), parse(t, lower)); len(told) != 0 {
		t.Errorf("it tells %q", told)
	}
}
