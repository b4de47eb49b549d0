package engine

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"mantilla/core/expr"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/period"
)

// writing is a formula that is written in SQL. Numbers are written as what their digits are, days
// and moments as their numbers, conditions as conditions.
type writing struct {
	asking  *asking
	ctx     context.Context
	formula *formula.Formula
	until   int // the columns before this one may be spoken of
}

// unwritten says which part of a formula the engine does not compute exactly.
func unwritten(what string, args ...any) error { return fmt.Errorf(what, args...) }

// whole writes a formula as the cell of a column: its digits, where they are no more than 18.
func (w *writing) whole(field frame.Field) (string, error) {
	tree := w.formula.Tree()
	written, err := w.part(tree)
	if err != nil {
		return "", err
	}
	switch {
	case tree.Field.Names != nil:
		return "", unwritten("names that stand for numbers")
	case field.Kind.Numeric():
		return "(" + placed(written, tree.Field.Scale, field.Scale) + ")::numeric(18, 0)::bigint", nil
	case field.Kind == frame.Flag:
		return "(" + written + ")::int::bigint", nil
	case field.Kind == frame.Text:
		return written, nil
	}
	return "(" + written + ")::bigint", nil
}

// placed brings digits to a number of places, rounded half away from zero.
func placed(digits string, from, to int32) string {
	switch {
	case from < to:
		return "(" + digits + " * 1" + strings.Repeat("0", int(to-from)) + "::numeric)"
	case from > to:
		return "round(" + digits + " * 0." + strings.Repeat("0", int(from-to)-1) + "1)"
	}
	return digits
}

var signs = map[string]string{"=": "=", "<>": "<>", "<": "<", "<=": "<=", ">": ">", ">=": ">="}

// part writes a part of a formula.
func (w *writing) part(e *expr.Expr) (string, error) {
	switch e.Op {
	case expr.Number:
		_, places, _ := strings.Cut(e.Text, ".")
		digits, err := frame.ParseNumber(e.Text, int32(len(places)))
		return fmt.Sprintf("%d::numeric", digits), err
	case expr.Text:
		return w.asking.text(e.Text), nil
	case "true", "false":
		return e.Op, nil
	case "date":
		day, err := period.ParseDay(e.Text)
		return fmt.Sprintf("%d::bigint", day), err
	case expr.Name:
		return w.name(e)
	case expr.Call:
		return w.call(e)
	}
	if e.Op == expr.Null || e.Field.Names != nil {
		return "", unwritten("%s", e.Op)
	}
	for _, arg := range e.Args {
		if arg.Op != expr.Null && arg.Field.Names != nil {
			return "", unwritten("names that stand for numbers")
		}
	}
	parts := make([]string, len(e.Args))
	for i, arg := range e.Args {
		var err error
		if parts[i], err = w.part(arg); err != nil {
			return "", err
		}
	}
	return operation(e, parts)
}

// operation writes what is done with parts that are written.
func operation(e *expr.Expr, parts []string) (string, error) {
	switch e.Op {
	case "and", "or":
		return "(" + parts[0] + " " + e.Op + " " + parts[1] + ")", nil
	case "not not":
		return "(not " + parts[0] + ")", nil
	case "not -":
		return "(- " + parts[0] + ")", nil
	case "is null":
		return "(" + parts[0] + " is null)", nil
	case "+", "-":
		x, y := alike(e.Args[0], parts[0], e.Args[1], parts[1])
		return "(" + x + " " + e.Op + " " + y + ")", nil
	case "*":
		return "(" + parts[0] + " * " + parts[1] + ")", nil
	case "between":
		low, high := test(e.Args[0], parts[0], ">=", e.Args[1], parts[1]), test(e.Args[0], parts[0], "<=", e.Args[2],
			parts[2])
		return "(" + low + " and " + high + ")", nil
	case "in":
		var tests []string
		for i := range parts[1:] {
			tests = append(tests, test(e.Args[0], parts[0], "=", e.Args[i+1], parts[i+1]))
		}
		return "(" + strings.Join(tests, " or ") + ")", nil
	case expr.Case:
		return cases(e, "", nil, e.Args, parts), nil
	case expr.CaseOf:
		return cases(e, parts[0], e.Args[0], e.Args[1:], parts[1:]), nil
	}
	if signs[e.Op] != "" {
		return test(e.Args[0], parts[0], signs[e.Op], e.Args[1], parts[1]), nil
	}
	if e.Op == "/" {
		return "", unwritten("a quotient")
	}
	return "", unwritten("%s", e.Op)
}

// alike writes two numbers with as many places.
func alike(a *expr.Expr, x string, b *expr.Expr, y string) (string, string) {
	if !a.Field.Kind.Numeric() || !b.Field.Kind.Numeric() {
		return x, y
	}
	scale := max(a.Field.Scale, b.Field.Scale)
	return placed(x, a.Field.Scale, scale), placed(y, b.Field.Scale, scale)
}

// test writes a comparison; texts are compared byte by byte.
func test(a *expr.Expr, x, sign string, b *expr.Expr, y string) string {
	x, y = alike(a, x, b, y)
	if a.Field.Kind == frame.Text {
		return "(" + x + ` collate "C" ` + sign + " " + y + ")"
	}
	return "(" + x + " " + sign + " " + y + ")"
}

// cases writes a choice, of what is compared where something is.
func cases(e *expr.Expr, subject string, of *expr.Expr, args []*expr.Expr, parts []string) string {
	var b strings.Builder
	b.WriteString("(case")
	then := func(at int) string {
		if e.Field.Kind.Numeric() {
			return placed(parts[at], args[at].Field.Scale, e.Field.Scale)
		}
		return parts[at]
	}
	for i := 0; i+1 < len(parts); i += 2 {
		when := parts[i]
		if of != nil {
			when = test(of, subject, "=", args[i], parts[i])
		}
		b.WriteString(" when " + when + " then " + then(i+1))
	}
	if len(parts)%2 == 1 {
		b.WriteString(" else " + then(len(parts)-1))
	}
	return b.String() + " end)"
}

// name writes a column, or a single value.
func (w *writing) name(e *expr.Expr) (string, error) {
	if at := w.asking.table.schema[:w.until].Index(e.Text); at >= 0 {
		field := w.asking.table.schema[at]
		cell, err := w.asking.column(w.ctx, at)
		switch {
		case err != nil:
			return "", err
		case field.Names != nil:
			return "", unwritten("%s, whose numbers stand for names", e.Text)
		case field.Kind == frame.Flag:
			return "(" + cell + " = 1)", nil
		case field.Kind.Numeric():
			return "(" + cell + ")::numeric", nil
		}
		return "(" + cell + ")", nil
	}
	v, ok := w.formula.Given(e.Text)
	switch {
	case !ok || v.Null || v.Kind != frame.Text && v.Text != "":
		return "", unwritten("%s", e.Text)
	case v.Kind == frame.Text:
		return w.asking.text(v.Text), nil
	case v.Kind == frame.Flag:
		return fmt.Sprint(v.Int() != 0), nil
	case v.Kind.Numeric():
		return v.Number.Digits.ToString(0) + "::numeric", nil
	}
	return fmt.Sprintf("%d::bigint", v.Int()), nil
}

// truncated are the functions that take a day to the first of its period, as engines do too.
var truncated = map[string]bool{"year": true, "quarter": true, "month": true, "week": true}

var errFunction = errors.New("the function")

// call writes the functions that engines compute as we do.
func (w *writing) call(e *expr.Expr) (string, error) {
	name := strings.ToLower(e.Text)
	if truncated[name] && e.Args[0].Field.Kind == frame.Date {
		day, err := w.part(e.Args[0])
		return "(date_trunc('" + name + "', date '1970-01-01' + (" + day + ")::int)::date - date '1970-01-01')", err
	}
	if name != "coalesce" && name != "round" {
		return "", fmt.Errorf("%w %s", errFunction, name)
	}
	parts := make([]string, len(e.Args))
	for i, arg := range e.Args {
		if arg.Op == expr.Null || arg.Field.Names != nil {
			return "", fmt.Errorf("%w %s", errFunction, name)
		}
		var err error
		if parts[i], err = w.part(arg); err != nil {
			return "", err
		}
		if e.Field.Kind.Numeric() {
			parts[i] = placed(parts[i], arg.Field.Scale, e.Field.Scale)
		}
	}
	if name == "round" {
		return parts[0], nil
	}
	return "coalesce(" + strings.Join(parts, ", ") + ")", nil
}
