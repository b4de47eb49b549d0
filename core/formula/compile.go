package formula

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
)

// anyKind is the kind of null, which goes with every other.
const anyKind = frame.Kind(255)

// node is a part of a formula with its type.
type node struct {
	field frame.Field
	at    int
	eval  func(*env) (cells, error)
	fixed bool // the same for all rows
}

// env is what a formula is computed of.
type env struct {
	rows       int
	column     func(int) *frame.Vector
	aggregates []frame.Vector
	windows    []frame.Vector
}

type compiler struct {
	formula *Formula
	source  string
}

func fault(at int, format string, args ...any) error {
	return &Fault{at, fmt.Sprintf(format, args...)}
}

// compile gives every part its type and its way to be computed.
func (c *compiler) compile(t *tree) (node, error) {
	switch t.op {
	case isNumber, isText, isNull, "true", "false", "date":
		return constant(t)
	case isName:
		return c.name(t)
	case isCall:
		return c.call(t)
	case isStar:
		return node{}, fault(t.at, "* is for count(*)")
	}
	args := make([]node, len(t.args))
	for i, a := range t.args {
		var err error
		if args[i], err = c.compile(a); err != nil {
			return node{}, err
		}
	}
	n, err := operation(t, args)
	if err != nil {
		return node{}, err
	}
	return folded(n, args), nil
}

func operation(t *tree, args []node) (node, error) {
	switch t.op {
	case "and", "or":
		return logic(t, args)
	case "not not":
		return inverted(t, args[0])
	case "not -":
		return minus(t, args[0])
	case "+", "-", "*", "/":
		return arithmetic(t, args[0], args[1])
	case "||":
		return joinedTexts(t, args)
	case "=", "<>", "<", "<=", ">", ">=":
		return compared(t, args[0], args[1])
	case "is null":
		return isEmpty(t, args[0]), nil
	case "in":
		return oneOf(t, args)
	case "between":
		return between(t, args)
	case "like":
		return like(t, args[0], args[1])
	case isCase:
		return choice(t, args)
	}
	return node{}, fault(t.at, "%s has no meaning here", t.op)
}

// folded computes at once what depends on no row.
func folded(n node, args []node) node {
	for _, a := range args {
		if !a.fixed {
			return n
		}
	}
	v, err := n.eval(&env{rows: 1})
	if err != nil {
		return n // it says so where it is computed
	}
	v.one = true
	return fixed(n.field, n.at, v)
}

func fixed(field frame.Field, at int, v cells) node {
	v.one = true
	return node{field, at, func(*env) (cells, error) { return v, nil }, true}
}

// valued is a node of a single value.
func valued(v frame.Value, at int) node {
	field := frame.Field{Kind: v.Kind, Scale: v.Number.Scale, Grain: v.Grain}
	c := cells{}
	if v.Null {
		c.Nulls = []bool{true}
	}
	if v.Kind == frame.Text {
		c.Texts = []string{v.Text}
		return fixed(field, at, c)
	}
	c.Ints = []int64{v.Int()}
	if v.Number.Digits != decimal128.FromI64(v.Int()) {
		c.Ints, c.Wide = nil, []decimal128.Num{v.Number.Digits}
	}
	return fixed(field, at, c)
}

func constant(t *tree) (node, error) {
	switch t.op {
	case isNull:
		return valued(frame.Value{Kind: anyKind, Null: true}, t.at), nil
	case isText:
		return valued(frame.Value{Kind: frame.Text, Text: t.text}, t.at), nil
	case "true", "false":
		flag := map[string]int64{"true": 1}[t.op]
		return valued(frame.Value{Kind: frame.Flag, Number: frame.Exact(flag, 0)}, t.at), nil
	case "date":
		d, err := period.ParseDay(t.text)
		if err != nil {
			return node{}, fault(t.at, "%v", err)
		}
		return valued(frame.Value{Kind: frame.Date, Number: frame.Exact(int64(d), 0)}, t.at), nil
	}
	_, places, _ := strings.Cut(t.text, ".")
	digits, err := frame.ParseNumber(t.text, int32(len(places)))
	if err != nil {
		return node{}, fault(t.at, "%v", err)
	}
	kind := frame.Integer
	if places != "" {
		kind = frame.Decimal
	}
	return valued(frame.Value{Kind: kind, Number: frame.Exact(digits, int32(len(places)))}, t.at), nil
}

// name is a column or a single value.
func (c *compiler) name(t *tree) (node, error) {
	scope := &c.formula.scope
	if at := scope.Columns.Index(t.text); at >= 0 {
		field := scope.Columns[at]
		if scope.Groups {
			return node{}, fault(t.at, "%s has a value in every row, and here the rows of a group are meant: write %s", t.text, offered(field, t.text))
		}
		c.use(t.text)
		return node{field: field, at: t.at, eval: func(e *env) (cells, error) {
			return cells{Vector: *e.column(at)}, nil
		}}, nil
	}
	if v, ok := scope.Given[t.text]; ok {
		c.use(t.text)
		return valued(v, t.at), nil
	}
	return node{}, fault(t.at, "%q is not known here%s", t.text, c.meant(t.text))
}

func offered(field frame.Field, name string) string {
	if field.Kind.Numeric() && field.Names == nil {
		return fmt.Sprintf("sum(%s), avg(%s) or another of its figures", name, name)
	}
	return fmt.Sprintf("max(%s), count(distinct %s) or another of its figures", name, name)
}

func (c *compiler) use(name string) {
	if !slices.Contains(c.formula.used, name) {
		c.formula.used = append(c.formula.used, name)
	}
}

func (c *compiler) meant(typed string) string {
	known := slices.Sorted(maps.Keys(c.formula.scope.Given))
	for _, f := range c.formula.scope.Columns {
		if !slices.Contains(known, f.Name) {
			known = append(known, f.Name)
		}
	}
	if near := nearest.Names(typed, known, 2); len(near) > 0 {
		return "; did you mean " + nearest.Or(near) + "?"
	}
	return "; there are " + nearest.And(known)
}

// call is a function, computed of rows or of groups.
func (c *compiler) call(t *tree) (node, error) {
	f := functionNamed(t.text)
	if f == nil {
		var known []string
		for _, f := range Functions {
			known = append(known, f.Name)
		}
		near := nearest.Names(t.text, known, 2)
		if len(near) == 0 {
			return node{}, fault(t.at, "there is no function %q; there are %s", t.text, nearest.And(known))
		}
		return node{}, fault(t.at, "there is no function %q; did you mean %s?", t.text, nearest.Or(near))
	}
	if len(t.args) < f.least || len(t.args) > f.most {
		return node{}, fault(t.at, "%s is written %s", f.Name, f.Usage)
	}
	if f.group {
		return c.figure(f, t)
	}
	args := make([]node, len(t.args))
	for i, a := range t.args {
		var err error
		if args[i], err = c.compile(a); err != nil {
			return node{}, err
		}
	}
	n, err := f.compile(c, t, args)
	if err != nil {
		return node{}, err
	}
	return folded(n, args), nil
}

// part makes a formula of its own of a part of this one.
func (c *compiler) part(t *tree, groups, around bool) (*Formula, error) {
	scope := c.formula.scope
	scope.Groups = groups
	f := &Formula{Text: c.source, scope: scope, around: around}
	part := compiler{formula: f, source: c.source}
	var err error
	if f.root, err = part.compile(t); err != nil {
		return nil, err
	}
	if f.root.field.Kind == anyKind {
		return nil, fault(t.at, "a column is wanted here, not null")
	}
	f.Field = f.root.field
	for _, name := range f.used {
		c.use(name)
	}
	return f, nil
}

// figure is an aggregate or a window.
func (c *compiler) figure(f *Function, t *tree) (node, error) {
	if !c.formula.scope.Groups {
		return node{}, fault(t.at, "%s is a figure of many rows and cannot stand within another", f.Name)
	}
	if f.around != "" {
		return c.window(f, t)
	}
	of := t.args[0]
	if of.op == isStar {
		if f.Name != "count" {
			return node{}, fault(of.at, "* is for count(*)")
		}
		of = &tree{op: isNumber, text: "1", at: of.at}
	}
	rows, err := c.part(of, false, c.formula.around)
	if err != nil {
		return node{}, err
	}
	a := Aggregate{Op: f.op, Of: rows, Key: fmt.Sprintf("%s @%d", c.source, of.at)}
	if of.op == isName {
		a.Key = of.text
	}
	if err := a.Op.Fits(rows.Field); err != nil {
		return node{}, fault(of.at, "%v", err)
	}
	if f.op == frame.Percentile {
		if a.Percent, err = percentOf(c, t.args[1]); err != nil {
			return node{}, err
		}
	}
	at := len(c.formula.Aggregates)
	c.formula.Aggregates = append(c.formula.Aggregates, a)
	return node{field: unnamed(a.Op.Field(rows.Field)), at: t.at, eval: func(e *env) (cells, error) {
		return cells{Vector: e.aggregates[at]}, nil
	}}, nil
}

func unnamed(f frame.Field) frame.Field {
	f.Name = ""
	return f
}

func percentOf(c *compiler, t *tree) (n frame.Number, err error) {
	p, err := c.compile(t)
	if err != nil {
		return n, err
	}
	v, err := p.eval(&env{rows: 1})
	if err != nil || !p.fixed || !p.field.Kind.Numeric() || v.Null(0) {
		return n, errors.Join(err, fault(t.at, "a fixed number from 0 to 100 is wanted here"))
	}
	n = v.Value(p.field, 0).Number
	if n.Compare(frame.Exact(0, 0)) < 0 || n.Compare(frame.Exact(100, 0)) > 0 {
		return n, fault(t.at, "a percentile lies between 0 and 100")
	}
	return n, nil
}

func (c *compiler) window(f *Function, t *tree) (node, error) {
	if c.formula.around {
		return node{}, fault(t.at, "%s cannot stand within another figure of the groups around", f.Name)
	}
	w := Window{Around: f.around}
	if len(t.args) == 2 {
		if t.args[1].op != isName || t.args[1].text != "parent" {
			return node{}, fault(t.args[1].at, "%s is written %s", f.Name, f.Usage)
		}
		w.Around = ShareOfParent
	}
	of, err := c.part(t.args[0], true, true)
	if err != nil {
		return node{}, err
	}
	if !of.Field.Kind.Numeric() && w.Around != Previous {
		return node{}, fault(t.args[0].at, "%s is of numbers, and this is %s", f.Name, called(of.Field))
	}
	w.Of = of
	at := len(c.formula.Windows)
	c.formula.Windows = append(c.formula.Windows, w)
	return node{field: w.Field(), at: t.at, eval: func(e *env) (cells, error) {
		return cells{Vector: e.windows[at]}, nil
	}}, nil
}

// Field tells what a window gives.
func (w Window) Field() frame.Field {
	if w.Around == ShareOfTotal || w.Around == ShareOfParent {
		return frame.Field{Kind: frame.Decimal, Scale: quotientPlaces}
	}
	return unnamed(w.Of.Field)
}
