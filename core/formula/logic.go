package formula

import (
	"strings"

	"mantilla/core/pattern"

	"mantilla/core/expr"
	"mantilla/core/frame"
)

func isFlag(f frame.Field) bool { return f.Kind == frame.Flag || f.Kind == anyKind }

var flag = frame.Field{Kind: frame.Flag}

// logic joins conditions: what has no value may still be decided by the other
// side.
func logic(t *expr.Expr, args []node) (node, error) {
	for _, a := range args {
		if !isFlag(a.field) {
			return node{}, fault(a.at, "%s joins conditions, and this is %s", t.Op, called(a.field))
		}
	}
	decided := map[string]int64{"or": 1}[t.Op]
	return node{field: flag, at: t.At, eval: func(e *env) (cells, error) {
		x, y, err := pair(e, args[0], args[1])
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Ints = make([]int64, len(x.Ints))
		if t.Op == "or" {
			for i, v := range x.Ints {
				out.Ints[i] = v | y.Ints[i]
			}
		} else {
			for i, v := range x.Ints {
				out.Ints[i] = v & y.Ints[i]
			}
		}
		if x.Nulls == nil && y.Nulls == nil {
			return out, nil
		}
		out.Nulls = make([]bool, len(out.Ints))
		for i := range out.Ints {
			nx, ny := x.Null(i), y.Null(i)
			switch {
			case !nx && x.Ints[i] == decided, !ny && y.Ints[i] == decided:
				out.Ints[i] = decided
			case nx || ny:
				out.Nulls[i], out.Ints[i] = true, 0
			}
		}
		return out, nil
	}}, nil
}

func inverted(t *expr.Expr, a node) (node, error) {
	if !isFlag(a.field) {
		return node{}, fault(a.at, "not is for conditions, and this is %s", called(a.field))
	}
	return node{field: flag, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = x.Nulls, make([]int64, len(x.Ints))
		for i, v := range x.Ints {
			if !x.Null(i) {
				out.Ints[i] = 1 - v
			}
		}
		return out, nil
	}}, nil
}

func isEmpty(t *expr.Expr, a node) node {
	return node{field: flag, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Ints = make([]int64, max(len(x.Ints), len(x.Texts), len(x.Codes), len(x.Wide)))
		if x.Codes != nil {
			out.Ints = out.Ints[:len(x.Codes)]
		}
		for i, null := range x.Nulls {
			if null {
				out.Ints[i] = 1
			}
		}
		return out, nil
	}}
}

// alike makes two values comparable, or says that they are not.
func alike(t *expr.Expr, a, b node) (node, node, error) {
	if a.field.Names != nil && b.field.Kind == frame.Text {
		a = named(a)
	}
	if b.field.Names != nil && a.field.Kind == frame.Text {
		b = named(b)
	}
	x, y := a.field, b.field
	switch {
	case x.Kind == anyKind || y.Kind == anyKind:
		if x.Kind == anyKind {
			a = typed(a, y)
		} else {
			b = typed(b, x)
		}
	case x.Kind.Numeric() && y.Kind.Numeric():
		if x.Kind == frame.Money && y.Kind == frame.Money && x.Currency != y.Currency && x.Currency != "" &&
			y.Currency != "" {
			return a, b, fault(b.at, "%s cannot be compared with %s", x.Currency, y.Currency)
		}
		scale := max(x.Scale, y.Scale)
		a, b = rescaled(a, scale), rescaled(b, scale)
	case x.Kind != y.Kind:
		return a, b, fault(b.at, "%s cannot be compared with %s", called(x), called(y))
	}
	return a, b, nil
}

// typed makes null a value of a type.
func typed(n node, as frame.Field) node {
	v := valued(frame.Value{Kind: as.Kind, Null: true}, n.at)
	v.field = as
	return v
}

func compared(t *expr.Expr, a, b node) (node, error) {
	a, b, err := alike(t, a, b)
	if err != nil {
		return node{}, err
	}
	met := tests[t.Op]
	return node{field: flag, at: t.At, eval: func(e *env) (cells, error) {
		if a.field.Kind == frame.Text {
			return comparedTexts(e, a, b, met)
		}
		x, y, err := pair(e, a, b)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls = nulls(x, y)
		if x.Wide != nil || y.Wide != nil {
			other := y.wide()
			for i, d := range x.wide() {
				out.Ints = append(out.Ints, met[d.Cmp(other[i])+1])
			}
			return out, nil
		}
		out.Ints = make([]int64, len(x.Ints))
		other := y.Ints[:len(x.Ints)]
		for i, v := range x.Ints {
			w := other[i]
			switch {
			case v < w:
				out.Ints[i] = met[0]
			case v == w:
				out.Ints[i] = met[1]
			default:
				out.Ints[i] = met[2]
			}
		}
		return out, nil
	}}, nil
}

// tests tell for each operator what less, equal and more come to.
var tests = map[string][3]int64{"=": {0, 1, 0}, "<>": {1, 0, 1}, "<": {1, 0, 0}, "<=": {1, 1, 0}, ">": {0, 0, 1},
	">=": {0, 1, 1}}

// comparedTexts asks each distinct text once where the other side is fixed.
func comparedTexts(e *env, a, b node, met [3]int64) (cells, error) {
	x, y, err := pair(e, a, b)
	if err != nil {
		return x, err
	}
	out := cells{one: x.one}
	out.Nulls = nulls(x, y)
	rows := textRows(x)
	out.Ints = make([]int64, rows)
	if x.Codes != nil && y.Codes != nil && len(y.Texts) == 1 {
		table := make([]int64, len(x.Texts))
		for i, s := range x.Texts {
			table[i] = met[strings.Compare(s, y.Texts[0])+1]
		}
		for i, code := range x.Codes {
			if int(code) < len(table) {
				out.Ints[i] = table[code]
			}
		}
		return out, nil
	}
	for i := range rows {
		if out.Nulls == nil || !out.Nulls[i] {
			out.Ints[i] = met[strings.Compare(x.Text(i), y.Text(i))+1]
		}
	}
	return out, nil
}

func textRows(c cells) int {
	if c.Codes != nil {
		return len(c.Codes)
	}
	return len(c.Texts)
}

// oneOf is a chain of equals joined by or, which gives SQL's rules for null.
func oneOf(t *expr.Expr, args []node) (node, error) {
	return chained(t, once(args[0]), args[1:], "=", "or")
}

func between(t *expr.Expr, args []node) (node, error) {
	args[0] = once(args[0])
	low, err := compared(&expr.Expr{Op: ">=", At: t.At}, args[0], args[1])
	if err != nil {
		return node{}, err
	}
	high, err := compared(&expr.Expr{Op: "<=", At: t.At}, args[0], args[2])
	if err != nil {
		return node{}, err
	}
	return logic(&expr.Expr{Op: "and", At: t.At}, []node{low, high})
}

func chained(t *expr.Expr, of node, others []node, test, joint string) (node, error) {
	out, err := compared(&expr.Expr{Op: test, At: t.At}, of, others[0])
	for _, other := range others[1:] {
		var next node
		if err == nil {
			next, err = compared(&expr.Expr{Op: test, At: t.At}, of, other)
		}
		if err == nil {
			out, err = logic(&expr.Expr{Op: joint, At: t.At}, []node{out, next})
		}
	}
	return out, err
}

// mostPattern is how long a pattern may be.
const mostPattern = 1000

// like compares with a pattern in which % stands for any text and _ for one
// character, whatever the case.
func like(t *expr.Expr, a, b node) (node, error) {
	if a.field.Names != nil {
		a = named(a)
	}
	for _, n := range []node{a, b} {
		if n.field.Kind != frame.Text && n.field.Kind != anyKind {
			return node{}, fault(n.at, "like is for texts, and this is %s", called(n.field))
		}
	}
	if a.field.Kind == anyKind || b.field.Kind == anyKind {
		return typed(a, flag), nil
	}
	if !b.fixed {
		return node{}, fault(b.at, "the pattern after like must be the same for all rows")
	}
	p, err := b.eval(&env{rows: 1})
	if err != nil {
		return node{}, err
	}
	if p.Vector.Null(0) {
		return typed(a, flag), nil
	}
	if len(p.Texts[0]) > mostPattern {
		return node{}, fault(b.at, "the pattern after like has %d characters; at most %d can be used", len(p.Texts[0]),
			mostPattern)
	}
	sought := pattern.Of(p.Texts[0])
	n := ofTexts(t, a, func(s string) string {
		if sought.Matches(s) {
			return "1"
		}
		return ""
	})
	return node{field: flag, at: t.At, eval: func(e *env) (cells, error) {
		x, err := n.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = x.Nulls, make([]int64, textRows(x))
		for i := range out.Ints {
			if x.Text(i) != "" {
				out.Ints[i] = 1
			}
		}
		return out, nil
	}}, nil
}
