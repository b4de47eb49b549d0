package formula

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
)

// Condition is a formula that is true, false or neither.
//
//	condition = and { "or" and }
//	and       = not { "and" not }
//	not       = "not" not | test
//	test      = sum [ ("=" | "<>" | "<" | "<=" | ">" | ">=") sum | "is" ["not"] "null" ]
//	sum       = term { ("+" | "-") term }
//	term      = NUMBER | 'text' | NAME | "(" condition ")"
//
// A whole number added to a day moves it; the difference of days is a number.
type Condition struct {
	root node
	used []string
}

// Names returns the names that the condition speaks of, in its order.
func (c *Condition) Names() []string { return c.used }

// node is a part of a formula with its type.
type node struct {
	of   Type
	at   int
	eval func(Values) Value
}

// ParseCondition reads a condition over names. The error is a [*Fault].
func ParseCondition(source string, names Names) (*Condition, error) {
	tokens, err := lex(source)
	if err != nil {
		return nil, err
	}
	p := parser{tokens: tokens, names: names}
	n, err := p.or()
	if err == nil && p.peek().kind != '$' {
		err = p.fault("%q is not expected here", p.peek().text)
	}
	if err == nil && n.of != Flag {
		err = &Fault{n.at, fmt.Sprintf("this is a %s, and a condition is wanted: compare it, as in x > 3", n.of)}
	}
	if err != nil {
		return nil, err
	}
	return &Condition{n, p.used}, nil
}

// Holds tells whether the condition is true of the values. What has no value
// makes a comparison neither true nor false.
func (c *Condition) Holds(values Values) bool {
	v := c.root.eval(values)
	return !v.Null && v.Flag
}

type parser struct {
	tokens []token
	next   int
	names  Names
	used   []string
}

func (p *parser) peek() token { return p.tokens[p.next] }

func (p *parser) fault(format string, args ...any) error {
	return &Fault{p.peek().at, fmt.Sprintf(format, args...)}
}

// word takes the next token when it is one of the words or operators.
func (p *parser) word(words ...string) (string, bool) {
	t := p.peek()
	if w := strings.ToLower(t.text); (t.kind == 'n' || t.kind == 'o') && slices.Contains(words, w) {
		p.next++
		return w, true
	}
	return "", false
}

func (p *parser) or() (node, error)  { return p.logic(p.and, "or", or) }
func (p *parser) and() (node, error) { return p.logic(p.not, "and", and) }

// logic reads flags joined by a word.
func (p *parser) logic(part func() (node, error), word string, join func(a, b Value) Value) (node, error) {
	left, err := part()
	for err == nil {
		if _, ok := p.word(word); !ok {
			return left, nil
		}
		var right node
		if right, err = part(); err != nil {
			break
		}
		for _, n := range []node{left, right} {
			if n.of != Flag {
				return left, &Fault{n.at, fmt.Sprintf("%s joins conditions, and this is a %s", word, n.of)}
			}
		}
		a, b := left.eval, right.eval
		left = node{Flag, left.at, func(v Values) Value { return join(a(v), b(v)) }}
	}
	return left, err
}

func or(a, b Value) Value {
	if !a.Null && a.Flag || !b.Null && b.Flag {
		return Value{Flag: true}
	}
	return Value{Null: a.Null || b.Null}
}

func and(a, b Value) Value {
	if !a.Null && !a.Flag || !b.Null && !b.Flag {
		return Value{}
	}
	return Value{Null: a.Null || b.Null, Flag: true}
}

func (p *parser) not() (node, error) {
	at := p.peek().at
	if _, ok := p.word("not"); !ok {
		return p.test()
	}
	n, err := p.not()
	if err == nil && n.of != Flag {
		err = &Fault{n.at, fmt.Sprintf("not is for conditions, and this is a %s", n.of)}
	}
	inner := n.eval
	return node{Flag, at, func(v Values) Value {
		x := inner(v)
		x.Flag = !x.Flag
		return x
	}}, err
}

func (p *parser) test() (node, error) {
	left, err := p.sum()
	if err != nil {
		return left, err
	}
	if _, ok := p.word("is"); ok {
		_, not := p.word("not")
		if _, ok := p.word("null"); !ok {
			return left, p.fault("null is wanted after is")
		}
		inner := left.eval
		return node{Flag, left.at, func(v Values) Value { return Value{Flag: inner(v).Null != not} }}, nil
	}
	op, ok := p.word("=", "<>", "<", "<=", ">", ">=")
	if !ok {
		return left, nil
	}
	right, err := p.sum()
	if err != nil {
		return left, err
	}
	if left.of != right.of {
		return left, &Fault{right.at, fmt.Sprintf("a %s cannot be compared with a %s", left.of, right.of)}
	}
	a, b, of := left.eval, right.eval, left.of
	return node{Flag, left.at, func(v Values) Value {
		x, y := a(v), b(v)
		if x.Null || y.Null {
			return Value{Null: true}
		}
		return Value{Flag: meets(op, compare(of, x, y))}
	}}, nil
}

func meets(op string, c int) bool {
	switch op {
	case "=":
		return c == 0
	case "<>":
		return c != 0
	case "<":
		return c < 0
	case "<=":
		return c <= 0
	case ">":
		return c > 0
	}
	return c >= 0
}

func compare(of Type, a, b Value) int {
	switch of {
	case Number:
		return a.Number.Compare(b.Number)
	case Day:
		return int(a.Day) - int(b.Day)
	case Flag:
		switch {
		case a.Flag == b.Flag:
			return 0
		case b.Flag:
			return -1
		}
		return 1
	}
	return strings.Compare(a.Text, b.Text)
}

func (p *parser) sum() (node, error) {
	left, err := p.term()
	for err == nil {
		op, ok := p.word("+", "-")
		if !ok {
			return left, nil
		}
		var right node
		if right, err = p.term(); err == nil {
			left, err = added(left, right, op)
		}
	}
	return left, err
}

func added(left, right node, op string) (node, error) {
	a, b := left.eval, right.eval
	both := func(join func(x, y Value) Value) func(Values) Value {
		return func(v Values) Value {
			x, y := a(v), b(v)
			if x.Null || y.Null {
				return Value{Null: true}
			}
			return join(x, y)
		}
	}
	sign := map[string]int{"+": 1, "-": -1}[op]
	switch {
	case left.of == Number && right.of == Number:
		return node{Number, left.at, both(func(x, y Value) Value { return Value{Number: x.Number.Plus(y.Number, sign)} })}, nil
	case left.of == Day && right.of == Number:
		return node{Day, left.at, both(func(x, y Value) Value {
			return Value{Day: x.Day + period.Day(sign)*period.Day(y.Number.Digits.LowBits())}
		})}, nil
	case left.of == Day && right.of == Day && op == "-":
		return node{Number, left.at, both(func(x, y Value) Value { return Value{Number: frame.Exact(int64(x.Day-y.Day), 0)} })}, nil
	}
	return left, &Fault{right.at, fmt.Sprintf("%s does not go between a %s and a %s", op, left.of, right.of)}
}

func (p *parser) term() (node, error) {
	t := p.peek()
	constant := func(of Type, v Value) (node, error) {
		p.next++
		return node{of, t.at, func(Values) Value { return v }}, nil
	}
	switch {
	case t.kind == '\'':
		return constant(Text, Value{Text: t.text})
	case t.kind == '0':
		n, err := number(t.text)
		if err != nil {
			return node{}, p.fault("%v", err)
		}
		return constant(Number, Value{Number: n})
	case t.kind == 'n' && (t.text == "true" || t.text == "false"):
		return constant(Flag, Value{Flag: t.text == "true"})
	case t.kind == 'n':
		of, known := p.names[t.text]
		if !known {
			return node{}, p.fault("%q is not known here%s", t.text, p.meant(t.text))
		}
		p.next++
		p.used = append(p.used, t.text)
		return node{of, t.at, func(v Values) Value {
			x, ok := v[t.text]
			x.Null = x.Null || !ok
			return x
		}}, nil
	}
	if _, ok := p.word("("); !ok {
		return node{}, p.fault("a value is wanted before %s", t.text)
	}
	n, err := p.or()
	if err != nil {
		return n, err
	}
	if _, ok := p.word(")"); !ok {
		return n, p.fault("a closing bracket is missing before %s", p.peek().text)
	}
	return n, nil
}

func number(text string) (frame.Number, error) {
	_, places, _ := strings.Cut(text, ".")
	digits, err := frame.ParseNumber(text, int32(len(places)))
	return frame.Number{Digits: decimal128.FromI64(digits), Scale: int32(len(places))}, err
}

func (p *parser) meant(typed string) string {
	names := slices.Sorted(maps.Keys(p.names))
	if near := nearest.Names(typed, names, 2); len(near) > 0 {
		return "; did you mean " + nearest.Or(near) + "?"
	}
	return "; there are " + nearest.And(names)
}
