package formula

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/expr"
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
	fixed bool   // the same for all rows
	ratio *ratio // of a quotient
}

// env is what a formula is computed of.
type env struct {
	rows       int
	column     func(int) *frame.Vector
	aggregates []frame.Vector
	windows    []Beside
	made       map[*int]made // parts that were computed already
}

// made is what a part came to.
type made struct {
	cells cells
	err   error
}

// once makes a part that is used in several places be computed only once for
// each batch. Without it the time would double with each level of brackets.
func once(n node) node {
	if n.fixed {
		return n
	}
	key, eval := new(int), n.eval
	n.eval = func(e *env) (cells, error) {
		if m, ok := e.made[key]; ok {
			return m.cells, m.err
		}
		v, err := eval(e)
		if e.made == nil {
			e.made = map[*int]made{}
		}
		e.made[key] = made{v, err}
		return v, err
	}
	return n
}

type compiler struct {
	formula *Formula
	source  string
}

func fault(at int, format string, args ...any) error {
	return &Fault{At: at, Message: fmt.Sprintf(format, args...)}
}

// compile gives every part its type and its way to be computed.
func (c *compiler) compile(t *expr.Expr) (node, error) {
	n, err := c.typed(t)
	t.Field = n.field
	return n, err
}

func (c *compiler) typed(t *expr.Expr) (node, error) {
	switch t.Op {
	case expr.Number, expr.Text, expr.Null, "true", "false", "date":
		return constant(t)
	case expr.Name:
		return c.name(t)
	case expr.Call:
		return c.call(t)
	case expr.Star:
		return node{}, fault(t.At, "* is for count(*)")
	}
	args := make([]node, len(t.Args))
	for i, a := range t.Args {
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

func operation(t *expr.Expr, args []node) (node, error) {
	switch t.Op {
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
	case expr.Case:
		return choice(t, args)
	case expr.CaseOf:
		return choiceOf(t, args)
	}
	return node{}, fault(t.At, "%s has no meaning here", t.Op)
}

// folded computes at once what depends on no row.
func folded(n node, args []node) node {
	for _, a := range args {
		if !a.fixed {
			return n
		}
	}
	if n.ratio != nil { // not rounded yet
		n.fixed = true
		return n
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
	return node{field: field, at: at, eval: func(*env) (cells, error) { return v, nil }, fixed: true}
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

func constant(t *expr.Expr) (node, error) {
	switch t.Op {
	case expr.Null:
		return valued(frame.Value{Kind: anyKind, Null: true}, t.At), nil
	case expr.Text:
		return valued(frame.Value{Kind: frame.Text, Text: t.Text}, t.At), nil
	case "true", "false":
		flag := map[string]int64{"true": 1}[t.Op]
		return valued(frame.Value{Kind: frame.Flag, Number: frame.Exact(flag, 0)}, t.At), nil
	case "date":
		d, err := period.ParseDay(t.Text)
		if err != nil {
			return node{}, fault(t.At, "%v", err)
		}
		return valued(frame.Value{Kind: frame.Date, Number: frame.Exact(int64(d), 0)}, t.At), nil
	}
	_, places, _ := strings.Cut(t.Text, ".")
	if len(places) > frame.MaxDigits {
		return node{}, fault(t.At, "a number has at most %d decimal places", frame.MaxDigits)
	}
	digits, err := frame.ParseNumber(t.Text, int32(len(places)))
	if err != nil {
		return node{}, fault(t.At, "%v", err)
	}
	kind := frame.Integer
	if places != "" {
		kind = frame.Decimal
	}
	return valued(frame.Value{Kind: kind, Number: frame.Exact(digits, int32(len(places)))}, t.At), nil
}

// name is a column or a single value.
func (c *compiler) name(t *expr.Expr) (node, error) {
	scope := &c.formula.scope
	if at := scope.Columns.Index(t.Text); at >= 0 {
		field := scope.Columns[at]
		if scope.Groups {
			return node{}, fault(t.At, "%s has a value in every row, and here the rows of a group are meant: write %s", t.Text,
				offered(field, t.Text))
		}
		c.use(t.Text)
		return node{field: field, at: t.At, eval: func(e *env) (cells, error) {
			return cells{Vector: *e.column(at)}, nil
		}}, nil
	}
	if v, ok := scope.Given[t.Text]; ok {
		c.use(t.Text)
		return valued(v, t.At), nil
	}
	return node{}, fault(t.At, "%q is not known here%s", t.Text, c.meant(t.Text))
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
func (c *compiler) call(t *expr.Expr) (node, error) {
	f := functionNamed(t.Text)
	if f == nil {
		var known []string
		for _, f := range Functions {
			known = append(known, f.Name)
		}
		near := nearest.Names(t.Text, known, 2)
		if len(near) == 0 {
			return node{}, fault(t.At, "there is no function %q; there are %s", t.Text, nearest.And(known))
		}
		return node{}, fault(t.At, "there is no function %q; did you mean %s?", t.Text, nearest.Or(near))
	}
	if len(t.Args) < f.least || len(t.Args) > f.most {
		return node{}, fault(t.At, "%s is written %s", f.Name, f.Usage)
	}
	if f.group {
		return c.figure(f, t)
	}
	args := make([]node, len(t.Args))
	for i, a := range t.Args {
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
