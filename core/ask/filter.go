package ask

import (
	"fmt"
	"strings"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/table"
)

// Filter is one test that a reader put on a column or on something computed of
// each row, as typed and as read.
type Filter struct {
	Typed      string
	Column     string // the column or formula
	Test       string // = <> >= <= or ~
	Value      string
	Conditions []table.Condition
}

func (f Filter) String() string { return f.Typed }

// operators in the order in which they are looked for.
var operators = []string{"<>", ">=", "<=", "~", "="}

// ReadFilter reads a filter as it is typed:
//
//	district=Hollin            is; several values with semicolons between
//	district<>Hollin;Marr      is none of these
//	place='Mill; Ford'         a value with a semicolon or spaces at its ends
//	name~brell                 holds this text, whatever the case and accents
//	net_kg>=100                at least; <= at most
//	received=2026-09           a day, or any period or moving range
//	month(received)=2026-09    the same of something computed of each row
//	band(age, 25, 35)=25 to 34 a band by its name
//	paid=                      has no value; paid<> has one
//
// Its conditions are made by [Filter.Over].
func ReadFilter(text string) (Filter, error) {
	at, op := operatorIn(text)
	if op == "" {
		return Filter{}, fmt.Errorf("the filter %q has no test; write it as column=value, column>=value or column~text", text)
	}
	id, value := strings.TrimSpace(text[:at]), strings.TrimSpace(text[at+len(op):])
	return Filter{Typed: id + op + value, Column: id, Test: op, Value: value}, nil
}

// Filtered is what the filter that is typed looks at.
func Filtered(text string) string {
	at, _ := operatorIn(text)
	return strings.TrimSpace(text[:at])
}

// Over makes the conditions of the filter over what it looks at. Days are read by the
// calendar.
func (f *Filter) Over(field frame.Field, calendar period.Calendar) (err error) {
	f.Conditions, err = conditionsFor(field, f.Test, f.Value, calendar)
	return err
}

// operatorIn finds the first test that does not stand in brackets.
func operatorIn(text string) (at int, op string) {
	depth := 0
	for i := range len(text) {
		switch text[i] {
		case '(':
			depth++
		case ')':
			depth--
		}
		if depth > 0 {
			continue
		}
		for _, o := range operators {
			if strings.HasPrefix(text[i:], o) {
				return i, o
			}
		}
	}
	return 0, ""
}

func conditionsFor(field frame.Field, op, value string, calendar period.Calendar) ([]table.Condition, error) {
	c := table.Condition{Column: field.Name}
	switch {
	case value == "" && op == "=":
		c.Test = table.Empty
		return []table.Condition{c}, nil
	case value == "" && op == "<>":
		c.Test = table.NotEmpty
		return []table.Condition{c}, nil
	case value == "":
		return nil, fmt.Errorf("a value is missing after %s", op)
	case op == "~" && field.Kind != frame.Text:
		return nil, fmt.Errorf("~ searches texts, and %s holds %s; use =, >= or <=", field.Name, field.Kind)
	case op == "~":
		c.Test, c.Texts = table.Contains, Unquoted(value)[:1]
		return []table.Condition{c}, nil
	}
	if field.Kind == frame.Date || field.Kind == frame.Timestamp {
		return dayConditions(field, op, value, calendar)
	}
	c.Test = map[string]table.Test{"=": table.Is, "<>": table.IsNot, ">=": table.AtLeast, "<=": table.AtMost}[op]
	values := []string{value}
	if c.Test == table.Is || c.Test == table.IsNot || field.Kind == frame.Text {
		values = Unquoted(value)
	}
	for _, v := range values {
		if field.Kind == frame.Text {
			c.Texts = append(c.Texts, v)
			continue
		}
		digits, err := readCell(field, v)
		if err != nil {
			return nil, err
		}
		c.Ints = append(c.Ints, digits)
	}
	return []table.Condition{c}, nil
}

// Unquoted splits values at semicolons; those in single quotes may hold some.
func Unquoted(list string) (values []string) {
	for {
		list = strings.TrimSpace(list)
		value, after := list, ""
		if strings.HasPrefix(list, "'") {
			var b strings.Builder
			i := 1
			for ; i < len(list); i++ {
				if list[i] == '\'' {
					if i+1 == len(list) || list[i+1] != '\'' {
						break
					}
					i++
				}
				b.WriteByte(list[i])
			}
			value = b.String()
			_, after, _ = strings.Cut(list[min(i+1, len(list)):], ";")
		} else {
			value, after, _ = strings.Cut(list, ";")
			value = strings.TrimSpace(value)
		}
		values = append(values, value)
		if after == "" {
			return values
		}
		list = after
	}
}

// Quoted writes a value so that [Unquoted] reads it back.
func Quoted(value string) string {
	if value == "" || strings.ContainsAny(value, ";'") || strings.TrimSpace(value) != value {
		return "'" + strings.ReplaceAll(value, "'", "''") + "'"
	}
	return value
}

func readCell(field frame.Field, v string) (int64, error) {
	for i, name := range field.Names {
		if name == v {
			return int64(i), nil
		}
	}
	if field.Names != nil {
		return 0, fmt.Errorf("%q is none of %s", v, strings.Join(field.Names, ", "))
	}
	if field.Kind != frame.Flag {
		return frame.ParseNumber(v, field.Scale)
	}
	switch strings.ToLower(v) {
	case "yes", "true", "1":
		return 1, nil
	case "no", "false", "0":
		return 0, nil
	}
	return 0, fmt.Errorf("%q is neither yes nor no", v)
}

// dayConditions compare with the first and last moment of a range of days, or
// with days, moments or periods of a column's own grain one by one.
func dayConditions(field frame.Field, op, value string, calendar period.Calendar) ([]table.Condition, error) {
	c := table.Condition{
		Column: field.Name,
		Test:   map[string]table.Test{"=": table.Is, "<>": table.IsNot, ">=": table.AtLeast, "<=": table.AtMost}[op],
	}
	values := Unquoted(value)
	if exact, ok := exact(field, values, calendar); ok &&
		(op == "<>" || len(values) > 1 || field.Kind == frame.Timestamp) {
		c.Ints = exact
		return []table.Condition{c}, nil
	}
	if len(values) > 1 {
		return nil, fmt.Errorf("several days with semicolons between are written one by one, as %s", calendar.Today)
	}
	r, err := calendar.ParseRange(value)
	if err != nil {
		return nil, err
	}
	first, last := int64(r.First), int64(r.Last)
	if field.Kind == frame.Timestamp {
		i := calendar.Interval(r)
		first, last = i.From.UnixMicro(), i.To.UnixMicro()-1
	}
	from := table.Condition{Column: c.Column, Test: table.AtLeast, Ints: []int64{first}}
	to := table.Condition{Column: c.Column, Test: table.AtMost, Ints: []int64{last}}
	switch op {
	case ">=":
		return []table.Condition{from}, nil
	case "<=":
		return []table.Condition{to}, nil
	case "=":
		return []table.Condition{from, to}, nil
	}
	return nil, fmt.Errorf("<> does not go with several days; use >= or <=")
}

// exact reads values that are each one cell of the column: moments in full,
// days, or periods of its grain.
func exact(field frame.Field, values []string, calendar period.Calendar) (cells []int64, ok bool) {
	for _, v := range values {
		if field.Kind == frame.Timestamp {
			at, err := time.Parse(time.RFC3339Nano, v)
			if err != nil {
				return nil, false
			}
			cells = append(cells, at.UnixMicro())
			continue
		}
		r, err := calendar.ParseRange(v)
		if err != nil {
			return nil, false
		}
		whole := period.Range{First: r.First, Last: r.First}
		if u, known := period.UnitNamed(field.Grain); known && field.Grain != "" {
			whole = calendar.Period(u, r.First)
		}
		if r != whole {
			return nil, false
		}
		cells = append(cells, int64(r.First))
	}
	return cells, true
}
