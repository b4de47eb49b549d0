package formula

import (
	"errors"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/exact"
	"mantilla/core/expr"
	"mantilla/core/frame"
)

// ratio is a quotient that has not been rounded yet: what is divided and what
// by. A quotient is rounded where it is shown, to the places shown there, and
// only once; so products, sums and roundings of quotients are made of their
// ratios.
type ratio struct {
	num, den node
	terms    int                     // how many quotients it was put together from
	fallback func(places int32) node // made of rounded parts, for numbers too large to be exact; nil where there is none
}

// mostTerms bounds how many quotients are put together; beyond, each is
// rounded to its own places first.
const mostTerms = 8

// over is a quotient with so many places that it is shown with by itself.
func over(t *expr.Expr, num, den node, field frame.Field, terms int) node {
	r := &ratio{num: once(num), den: once(den), terms: terms}
	n := node{field: field, at: t.At, ratio: r}
	n.eval = func(e *env) (cells, error) { return r.divided(e, field.Scale, exact.HalfAway) }
	return n
}

// quotientOf divides two parts, either of which may be a quotient itself.
func quotientOf(t *expr.Expr, a, b node, field frame.Field) (node, bool) {
	num, den, terms := a, b, 1
	if a.ratio != nil {
		part, ok := product(t, a.ratio.den, b)
		if !ok {
			return node{}, false
		}
		num, den, terms = a.ratio.num, part, terms+a.ratio.terms
	}
	if b.ratio != nil {
		above, ok := product(t, num, notZero(t, b.ratio.den))
		if !ok {
			return node{}, false
		}
		below := b.ratio.num
		if a.ratio != nil {
			if below, ok = product(t, a.ratio.den, b.ratio.num); !ok {
				return node{}, false
			}
		}
		num, den, terms = above, below, terms+b.ratio.terms
	}
	return over(t, num, den, field, terms), terms <= mostTerms
}

// exactly computes a sum, difference or product one of whose parts is a quotient
// without rounding the quotient; ok is false where that would take too many
// places.
func exactly(t *expr.Expr, a, b node, field frame.Field) (n node, ok bool) {
	if a.ratio == nil && b.ratio == nil {
		return node{}, false
	}
	one := valued(frame.Value{Kind: frame.Integer, Number: frame.Exact(1, 0)}, t.At)
	x, y := a.ratio, b.ratio
	if x == nil {
		x = &ratio{num: a, den: one}
	}
	if y == nil {
		y = &ratio{num: b, den: one}
	}
	den := x.den
	if b.ratio != nil {
		if den, ok = product(t, x.den, y.den); !ok {
			return node{}, false
		}
	}
	var num node
	if t.Op == "*" {
		num, ok = product(t, x.num, y.num)
	} else {
		left, okLeft := x.num, true
		if b.ratio != nil {
			left, okLeft = product(t, x.num, y.den)
		}
		right, okRight := y.num, true
		if a.ratio != nil {
			right, okRight = product(t, y.num, x.den)
		}
		ok = okLeft && okRight
		num = added(t, left, right)
		num.field = number(max(left.field.Scale, right.field.Scale), frame.Field{})
	}
	if !ok || x.terms+y.terms > mostTerms {
		return node{}, false
	}
	return over(t, num, den, field, x.terms+y.terms), true
}

// product multiplies two parts as plain numbers; ok is false where it would
// have too many places.
func product(t *expr.Expr, a, b node) (node, bool) {
	if a.field.Scale+b.field.Scale > mostPlaces {
		return node{}, false
	}
	n := multiplied(t, a, b)
	n.field = number(a.field.Scale+b.field.Scale, frame.Field{})
	return n, true
}

// notZero has no value where a number is zero, since a division by it has none.
func notZero(t *expr.Expr, a node) node {
	return node{field: a.field, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := x
		out.Nulls = make([]bool, max(len(x.Ints), len(x.Wide)))
		for i := range out.Nulls {
			out.Nulls[i] = x.Null(i) || x.Digits(i).Sign() == 0
		}
		return out, nil
	}}
}

// withFallback computes a quotient from its ratio, or where that has more
// digits than can be kept, from parts that were rounded.
func withFallback(n, rounded node) node {
	exactly := n.eval
	n.eval = func(e *env) (cells, error) {
		v, err := exactly(e)
		if errors.Is(err, errLarge) {
			return rounded.eval(e)
		}
		return v, err
	}
	n.ratio.fallback = func(places int32) node { return rescaled(rounded, places) }
	return n
}

// rounded divides, or where the exact numbers are too large, rounds what is
// made of rounded parts.
func (r *ratio) rounded(e *env, places int32, round exact.Rounding) (cells, error) {
	v, err := r.divided(e, places, round)
	if errors.Is(err, errLarge) && r.fallback != nil {
		return r.fallback(places).eval(e)
	}
	return v, err
}

// divided divides, rounding to places; a division by zero has no value.
func (r *ratio) divided(e *env, places int32, round exact.Rounding) (cells, error) {
	shift := places + r.den.field.Scale - r.num.field.Scale
	x, y, err := pair(e, r.num, r.den)
	if err != nil {
		return x, err
	}
	out := cells{one: x.one}
	out.Nulls = nulls(x, y)
	n := max(len(x.Ints), len(x.Wide))
	none := func(i int) {
		if out.Nulls == nil {
			out.Nulls = make([]bool, n)
		}
		out.Nulls[i] = true
	}
	narrow := x.Wide == nil && y.Wide == nil && shift >= 0
	factor, ok := exact.Tens(shift)
	if narrow = narrow && ok; narrow {
		_, narrow = exact.Product(x.Bound(), 2*factor)
	}
	if narrow {
		out.Ints = make([]int64, n)
		for i, v := range x.Ints {
			d := y.Ints[i]
			if d == 0 {
				none(i)
				continue
			}
			out.Ints[i] = round(v*int64(factor), d)
		}
		return out, nil
	}
	out.Wide = make([]decimal128.Num, n)
	for i := range n {
		if d := y.Digits(i); d.Sign() == 0 {
			none(i)
		} else if out.Wide[i], ok = exact.Quotient(x.Digits(i), d, shift, round); !ok {
			return out, errLarge
		}
	}
	return out, nil
}
