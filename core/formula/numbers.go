package formula

import (
	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/exact"
	"mantilla/core/expr"
	"mantilla/core/frame"
)

// quotientPlaces is how many places a quotient has at least; columns that show
// it round it to their own.
const quotientPlaces = 6

// mostPlaces is how many decimal places a number may have while it is computed:
// as many as leave it two digits before the point.
const mostPlaces = 36

// numeric tells whether values of a type can be reckoned with.
func numeric(f frame.Field) bool {
	return f.Kind == anyKind || f.Kind.Numeric() && f.Names == nil
}

// number makes the type of a result.
func number(scale int32, money frame.Field) frame.Field {
	switch {
	case money.Kind == frame.Money:
		return frame.Field{Kind: frame.Money, Scale: scale, Currency: money.Currency}
	case scale == 0:
		return frame.Field{Kind: frame.Integer}
	}
	return frame.Field{Kind: frame.Decimal, Scale: scale}
}

func arithmetic(t *expr.Expr, a, b node) (node, error) {
	x, y := a.field.Kind, b.field.Kind
	switch {
	case numeric(a.field) && numeric(b.field):
		return reckoned(t, a, b)
	case x == frame.Date && numeric(b.field) && b.field.Scale == 0 && (t.Op == "+" || t.Op == "-"):
		n := added(t, a, b)
		n.field = frame.Field{Kind: frame.Date}
		return n, nil
	case x == frame.Date && y == frame.Date && t.Op == "-":
		n := added(t, a, b)
		n.field = frame.Field{Kind: frame.Integer}
		return n, nil
	case x == frame.Date && y == frame.Decimal:
		return node{}, fault(b.at, "a day moves by whole days")
	}
	return node{}, fault(t.At, "%s does not go between %s and %s", t.Op, called(a.field), called(b.field))
}

func reckoned(t *expr.Expr, a, b node) (node, error) {
	money := a.field
	if a.field.Kind != frame.Money {
		money = b.field
	}
	both := a.field.Kind == frame.Money && b.field.Kind == frame.Money
	if both && a.field.Currency != b.field.Currency && a.field.Currency != "" && b.field.Currency != "" {
		return node{}, fault(t.At, "%s does not go between %s and %s; convert one first", t.Op, a.field.Currency,
			b.field.Currency)
	}
	switch t.Op {
	case "+", "-":
		n := added(t, a, b)
		n.field = number(max(a.field.Scale, b.field.Scale), money)
		if whole, ok := exactly(t, a, b, n.field); ok {
			return withFallback(whole, n), nil
		}
		return n, nil
	case "*":
		if both {
			return node{}, fault(t.At, "money times money has no meaning")
		}
		if places := a.field.Scale + b.field.Scale; places > mostPlaces {
			return node{}, fault(t.At, "the product has %d decimal places, and at most %d can be kept; round its parts first, "+
				"as in round(x, 4)", places, mostPlaces)
		}
		n := multiplied(t, a, b)
		n.field = number(a.field.Scale+b.field.Scale, money)
		if whole, ok := exactly(t, a, b, n.field); ok {
			return withFallback(whole, n), nil
		}
		return n, nil
	}
	if both {
		money = frame.Field{}
	} else if b.field.Kind == frame.Money {
		return node{}, fault(t.At, "a number over money has no meaning")
	}
	field := number(max(a.field.Scale, quotientPlaces), money)
	rounded := over(t, a, b, field, 1)
	if whole, ok := quotientOf(t, a, b, field); ok && whole.ratio.terms > 1 {
		return withFallback(whole, rounded), nil
	}
	return rounded, nil
}

// added computes sums and differences.
func added(t *expr.Expr, a, b node) node {
	scale := max(a.field.Scale, b.field.Scale)
	return node{at: t.At, eval: func(e *env) (cells, error) {
		x, y, err := pair(e, a, b)
		if err == nil {
			x, err = x.scaled(a.field.Scale, scale)
		}
		if err == nil {
			y, err = y.scaled(b.field.Scale, scale)
		}
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls = nulls(x, y)
		mx, okX := x.bound()
		my, okY := y.bound()
		if okX && okY && mx < 1<<62 && my < 1<<62 {
			out.Ints = make([]int64, len(x.Ints))
			other := y.Ints[:len(x.Ints)]
			if t.Op == "+" {
				for i, v := range x.Ints {
					out.Ints[i] = v + other[i]
				}
			} else {
				for i, v := range x.Ints {
					out.Ints[i] = v - other[i]
				}
			}
			return out, nil
		}
		out.Wide = make([]decimal128.Num, len(x.wide()))
		other := y.wide()
		for i, d := range x.wide() {
			if exact.Bits(d) > 125 || exact.Bits(other[i]) > 125 {
				return out, errLarge
			}
			if t.Op == "+" {
				out.Wide[i] = d.Add(other[i])
			} else {
				out.Wide[i] = d.Sub(other[i])
			}
		}
		return out, nil
	}}
}

func multiplied(t *expr.Expr, a, b node) node {
	return node{at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		y, err := b.eval(e)
		if err != nil {
			return x, err
		}
		if x.one && !y.one {
			x, y = y, x
		}
		if y.one && !x.one && !y.Vector.Null(0) && y.Wide == nil && x.Wide == nil { // by a fixed number
			if _, ok := exact.Product(x.Bound(), y.Bound()); ok {
				out := cells{}
				out.Nulls, out.Ints = x.Nulls, make([]int64, len(x.Ints))
				for i, v := range x.Ints {
					out.Ints[i] = v * y.Ints[0]
				}
				return out, nil
			}
		}
		if x.one != y.one {
			y = y.spread(e.rows)
		}
		out := cells{one: x.one}
		out.Nulls = nulls(x, y)
		if x.Wide == nil && y.Wide == nil {
			if _, ok := exact.Product(x.Bound(), y.Bound()); ok {
				out.Ints = make([]int64, len(x.Ints))
				other := y.Ints[:len(x.Ints)]
				for i, v := range x.Ints {
					out.Ints[i] = v * other[i]
				}
				return out, nil
			}
		}
		out.Wide = make([]decimal128.Num, max(len(x.Ints), len(x.Wide)))
		other := y.wide()
		for i, d := range x.wide() {
			var ok bool
			if out.Wide[i], ok = exact.Times(d, other[i]); !ok {
				return out, errLarge
			}
		}
		return out, nil
	}}
}

func minus(t *expr.Expr, a node) (node, error) {
	if !numeric(a.field) {
		return node{}, fault(t.At, "a minus sign is for numbers, and this is %s", called(a.field))
	}
	zero := valued(frame.Value{Kind: frame.Integer, Number: frame.Exact(0, a.field.Scale)}, t.At)
	n := added(&expr.Expr{Op: "-", At: t.At}, zero, a)
	n.field = a.field
	n.field.Name = ""
	return n, nil
}

// rescaled rounds numbers half away from zero, or adds places.
func rescaled(a node, places int32) node {
	from := a.field.Scale
	if from == places {
		return a
	}
	out := node{field: a.field, at: a.at, fixed: a.fixed}
	out.field.Scale = places
	if r := a.ratio; r != nil && places < from {
		out.eval = func(e *env) (cells, error) { return r.rounded(e, places, exact.HalfAway) }
		return out
	}
	out.eval = func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil || from < places {
			if err == nil {
				x, err = x.scaled(from, places)
			}
			return x, err
		}
		return x.cut(from, places, exact.HalfAway)
	}
	return out
}

// cut takes places away.
func (c cells) cut(from, to int32, round exact.Rounding) (cells, error) {
	out := cells{one: c.one}
	out.Nulls = c.Nulls
	factor, ok := exact.Tens(from - to)
	if ok && c.Wide == nil {
		out.Ints = make([]int64, len(c.Ints))
		for i, v := range c.Ints {
			out.Ints[i] = round(v, int64(factor))
		}
		return out, nil
	}
	out.Wide = make([]decimal128.Num, max(len(c.Ints), len(c.Wide)))
	for i, d := range c.wide() {
		out.Wide[i] = frame.Number{Digits: d, Scale: from}.Round(to).Digits
	}
	return out, nil
}
