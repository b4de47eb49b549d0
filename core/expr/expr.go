// Package expr reads formulas as trees: what is computed of what, with the place in
// the text where each part stands. Length, number of parts and depth are bounded. The
// evaluator works from these trees, and so can whoever writes them in the language of
// an engine.
package expr

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
)

// Expr is a part of a formula. Op is an operator or word, as it is written in small
// letters, or one of the kinds below.
type Expr struct {
	Op    string
	Text  string      // of a name, number, text or day, and the name of a function
	At    int         // the byte of the formula where it begins
	Args  []*Expr     // what it is computed of, in the order in which it is written
	Field frame.Field // what it gives, once its names are known
}

// The kinds of leaves and of calls.
const (
	Name   = "name"
	Number = "number"
	Text   = "text"
	Null   = "null"
	Call   = "call"
	Case   = "case"    // pairs of when and then, and else
	CaseOf = "case of" // what is compared, pairs of values and then, and else
	Star   = "all"     // the * of count(*)
)

// Parse reads the grammar
//
//	formula    = and { "or" and }
//	and        = not { "and" not }
//	not        = "not" not | test
//	test       = sum [ comparison | ["not"] ( in | between | like ) | "is" ["not"] "null" ]
//	comparison = ("=" | "<>" | "<" | "<=" | ">" | ">=") sum
//	in         = "in" "(" formula { "," formula } ")"
//	between    = "between" sum "and" sum
//	like       = "like" sum
//	sum        = product { ("+" | "-" | "||") product }
//	product    = sign { ("*" | "/") sign }
//	sign       = "-" sign | value
//	value      = NUMBER | TEXT | "date" TEXT | "true" | "false" | "null"
//	           | NAME | FUNCTION "(" [ ["distinct"] formula { "," formula } | "*" ] ")"
//	           | "case" [ formula ] "when" formula "then" formula { "when" formula "then" formula }
//	             [ "else" formula ] "end"
//	           | "(" formula ")"
func Parse(source string) (*Expr, error) {
	if len(source) > mostBytes {
		return nil, &Fault{0, fmt.Sprintf("the formula has %d characters; at most %d can be read", len(source), mostBytes)}
	}
	tokens, err := lex(source)
	if err != nil {
		return nil, err
	}
	if len(tokens) > mostTokens {
		return nil, &Fault{tokens[mostTokens].at, fmt.Sprintf("the formula has more than %d parts; split it into several "+
			"columns", mostTokens)}
	}
	p := parser{tokens: tokens}
	t, err := p.or()
	if err == nil && p.peek().kind != '$' {
		err = p.fault("%q is not expected here", p.peek().text)
	}
	return t, err
}

// Bounds of a formula. A chain such as a + b + c is as deep as it is long, so
// the number of parts bounds the depth too.
const (
	mostBytes  = 20_000
	mostTokens = 4_000
	mostDepth  = 200 // brackets within brackets
)

type parser struct {
	tokens []token
	next   int
	depth  int
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

func (p *parser) need(word, where string) error {
	if _, ok := p.word(word); !ok {
		return p.fault("%q is wanted %s, before %s", word, where, p.peek().text)
	}
	return nil
}

// joined reads parts with operators between them, from the left.
func (p *parser) joined(part func() (*Expr, error), operators ...string) (*Expr, error) {
	left, err := part()
	for err == nil {
		at := p.peek().at
		op, ok := p.word(operators...)
		if !ok {
			return left, nil
		}
		var right *Expr
		if right, err = part(); err == nil {
			left = &Expr{Op: op, At: at, Args: []*Expr{left, right}}
		}
	}
	return left, err
}

func (p *parser) or() (*Expr, error) {
	if p.depth++; p.depth > mostDepth {
		return nil, p.fault("the formula has too many brackets within brackets")
	}
	defer func() { p.depth-- }()
	return p.joined(p.and, "or")
}

func (p *parser) and() (*Expr, error)     { return p.joined(p.not, "and") }
func (p *parser) sum() (*Expr, error)     { return p.joined(p.product, "+", "-", "||") }
func (p *parser) product() (*Expr, error) { return p.joined(p.sign, "*", "/") }

func (p *parser) not() (*Expr, error) { return p.prefixed("not", p.not, p.test) }

func (p *parser) sign() (*Expr, error) { return p.prefixed("-", p.sign, p.value) }

func (p *parser) prefixed(word string, again, other func() (*Expr, error)) (*Expr, error) {
	at := p.peek().at
	if _, ok := p.word(word); !ok {
		return other()
	}
	if p.depth++; p.depth > mostDepth {
		return nil, p.fault("the formula has too many signs one after the other")
	}
	defer func() { p.depth-- }()
	of, err := again()
	return &Expr{Op: "not " + word, At: at, Args: []*Expr{of}}, err
}

func (p *parser) test() (*Expr, error) {
	left, err := p.sum()
	if err != nil {
		return nil, err
	}
	at := p.peek().at
	if _, ok := p.word("is"); ok {
		_, not := p.word("not")
		if _, ok := p.word("null"); !ok {
			return nil, p.fault("null is wanted after is")
		}
		return negated(&Expr{Op: "is null", At: at, Args: []*Expr{left}}, not), nil
	}
	_, not := p.word("not")
	op, ok := p.word("in", "between", "like")
	switch {
	case not && !ok:
		return nil, p.fault("in, between or like is wanted after not")
	case ok:
		args := []*Expr{left}
		switch op {
		case "in":
			args, err = p.list(args)
		case "between":
			args, err = p.range_(args)
		case "like":
			var of *Expr
			of, err = p.sum()
			args = append(args, of)
		}
		return negated(&Expr{Op: op, At: at, Args: args}, not), err
	}
	if op, ok := p.word("=", "<>", "<", "<=", ">", ">="); ok {
		right, err := p.sum()
		return &Expr{Op: op, At: at, Args: []*Expr{left, right}}, err
	}
	return left, nil
}

func negated(t *Expr, not bool) *Expr {
	if !not {
		return t
	}
	return &Expr{Op: "not not", At: t.At, Args: []*Expr{t}}
}

// list reads what stands in brackets with commas between.
func (p *parser) list(args []*Expr) ([]*Expr, error) {
	if err := p.need("(", "to begin the list"); err != nil {
		return nil, err
	}
	for {
		t, err := p.or()
		if err != nil {
			return nil, err
		}
		args = append(args, t)
		if _, more := p.word(","); !more {
			break
		}
	}
	if _, ok := p.word(")"); !ok {
		return nil, p.fault("a closing bracket is missing before %s", p.peek().text)
	}
	return args, nil
}

func (p *parser) range_(args []*Expr) ([]*Expr, error) {
	from, err := p.sum()
	if err == nil {
		err = p.need("and", "within between")
	}
	if err != nil {
		return nil, err
	}
	to, err := p.sum()
	return append(args, from, to), err
}

func (p *parser) value() (*Expr, error) {
	t := p.peek()
	leaf := func(op, text string) (*Expr, error) {
		p.next++
		return &Expr{Op: op, Text: text, At: t.at}, nil
	}
	if t.kind == '\'' {
		return leaf(Text, t.text)
	}
	if t.kind == '0' {
		return leaf(Number, t.text)
	}
	if t.kind == 'n' {
		switch word := strings.ToLower(t.text); word {
		case "null", "true", "false":
			return leaf(word, word)
		case "case":
			return p.cases()
		case "and", "or", "not", "when", "then", "else", "end", "is", "in", "between", "like":
			return nil, p.fault("a value is wanted before %s", t.text)
		}
		after := p.tokens[p.next+1]
		switch {
		case strings.EqualFold(t.text, "date") && after.kind == '\'':
			p.next++
			return leaf("date", after.text)
		case after.kind == 'o' && after.text == "(":
			return p.call()
		}
		return leaf(Name, t.text)
	}
	if _, ok := p.word("("); !ok {
		return nil, p.fault("a value is wanted before %s", t.text)
	}
	of, err := p.or()
	if err != nil {
		return nil, err
	}
	if _, ok := p.word(")"); !ok {
		return nil, p.fault("a closing bracket is missing before %s", p.peek().text)
	}
	return of, nil
}

func (p *parser) call() (*Expr, error) {
	t := p.peek()
	call := &Expr{Op: Call, Text: strings.ToLower(t.text), At: t.at}
	p.next++
	if p.tokens[p.next+1].text == ")" && p.tokens[p.next+1].kind == 'o' {
		p.next += 2
		return call, nil
	}
	if p.tokens[p.next+1].text == "*" && p.tokens[p.next+1].kind == 'o' {
		star := &Expr{Op: Star, At: p.tokens[p.next+1].at}
		p.next += 2
		if _, ok := p.word(")"); !ok {
			return nil, p.fault("a closing bracket is missing before %s", p.peek().text)
		}
		call.Args = []*Expr{star}
		return call, nil
	}
	if within := p.tokens[p.next+1]; within.kind == 'n' && strings.EqualFold(within.text, "distinct") &&
		call.Text == "count" && p.tokens[p.next+2].text != "(" {
		call.Text = "distinct"
		p.tokens = slices.Delete(slices.Clone(p.tokens), p.next+1, p.next+2)
	}
	var err error
	call.Args, err = p.list(nil)
	return call, err
}

func (p *parser) cases() (*Expr, error) {
	t := &Expr{Op: Case, At: p.peek().at}
	p.next++
	if !strings.EqualFold(p.peek().text, "when") {
		subject, err := p.or()
		if err != nil {
			return nil, err
		}
		t.Op, t.Args = CaseOf, []*Expr{subject}
	}
	before := len(t.Args)
	for {
		if _, ok := p.word("when"); !ok {
			break
		}
		when, err := p.or()
		if err == nil {
			err = p.need("then", "after when")
		}
		if err != nil {
			return nil, err
		}
		then, err := p.or()
		if err != nil {
			return nil, err
		}
		t.Args = append(t.Args, when, then)
	}
	if len(t.Args) == before {
		return nil, p.fault("when is wanted after case")
	}
	if _, ok := p.word("else"); ok {
		other, err := p.or()
		if err != nil {
			return nil, err
		}
		t.Args = append(t.Args, other)
	}
	return t, p.need("end", "to close the case")
}

// Has tells whether any part of the formula is of a kind.
func (e *Expr) Has(kind func(*Expr) bool) bool {
	return kind(e) || slices.ContainsFunc(e.Args, func(a *Expr) bool { return a.Has(kind) })
}

// Mentioned returns the names that a formula speaks of, whether they are known
// or not; none where it cannot be read.
func Mentioned(text string) (names []string) {
	t, err := Parse(text)
	if err != nil {
		return nil
	}
	t.Has(func(e *Expr) bool {
		if e.Op == Name {
			names = append(names, e.Text)
		}
		return false // look on
	})
	return names
}
