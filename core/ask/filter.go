package ask

import (
	"fmt"
	"strings"
	"time"
	"unicode"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/table"
)

// Filter is one test that a reader put on a column or on something computed of
// each row, as typed and as read.
type Filter struct {
	Typed      string
	Column     string // the column or formula
	Test       string // = <> >= <= > < or ~
	Value      string
	Conditions []table.Condition
}

func (f Filter) String() string { return f.Typed }

// operators in the order in which they are looked for.
var operators = []string{"<>", ">=", "<=", "~", "=", ">", "<"}

// ReadFilter reads a filter as it is typed:
//
//	district=Hollin            is; several values with semicolons between
//	district<>Hollin;Marr      is none of these
//	place='Mill; Ford'         a value with a semicolon or spaces at its ends
//	name~brell                 holds this text, whatever the case and accents
//	net_kg>=100                at least; <= at most; > and < more and less than
//	(kg > 10)=no               of something computed whose signs are like a test, in brackets
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
	return Filter{Typed: id + op + value, Column: unwrapped(id), Test: op, Value: value}, nil
}

// Filtered is what the filter that is typed looks at.
func Filtered(text string) string {
	at, _ := operatorIn(text)
	return unwrapped(strings.TrimSpace(text[:at]))
}

// Wrapped is what a filter looks at as it is typed before a test: something computed whose own
// signs might be taken for the test stands in brackets.
func Wrapped(column string) string {
	depth := 0
	for _, r := range column {
		switch {
		case r == '(':
			depth++
		case r == ')':
			depth--
		case depth == 0 && r != '_' && r != '.' && !unicode.IsLetter(r) && !unicode.IsDigit(r):
			return "(" + column + ")"
		}
	}
	return column
}

// unwrapped is a column without the brackets around all of it.
func unwrapped(id string) string {
	inner, ok := strings.CutPrefix(id, "(")
	if !ok || !strings.HasSuffix(inner, ")") {
		return id
	}
	inner = inner[:len(inner)-1]
	depth := 0
	for _, r := range inner {
		switch r {
		case '(':
			depth++
		case ')':
			depth--
		}
		if depth < 0 { // (a) + (b)
			return id
		}
	}
	return inner
}

// Over makes the conditions of the filter over what it looks at. Days are read by the
// calendar.
func (f *Filter) Over(field frame.Field, calendar period.Calendar) (err error) {
	f.Conditions, err = conditionsFor(field, f.Test, f.Value, calendar)
	return err
}

// operatorIn finds the first test that stands neither in brackets nor in a quoted text.
func operatorIn(text string) (at int, op string) {
	depth, quoted := 0, false
	for i := range len(text) {
		if text[i] == '\'' {
			quoted = !quoted
		}
		if quoted {
			continue
		}
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
	case (op == ">" || op == "<") && (field.Kind == frame.Text || field.Kind == frame.Flag):
		return nil, fmt.Errorf("%s goes with numbers and days, and %s holds %s; use = or %s=", op, field.Name, field.Kind, op)
	case op == "~":
		c.Test, c.Texts = table.Contains, Unquoted(value)[:1]
		return []table.Condition{c}, nil
	}
	if field.Kind == frame.Date || field.Kind == frame.Timestamp {
		return dayConditions(field, op, value, calendar)
	}
	test, past := testOf(op)
	c.Test = test
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
		c.Ints = append(c.Ints, digits+past)
	}
	return []table.Condition{c}, nil
}

// testOf is the test of cells that a sign asks for, and how far past the value it begins: what
// is more than 5 is at least the next value that a cell can have.
func testOf(op string) (test table.Test, past int64) {
	switch op {
	case "<>":
		return table.IsNot, 0
	case ">=":
		return table.AtLeast, 0
	case "<=":
		return table.AtMost, 0
	case ">":
		return table.AtLeast, 1
	case "<":
		return table.AtMost, -1
	}
	return table.Is, 0
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
	test, past := testOf(op)
	c := table.Condition{Column: field.Name, Test: test}
	values := Unquoted(value)
	if exact, ok := exact(field, values, calendar); ok &&
		(op == "<>" || len(values) > 1 || field.Kind == frame.Timestamp) {
		for _, cell := range exact {
			c.Ints = append(c.Ints, cell+past)
		}
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
	case ">":
		return []table.Condition{{Column: c.Column, Test: table.AtLeast, Ints: []int64{last + 1}}}, nil
	case "<":
		return []table.Condition{{Column: c.Column, Test: table.AtMost, Ints: []int64{first - 1}}}, nil
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
