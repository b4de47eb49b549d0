package formula

import (
	"fmt"

	"mantilla/core/expr"
	"mantilla/core/frame"
)

// part makes a formula of its own of a part of this one.
func (c *compiler) part(t *expr.Expr, groups, around bool) (*Formula, error) {
	scope := c.formula.scope
	scope.Groups = groups
	f := &Formula{Text: c.source, tree: t, scope: scope, around: around}
	part := compiler{formula: f, source: c.source}
	var err error
	if f.root, err = part.compile(t); err != nil {
		return nil, err
	}
	if f.root.field.Kind == anyKind {
		return nil, fault(t.At, "a column is wanted here, not null")
	}
	f.Field = f.root.field
	for _, name := range f.used {
		c.use(name)
	}
	return f, nil
}

// figure is an aggregate or a window.
func (c *compiler) figure(f *Function, t *expr.Expr) (node, error) {
	if !c.formula.scope.Groups {
		return node{}, fault(t.At, "%s is a figure of many rows and cannot stand within another", f.Name)
	}
	if f.around != "" {
		return c.window(f, t)
	}
	of := t.Args[0]
	if of.Op == expr.Star {
		if f.Name != "count" {
			return node{}, fault(of.At, "* is for count(*)")
		}
		of = &expr.Expr{Op: expr.Number, Text: "1", At: of.At}
	}
	rows, err := c.part(of, false, c.formula.around)
	if err != nil {
		return node{}, err
	}
	a := Aggregate{Op: f.op, Of: rows, Key: fmt.Sprintf("%s @%d", c.source, of.At)}
	if of.Op == expr.Name {
		a.Key = of.Text
	}
	if err := a.Op.Fits(rows.Field); err != nil {
		return node{}, fault(of.At, "%v", err)
	}
	if f.op == frame.Percentile {
		if a.Percent, err = percentOf(c, t.Args[1]); err != nil {
			return node{}, err
		}
	}
	field := unnamed(a.Op.Field(rows.Field))
	if f.op == frame.Avg { // a quotient too, rounded where it is shown
		sum, count := a, a
		sum.Op, count.Op = frame.Sum, frame.Count
		return over(t, c.aggregate(sum, t.At), c.aggregate(count, t.At), field, 1), nil
	}
	n := c.aggregate(a, t.At)
	n.field = field
	return n, nil
}

// aggregate asks for a figure of the rows of each group.
func (c *compiler) aggregate(a Aggregate, at int) node {
	place := len(c.formula.Aggregates)
	c.formula.Aggregates = append(c.formula.Aggregates, a)
	return node{field: unnamed(a.Op.Field(a.Of.Field)), at: at, eval: func(e *env) (cells, error) {
		return cells{Vector: e.aggregates[place]}, nil
	}}
}

func unnamed(f frame.Field) frame.Field {
	f.Name = ""
	return f
}

func percentOf(c *compiler, t *expr.Expr) (n frame.Number, err error) {
	p, err := c.compile(t)
	if err != nil {
		return n, err
	}
	v, ok := p.once()
	if !ok || !p.field.Kind.Numeric() {
		return n, fault(t.At, "a fixed number from 0 to 100 is wanted here")
	}
	n = v.Value(p.field, 0).Number
	if n.Compare(frame.Exact(0, 0)) < 0 || n.Compare(frame.Exact(100, 0)) > 0 {
		return n, fault(t.At, "a percentile lies between 0 and 100")
	}
	return n, nil
}

func (c *compiler) window(f *Function, t *expr.Expr) (node, error) {
	if c.formula.around {
		return node{}, fault(t.At, "%s cannot stand within another figure of the groups around", f.Name)
	}
	w := Window{Around: f.around}
	if len(t.Args) == 2 {
		if t.Args[1].Op != expr.Name || t.Args[1].Text != "parent" {
			return node{}, fault(t.Args[1].At, "%s is written %s", f.Name, f.Usage)
		}
		w.Around = ShareOfParent
	}
	of, err := c.part(t.Args[0], true, true)
	if err != nil {
		return node{}, err
	}
	if !of.Field.Kind.Numeric() && w.Around != Previous {
		return node{}, fault(t.Args[0].At, "%s is of numbers, and this is %s", f.Name, called(of.Field))
	}
	w.Of = of
	at := len(c.formula.Windows)
	c.formula.Windows = append(c.formula.Windows, w)
	own := node{field: unnamed(of.Field), at: t.At, eval: func(e *env) (cells, error) {
		return cells{Vector: e.windows[at].Own}, nil
	}}
	if !w.Shares() {
		return own, nil
	}
	whole := node{field: own.field, at: t.At, eval: func(e *env) (cells, error) {
		return cells{Vector: e.windows[at].Whole}, nil
	}}
	hundred := valued(frame.Value{Kind: frame.Integer, Number: frame.Exact(100, 0)}, t.At)
	part, ok := product(t, own, hundred)
	if !ok {
		return node{}, fault(t.At, "a share of a number of %d decimal places cannot be kept; round it first", own.field.Scale)
	}
	return over(t, part, whole, frame.Field{Kind: frame.Decimal, Scale: quotientPlaces}, 1), nil
}

// Shares tells whether the window is a percentage of a whole.
func (w Window) Shares() bool { return w.Around == ShareOfTotal || w.Around == ShareOfParent }

// Field tells what the cells of [Beside] are.
func (w Window) Field() frame.Field { return unnamed(w.Of.Field) }
