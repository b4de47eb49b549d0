package formula

import (
	"strings"

	"mantilla/core/exact"
	"mantilla/core/expr"
	"mantilla/core/frame"
)

// Function is one function of the language. Example is a formula over the
// table that docs/formulas.md shows, and Gives what it comes to there.
type Function struct {
	Name    string
	Usage   string
	Says    string
	Example string
	Gives   string

	least, most int
	group       bool     // a figure of many rows
	op          frame.Op // of an aggregate
	around      Around   // of a window
	compile     func(c *compiler, t *expr.Expr, args []node) (node, error)
}

// OfGroups tells whether the function makes one figure of many rows.
func (f *Function) OfGroups() bool { return f.group }

const many = 100

// Functions are all functions, in the order of the documentation.
var Functions []*Function

func init() { // not a literal: compile looks functions up
	Functions = append(Functions, numberFunctions()...)
	Functions = append(Functions, textFunctions()...)
	Functions = append(Functions, dayFunctions()...)
	Functions = append(Functions, valueFunctions()...)
	Functions = append(Functions, figures()...)
}

func functionNamed(name string) *Function {
	for _, f := range Functions {
		if f.Name == strings.ToLower(name) {
			return f
		}
	}
	return nil
}

func figures() []*Function {
	aggregate := func(op frame.Op, usage, says, example, gives string) *Function {
		return &Function{
			Name:    op.String(),
			Usage:   usage,
			Says:    says,
			Example: example,
			Gives:   gives,
			least:   1,
			most:    1,
			group:   true,
			op:      op,
		}
	}
	out := []*Function{
		aggregate(frame.Sum, "sum(x)", "The sum of the rows' numbers.", "sum(net_kg)", "60.000"),
		aggregate(frame.Avg, "avg(x)", "Their mean, to two places more than they have; money to its own.", "avg(net_kg)",
			"20.00000"),
		aggregate(frame.Min, "min(x)", "The smallest number, first day or first text.", "min(received)", "2026-09-04"),
		aggregate(frame.Max, "max(x)", "The largest number, last day or last text.", "max(price)", "6.20"),
		aggregate(frame.Count, "count(x), count(*)", "How many rows have a value; count(*) how many rows there are.",
			"count(price)", "3"),
		aggregate(frame.Distinct, "count(distinct x), distinct(x)", "How many different values there are.",
			"count(distinct district)", "2"),
		aggregate(frame.Median, "median(x)", "The number in the middle.", "median(net_kg)", "20.50000"),
		aggregate(frame.Percentile, "percentile(x, p)", "The number below which p percent of the others lie, between two "+
			"numbers where need be.", "percentile(net_kg, 90)", "27.70000"),
		aggregate(frame.Stddev, "stddev(x)", "The sample standard deviation.", "stddev(net_kg)", "9.75961"),
		aggregate(frame.First, "first(x)", "The first row's value.", "first(lot)", "L-1"),
		aggregate(frame.Last, "last(x)", "The last row's value.", "last(lot)", "L-4"),
	}
	out[7].least, out[7].most = 2, 2
	around := func(a Around, usage, says, example, gives string) *Function {
		return &Function{
			Name:    string(a),
			Usage:   usage,
			Says:    says,
			Example: example,
			Gives:   gives,
			least:   1,
			most:    1,
			group:   true,
			around:  a,
		}
	}
	windows := []*Function{
		around(ShareOfTotal, "share(figure), share(figure, parent)",
			"The percentage that a group's figure is of all rows', or of those of the group above.", "share(sum(net_kg))",
			"65.833333, 34.166667"),
		around(Running, "running(figure)", "The figure added up from the first group within the same parent.",
			"running(sum(net_kg))", "39.500, 60.000"),
		around(Previous, "previous(figure)", "The figure of the group before, such as the period before.",
			"previous(sum(net_kg))", ", 39.500"),
		around(Change, "change(figure)", "The difference from the figure of the group before.", "change(sum(net_kg))",
			", -19.000"),
	}
	windows[0].most = 2
	return append(out, windows...)
}

func numberFunctions() []*Function {
	one := func(name, says, example, gives string, make func(t *expr.Expr, a node) node) *Function {
		return &Function{Name: name, Usage: name + "(x)", Says: says, Example: example, Gives: gives, least: 1, most: 1,
			compile: func(_ *compiler, t *expr.Expr, args []node) (node, error) {
				if err := areNumbers(t, args); err != nil {
					return node{}, err
				}
				return make(t, args[0]), nil
			}}
	}
	return []*Function{
		one("abs", "The number without its sign.", "abs(net_kg - 20)", "9.500, 0.500, 10.000, ",
			func(t *expr.Expr, a node) node {
				return changed(t, a, a.field.Scale, nil, func(v int64) int64 { return max(v, -v) })
			}),
		{
			Name:    "round",
			Usage:   "round(x), round(x, places)",
			Says:    "The number with so many places, halves away from zero.",
			Example: "round(net_kg * price, 1)",
			Gives:   "153.4, 127.1, 49.6, ",
			least:   1,
			most:    2,
			compile: round,
		},
		one("floor", "The whole number at or below.", "floor(net_kg)", "29, 20, 10, ",
			func(t *expr.Expr, a node) node { return changed(t, a, 0, exact.Down, nil) }),
		one("ceiling", "The whole number at or above.", "ceiling(net_kg)", "30, 21, 10, ",
			func(t *expr.Expr, a node) node { return changed(t, a, 0, exact.Up, nil) }),
		one("sign", "1, 0 or -1.", "sign(net_kg - 20.5)", "1, 0, -1, ", func(t *expr.Expr, a node) node {
			n := changed(t, a, a.field.Scale, nil, func(v int64) int64 { return min(max(v, -1), 1) })
			n.field = number(0, frame.Field{})
			return n
		}),
		{
			Name:    "mod",
			Usage:   "mod(x, y)",
			Says:    "What is left when y is taken from x as often as it goes.",
			Example: "mod(floor(net_kg), 10)",
			Gives:   "9, 0, 0, ",
			least:   2,
			most:    2,
			compile: remainder,
		},
	}
}

func areNumbers(t *expr.Expr, args []node) error {
	for _, a := range args {
		if !numeric(a.field) {
			return fault(a.at, "%s is of numbers, and this is %s", t.Text, called(a.field))
		}
	}
	return nil
}

// changed changes each number, after cutting it to whole ones where cut is set.
func changed(t *expr.Expr, a node, places int32, cut exact.Rounding, change func(int64) int64) node {
	field := number(places, a.field)
	return node{field: field, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err == nil && x.Wide != nil {
			x, err = x.narrowed()
		}
		if err != nil {
			return x, err
		}
		if cut != nil && a.ratio != nil {
			return a.ratio.rounded(e, places, cut)
		}
		if cut != nil && a.field.Scale > places {
			return x.cut(a.field.Scale, places, cut)
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = x.Nulls, make([]int64, len(x.Ints))
		for i, v := range x.Ints {
			if change != nil {
				v = change(v)
			}
			out.Ints[i] = v
		}
		return out, nil
	}}
}

func round(_ *compiler, t *expr.Expr, args []node) (node, error) {
	if err := areNumbers(t, args); err != nil {
		return node{}, err
	}
	places := int64(0)
	if len(args) == 2 {
		v, ok := args[1].once()
		if !ok || args[1].field.Scale != 0 || v.Ints[0] < 0 || v.Ints[0] > 12 {
			return node{}, fault(args[1].at, "a fixed number of places from 0 to 12 is wanted here")
		}
		places = v.Ints[0]
	}
	n := rescaled(args[0], int32(places))
	n.field, n.at = number(int32(places), args[0].field), t.At
	return n, nil
}

func remainder(_ *compiler, t *expr.Expr, args []node) (node, error) {
	if err := areNumbers(t, args); err != nil {
		return node{}, err
	}
	a, b, err := alike(t, args[0], args[1])
	if err != nil {
		return node{}, err
	}
	return node{field: number(a.field.Scale, a.field), at: t.At, eval: func(e *env) (cells, error) {
		x, y, err := pair(e, a, b)
		if err == nil && (x.Wide != nil || y.Wide != nil) {
			err = errLarge
		}
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = nulls(x, y), make([]int64, len(x.Ints))
		for i, d := range y.Ints {
			if d != 0 {
				out.Ints[i] = x.Ints[i] % d
				continue
			}
			if out.Nulls == nil {
				out.Nulls = make([]bool, len(out.Ints))
			}
			out.Nulls[i] = true
		}
		return out, nil
	}}, nil
}

func valueFunctions() []*Function {
	extreme := func(name, says, example, gives, test string) *Function {
		return &Function{Name: name, Usage: name + "(x, y, …)", Says: says, Example: example, Gives: gives, least: 2,
			most: many, compile: func(_ *compiler, t *expr.Expr, args []node) (node, error) {
				out := once(args[0])
				for _, other := range args[1:] {
					other = once(other)
					better, err := compared(&expr.Expr{Op: test, At: t.At}, other, out)
					if err != nil {
						return node{}, err
					}
					either := []node{isEmpty(t, out), isEmpty(t, other), better}
					null := valued(frame.Value{Kind: anyKind, Null: true}, t.At)
					if out, err = choice(t, []node{either[0], null, either[1], null, either[2], other, out}); err != nil {
						return node{}, err
					}
					out = once(out)
				}
				return out, nil
			}}
	}
	return []*Function{
		{
			Name:    "coalesce",
			Usage:   "coalesce(x, y, …)",
			Says:    "The first that has a value.",
			Example: "coalesce(price, 0)",
			Gives:   "5.20, 6.20, 4.96, 0.00",
			least:   2,
			most:    many,
			compile: coalesce,
		},
		{Name: "nullif", Usage: "nullif(x, y)", Says: "x, but nothing where it is y.", Example: "nullif(status, 'paid')",
			Gives: ", open, open, ", least: 2, most: 2, compile: func(_ *compiler, t *expr.Expr, args []node) (node, error) {
				args[0] = once(args[0])
				same, err := compared(&expr.Expr{Op: "=", At: t.At}, args[0], args[1])
				if err != nil {
					return node{}, err
				}
				return choice(t, []node{same, valued(frame.Value{Kind: anyKind, Null: true}, t.At), args[0]})
			}},
		extreme("least", "The smallest; nothing where one has no value.", "least(net_kg, 20)", "20.000, 20.000, 10.000, ",
			"<"),
		extreme("greatest", "The largest; nothing where one has no value.", "greatest(net_kg, 20)",
			"29.500, 20.500, 20.000, ", ">"),
	}
}

func coalesce(_ *compiler, t *expr.Expr, args []node) (node, error) {
	for i := range args {
		args[i] = once(args[i])
	}
	return picked(t, args, func(e *env) ([]int, error) {
		which := make([]int, e.rows)
		for i := range which {
			which[i] = -1
		}
		for at, a := range args {
			x, err := a.eval(e)
			if err != nil {
				return nil, err
			}
			x = x.spread(e.rows)
			for r := range which {
				if which[r] < 0 && !x.Null(r) {
					which[r] = at
				}
			}
		}
		return which, nil
	})
}
