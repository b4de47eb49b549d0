package formula

import (
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"mantilla/core/expr"
	"mantilla/core/frame"
)

var text = frame.Field{Kind: frame.Text}

// Bounds of texts that a formula makes, in bytes: of one, and of those of one
// column in a batch of rows.
const (
	longestText = 10_000
	mostText    = 64 << 20
)

// errLongText says that a text does not fit.
var errLongText = fmt.Errorf("a text gets longer than %d characters; take a part of it with substr", longestText)

// room counts what the texts of a column take.
type room int

func (r *room) take(text, from string) error {
	if *r += room(len(text)); *r > mostText {
		return errors.New("the texts of a column take more room than there is; take parts of them with substr")
	}
	if len(text) > longestText && len(text) > len(from) {
		return errLongText
	}
	return nil
}

// ofTexts changes each text; texts that repeat are changed once.
func ofTexts(t *expr.Expr, a node, change func(string) string) node {
	return node{field: text, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Codes, out.Texts = x.Nulls, x.Codes, make([]string, len(x.Texts))
		var taken room
		for i, s := range x.Texts {
			out.Texts[i] = change(s)
			if err := taken.take(out.Texts[i], s); err != nil {
				return out, err
			}
		}
		return out, nil
	}}
}

// named writes the names that numbers stand for.
func named(a node) node {
	names := a.field.Names
	return node{field: text, at: a.at, fixed: a.fixed, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Texts = x.Nulls, make([]string, len(x.Ints))
		for i, v := range x.Ints {
			if !x.Null(i) && v >= 0 && v < int64(len(names)) {
				out.Texts[i] = names[v]
			}
		}
		return out, nil
	}}
}

// written makes a text of any value, plainly.
func written(a node) node {
	switch {
	case a.field.Kind == frame.Text:
		return a
	case a.field.Kind == anyKind:
		return typed(a, text)
	case a.field.Names != nil:
		return named(a)
	}
	field := a.field
	return node{field: text, at: a.at, fixed: a.fixed, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Texts = x.Nulls, make([]string, max(len(x.Ints), len(x.Wide)))
		for i := range out.Texts {
			out.Texts[i] = x.Value(field, i).String()
		}
		return out, nil
	}}
}

func joinedTexts(t *expr.Expr, args []node) (node, error) {
	a, b := written(args[0]), written(args[1])
	return node{field: text, at: t.At, eval: func(e *env) (cells, error) {
		x, y, err := pair(e, a, b)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Texts = nulls(x, y), make([]string, textRows(x))
		var taken room
		for i := range out.Texts {
			out.Texts[i] = x.Text(i) + y.Text(i)
			if err := taken.take(out.Texts[i], ""); err != nil {
				return out, err
			}
		}
		return out, nil
	}}, nil
}

func areTexts(t *expr.Expr, args ...node) error {
	for _, a := range args {
		if a.field.Kind != frame.Text && a.field.Kind != anyKind && a.field.Names == nil {
			return fault(a.at, "%s is of texts, and this is %s", t.Text, called(a.field))
		}
	}
	return nil
}

func textFunctions() []*Function {
	one := func(name, says, example, gives string, change func(string) string) *Function {
		return &Function{Name: name, Usage: name + "(text)", Says: says, Example: example, Gives: gives, least: 1, most: 1,
			compile: func(_ *compiler, t *expr.Expr, args []node) (node, error) {
				if err := areTexts(t, args...); err != nil {
					return node{}, err
				}
				return ofTexts(t, written(args[0]), change), nil
			}}
	}
	return []*Function{
		one("upper", "The text in capitals.", "upper(district)", "HOLLIN, MARR, HOLLIN, MARR", strings.ToUpper),
		one("lower", "The text in small letters.", "lower(district)", "hollin, marr, hollin, marr", strings.ToLower),
		one("trim", "The text without spaces at its ends.", "trim('  x ' || lot)", "x L-1, x L-2, x L-3, x L-4",
			strings.TrimSpace),
		{
			Name:    "length",
			Usage:   "length(text)",
			Says:    "How many characters it has.",
			Example: "length(district)",
			Gives:   "6, 4, 6, 4",
			least:   1,
			most:    1,
			compile: length,
		},
		{
			Name:    "substr",
			Usage:   "substr(text, from), substr(text, from, count)",
			Says:    "Part of a text; the first character is number 1.",
			Example: "substr(district, 1, 3)",
			Gives:   "Hol, Mar, Hol, Mar",
			least:   2,
			most:    3,
			compile: substr,
		},
		{Name: "replace", Usage: "replace(text, old, new)", Says: "The text with every old part new.",
			Example: "replace(lot, 'L-', 'Lot ')", Gives: "Lot 1, Lot 2, Lot 3, Lot 4", least: 3, most: 3,
			compile: func(_ *compiler, t *expr.Expr, args []node) (node, error) {
				if err := areTexts(t, args...); err != nil {
					return node{}, err
				}
				old, fixed1 := fixedText(args[1])
				by, fixed2 := fixedText(args[2])
				if !fixed1 || !fixed2 || old == "" {
					return node{}, fault(t.At, "the old and the new part must be fixed texts, the old one not empty")
				}
				return ofTexts(t, written(args[0]), func(s string) string {
					if len(by) > len(old) && strings.Count(s, old)*(len(by)-len(old)) > longestText {
						return s + strings.Repeat(" ", longestText) // too long: refused without being made
					}
					return strings.ReplaceAll(s, old, by)
				}), nil
			}},
	}
}

// once is what a fixed node comes to; false where it differs from row to row, of which there are none yet,
// cannot be computed, or is empty.
func (n node) once() (c cells, ok bool) {
	if !n.fixed {
		return c, false
	}
	c, err := n.eval(&env{rows: 1})
	return c, err == nil && !c.Vector.Null(0)
}

func fixedText(n node) (string, bool) {
	v, ok := n.once()
	if !ok || n.field.Kind != frame.Text {
		return "", false
	}
	return v.Texts[0], true
}

func fixedWhole(n node) (int64, bool) {
	v, ok := n.once()
	if !ok || n.field.Kind != frame.Integer {
		return 0, false
	}
	return v.Ints[0], true
}

func length(_ *compiler, t *expr.Expr, args []node) (node, error) {
	if err := areTexts(t, args...); err != nil {
		return node{}, err
	}
	a := written(args[0])
	return node{field: frame.Field{Kind: frame.Integer}, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = x.Nulls, make([]int64, textRows(x))
		for i := range out.Ints {
			out.Ints[i] = int64(utf8.RuneCountInString(x.Text(i)))
		}
		return out, nil
	}}, nil
}

func substr(_ *compiler, t *expr.Expr, args []node) (node, error) {
	if err := areTexts(t, args[0]); err != nil {
		return node{}, err
	}
	from, ok := fixedWhole(args[1])
	count, counted := int64(1<<31), true
	if len(args) == 3 {
		count, counted = fixedWhole(args[2])
	}
	if !ok || !counted || from < 1 || count < 0 {
		return node{}, fault(args[1].at, "substr wants fixed whole numbers, the first at least 1")
	}
	return ofTexts(t, written(args[0]), func(s string) string {
		r := []rune(s)
		r = r[min(from-1, int64(len(r))):]
		return string(r[:min(count, int64(len(r)))])
	}), nil
}
