package definition

import (
	"strings"
	"testing"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
)

// drawn is a definition with every form of view and every kind of formula.
const drawn = `report: drawn
title: Drawn
category: Intake
depth: overview
about: Every form of view.
source: coop
parameters:
  - {id: received, type: range, required: true, default: last month}
  - {id: limit, type: decimal, scale: 1, default: '20.5'}
  - {id: places, type: integer, required: true, default: '1'}
  - {id: by, type: grouping, of: lots, columns: [district, month], required: true, default: district}
datasets:
  lots:
    from: lot
    where: [lot.received_on between :received.start and :received.end]
    columns:
      - {id: lot_no, is: lot.lot_no, type: text, opens: {address: 'https://lots.example/{lot_no}'}}
      - {id: district, is: lot.district, type: text, code: district_code}
      - {id: district_code, is: lot.district_id, type: text}
      - {id: received, is: lot.received_on, type: date}
      - {id: ends, is: lot.ends_on, type: date}
      - {id: net_kg, is: lot.net_g, type: decimal, scale: 3, total: sum, under: Weight, ` +
	`tone: {when: net_kg > limit, as: alert}}
      - {id: month, formula: month(received), type: date}
      - {id: heavy, formula: net_kg > limit, type: flag}
      - {id: lots, formula: count(*), type: integer, at: groups}
      - {id: mean, formula: avg(net_kg), type: decimal, scale: ':places', at: groups, ` +
	`tone: [{when: mean > 3, as: good}, {when: mean <= 3, as: attention}]}
views:
  table: {of: lots, group: [':by', 'band(net_kg, 10, 20)'], columns: [lot_no, net_kg, lots, mean], ` +
	`sort: [-lots, 'band(net_kg, 10, 20)'], limit: 5, rest: All others, open: 1, zeros: omit, names: both, ` +
	`says: Told.}
  cross: {of: lots, show: crosstab, down: [district], across: [quarter(received), month], cells: [net_kg, ` +
	`lots], fill: true, stacked: true}
  bars: {of: lots, show: chart, form: bar, by: [district, heavy], measure: lots}
  points: {of: lots, show: chart, form: scatter, x: received, y: net_kg, label: lot_no, marks: [{at: limit, ` +
	`label: Limit}, {at: avg(net_kg) + 2, label: Mean}]}
  spread: {of: lots, show: chart, form: histogram, x: net_kg, bins: 8}
  time: {of: lots, show: timeline, start: received, end: ends, label: lot_no}
  form: {of: lots, show: form, blanks: [Seen by]}
`

func TestViewsAreRead(t *testing.T) {
	d := parse(t, drawn)
	v := d.View("table")
	if v.Show != report.Table || v.Limit != 5 || v.Rest != "All others" || v.Open != 1 || v.Zeros != "omit" ||
		v.Names != "both" || v.Says != "Told." || strings.Join(v.Levels, " ") != ":by band(net_kg, 10, 20)" {
		t.Errorf("table read as %+v", v)
	}
	if v = d.View("cross"); v.Show != report.Crosstab || !v.Fill || !v.Stacked ||
		strings.Join(v.Across, " ") != "quarter(received) month" || strings.Join(v.Cells, " ") != "net_kg lots" {
		t.Errorf("crosstab read as %+v", v)
	}
	if v = d.View("points"); v.Show != report.Chart || v.Drawn != "scatter" || v.X != "received" || v.Y != "net_kg" ||
		len(v.Marks) != 2 || v.Marks[1].At != "avg(net_kg) + 2" {
		t.Errorf("points read as %+v", v)
	}
	if v = d.View("time"); v.Show != report.Timeline || v.Start != "received" || v.End != "ends" || v.Label != "lot_no" {
		t.Errorf("timeline read as %+v", v)
	}
	c := d.Dataset("lots").Column("net_kg")
	if c.Under != "Weight" || len(c.Tones) != 1 || c.Tones[0].As != "alert" ||
		d.Dataset("lots").Column("district").Code != "district_code" {
		t.Errorf("column read as %+v", c)
	}
	opens := d.Dataset("lots").Column("lot_no").Opens
	if got := opens.Fill(func(id string) string { return "<" + id + ">" }); strings.Join(opens.Fields(),
		" ") != "lot_no" || got != "https://lots.example/<lot_no>" {
		t.Errorf("the address is %s of %v", got, opens.Fields())
	}
	if rows := d.Dataset("lots").Rows(); rows.ID != "lots.rows" || rows.Of != "lots" || rows.Show != report.Table {
		t.Errorf("all rows are %+v", rows)
	}
}

func TestKeptColumnsAreThoseWithoutAFormula(t *testing.T) {
	d := parse(t, drawn).Dataset("lots")
	var names []string
	for _, f := range d.Schema() {
		names = append(names, f.Name)
	}
	if got := strings.Join(names, " "); got != "lot_no district district_code received ends net_kg" {
		t.Errorf("kept are %s", got)
	}
	rows, groups, scope,
		faults := d.Calculate(formula.Scope{Given: map[string]frame.Value{"limit": {Kind: frame.Decimal, Null: true}}})
	if len(rows) != 2 || len(groups) != 2 || len(faults) != 0 || len(scope.Columns) != 8 ||
		scope.Columns[6].Grain != "month" {
		t.Errorf("%d of rows, %d of groups, %v, %v", len(rows), len(groups), scope.Columns, faults)
	}
}

func TestValuesSettleViews(t *testing.T) {
	d := parse(t, drawn)
	settle := func(typed map[string]string) *report.Definition {
		return d.Settle(param.Recall(d.Parameters, typed, period.Calendar{}))
	}
	s := settle(map[string]string{"by": "month; district", "places": "3"})
	if got := strings.Join(s.View("table").Levels, " "); got != "month district band(net_kg, 10, 20)" {
		t.Errorf("levels %s", got)
	}
	if got := s.Dataset("lots").Column("mean").Scale; got != 3 {
		t.Errorf("%d places", got)
	}
	if got := settle(map[string]string{"by": "district"}).View("table").Levels; len(got) != 2 {
		t.Errorf("levels %v", got)
	}
}

func TestFaultsOfViewsAndFormulas(t *testing.T) {
	for _, c := range []struct{ old, new, says string }{
		{"formula: month(received)", "formula: month(recieved)",
			`the formula of column month: "recieved" is not known here; did you mean received?`},
		{"formula: net_kg > limit, type: flag", "formula: net_kg + limit, type: flag",
			"the formula gives a number, and the column holds flag"},
		{"formula: count(*), type: integer, at: groups", "formula: count(*), type: integer", "write at: groups"},
		{"formula: count(*), type: integer, at: groups", "formula: net_kg * 2, type: integer, at: groups",
			"here the rows of a group are meant"},
		{"formula: count(*), type: integer, at: groups", "is: lot.n, formula: count(*), type: integer, at: groups",
			"has both is and formula"},
		{"formula: count(*), type: integer, at: groups", "formula: count(*), type: integer, at: groups, total: sum",
			"leave total out"},
		{"tone: {when: net_kg > limit, as: alert}", "tone: {when: net_kg > limt, as: alert}",
			"did you mean limit or lot_no?"},
		{"tone: {when: net_kg > limit, as: alert}", "tone: {when: net_kg, as: alert}", "a condition is wanted"},
		{"tone: {when: net_kg > limit, as: alert}", "tone: {when: heavy, as: red}", `"red" is not allowed here`},
		{"code: district_code", "code: district_cod", "did you mean district_code or district?"},
		{"lots.example/{lot_no}", "lots.example/{lot}", "the address of column lot_no speaks of {lot}"},
		{"https://lots.example", "lots.example", "must begin with https://"},
		{"scale: ':places'", "scale: ':plaices'", "did you mean places?"},
		{"group: [':by',", "group: [':bye',", "did you mean by?"},
		{"'band(net_kg, 10, 20)'], columns", "'band(net_kg, 20, 10)'], columns", "must rise"},
		{"cells: [net_kg, lots]", "cells: [received]", "has no total and is not at groups"},
		{"across: [quarter(received), month]", "across: [sum(net_kg)]", "figure of many rows"},
		{"down: [district], ", "", `the crosstab cross lacks the key "down"`},
		{"x: net_kg, bins: 8", "x: lot_no, bins: 8", "a number is wanted"},
		{"end: ends,", "end: net_kg,", "a date is wanted"},
		{"at: avg(net_kg) + 2", "at: min(received)", "a mark stands at a number"},
		{"form: bar,", "form: pies,", `"pies" is not allowed here`},
		{"by: [district, heavy], ", "", `the chart bars lacks the key "by"`},
	} {
		if !strings.Contains(drawn, c.old) {
			t.Fatalf("%q is not in the definition", c.old)
		}
		_, faults := Parse([]byte(strings.Replace(drawn, c.old, c.new, 1)), Defaults{Currency: "EUR"})
		if !strings.Contains(faults.Error(), c.says) {
			t.Errorf("%s: got %v; want %q", c.new, faults, c.says)
		}
	}
}

func TestFaultsOfFormulasPointIntoThem(t *testing.T) {
	text := strings.Replace(drawn, "formula: avg(net_kg)", "formula: avg(net_kq)", 1)
	_, faults := Parse([]byte(text), Defaults{Currency: "EUR"})
	lines := strings.Split(text, "\n")
	if len(faults) == 0 || !strings.HasPrefix(lines[faults[0].Line-1][faults[0].Column-1:], "net_kq") {
		t.Errorf("got %v", faults)
	}
}
