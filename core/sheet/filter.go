package sheet

import (
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/report"
)

// Filter is one test that a reader put on a column, as typed and as read.
type Filter struct {
	Typed      string
	Conditions []frame.Condition
}

func (f Filter) String() string { return f.Typed }

// operators in the order in which they are looked for.
var operators = []string{"<>", ">=", "<=", "~", "="}

// ParseFilter reads a filter on a column of the dataset:
//
//	district=Hollin          is; several values with semicolons between
//	district<>Hollin;Marr    is none of these
//	name~brell               holds this text, whatever the case and accents
//	net_kg>=100              at least; <= at most
//	received=2026-09         a day, or any period or moving range
//	paid=                    has no value; paid<> has one
func ParseFilter(text string, d *report.Dataset, calendar period.Calendar) (Filter, error) {
	at, op := len(text), ""
	for _, o := range operators {
		if i := strings.Index(text, o); i >= 0 && i < at {
			at, op = i, o
		}
	}
	if op == "" {
		return Filter{}, fmt.Errorf("the filter %q has no test; write it as column=value, column>=value or column~text", text)
	}
	id, value := strings.TrimSpace(text[:at]), strings.TrimSpace(text[at+len(op):])
	col := d.Column(id)
	if col == nil {
		var ids []string
		for _, c := range d.Columns {
			ids = append(ids, c.ID)
		}
		return Filter{}, fmt.Errorf("there is no column %q to filter by; %s", id, offer(id, ids))
	}
	conditions, err := conditionsFor(col, op, value, calendar)
	if err != nil {
		return Filter{}, fmt.Errorf("the filter %q: %w", text, err)
	}
	return Filter{id + op + value, conditions}, nil
}

func conditionsFor(col *report.Column, op, value string, calendar period.Calendar) ([]frame.Condition, error) {
	c := frame.Condition{Column: col.ID}
	switch {
	case value == "" && op == "=":
		c.Test = frame.Empty
		return []frame.Condition{c}, nil
	case value == "" && op == "<>":
		c.Test = frame.NotEmpty
		return []frame.Condition{c}, nil
	case value == "":
		return nil, fmt.Errorf("a value is missing after %s", op)
	case op == "~" && col.Kind != frame.Text:
		return nil, fmt.Errorf("~ searches texts, and %s holds %s; use =, >= or <=", col.ID, col.Kind)
	case op == "~":
		c.Test, c.Texts = frame.Contains, []string{value}
		return []frame.Condition{c}, nil
	case col.Kind == frame.Date || col.Kind == frame.Timestamp:
		return dayConditions(c, col.Kind, op, value, calendar)
	}
	c.Test = map[string]frame.Test{"=": frame.Is, "<>": frame.IsNot, ">=": frame.AtLeast, "<=": frame.AtMost}[op]
	values := []string{value}
	if c.Test == frame.Is || c.Test == frame.IsNot {
		values = strings.Split(value, ";")
	}
	for _, v := range values {
		v = strings.TrimSpace(v)
		if col.Kind == frame.Text {
			c.Texts = append(c.Texts, v)
			continue
		}
		digits, err := readCell(col, v)
		if err != nil {
			return nil, err
		}
		c.Ints = append(c.Ints, digits)
	}
	return []frame.Condition{c}, nil
}

func readCell(col *report.Column, v string) (int64, error) {
	if col.Kind != frame.Flag {
		return frame.ParseNumber(v, col.Scale)
	}
	switch strings.ToLower(v) {
	case "yes", "true", "1":
		return 1, nil
	case "no", "false", "0":
		return 0, nil
	}
	return 0, fmt.Errorf("%q is neither yes nor no", v)
}

// dayConditions compare with the first and last moment of a range of days.
func dayConditions(c frame.Condition, kind frame.Kind, op, value string, calendar period.Calendar) ([]frame.Condition, error) {
	r, err := calendar.ParseRange(value)
	if err != nil {
		return nil, err
	}
	first, last := int64(r.First), int64(r.Last)
	if kind == frame.Timestamp {
		const day = 86400 * 1_000_000
		first, last = first*day, (last+1)*day-1
	}
	from := frame.Condition{Column: c.Column, Test: frame.AtLeast, Ints: []int64{first}}
	to := frame.Condition{Column: c.Column, Test: frame.AtMost, Ints: []int64{last}}
	switch op {
	case ">=":
		return []frame.Condition{from}, nil
	case "<=":
		return []frame.Condition{to}, nil
	case "=":
		return []frame.Condition{from, to}, nil
	}
	return nil, fmt.Errorf("<> does not go with days; use >= or <=")
}
