package formula

import (
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/expr"
	"mantilla/core/frame"
)

// choice is case when.
func choice(t *expr.Expr, args []node) (node, error) {
	var whens, thens []node
	for len(args) > 1 {
		if !isFlag(args[0].field) {
			return node{}, fault(args[0].at, "a condition is wanted after when, and this is %s", called(args[0].field))
		}
		whens, thens, args = append(whens, args[0]), append(thens, args[1]), args[2:]
	}
	if len(args) == 1 {
		thens = append(thens, args[0])
	} else {
		thens = append(thens, valued(frame.Value{Kind: anyKind, Null: true}, t.At))
	}
	return picked(t, thens, func(e *env) ([]int, error) {
		rows := e.rows
		which := slices.Repeat([]int{len(whens)}, rows)
		for i := len(whens) - 1; i >= 0; i-- {
			x, err := whens[i].eval(e)
			if err != nil {
				return nil, err
			}
			x = x.spread(rows)
			for r, v := range x.Ints {
				if v != 0 && !x.Null(r) {
					which[r] = i
				}
			}
		}
		return which, nil
	})
}

// choiceOf is case of one value, which is computed once.
func choiceOf(t *expr.Expr, args []node) (node, error) {
	subject, args := once(args[0]), slices.Clone(args[1:])
	for i := 0; i+1 < len(args); i += 2 {
		same, err := compared(&expr.Expr{Op: "=", At: args[i].at}, subject, args[i])
		if err != nil {
			return node{}, err
		}
		args[i] = same
	}
	return choice(t, args)
}

// picked takes each row's cell from one of several values, which become of one
// type. Which may be as long as the values or -1 for no value.
func picked(t *expr.Expr, values []node, choose func(e *env) ([]int, error)) (node, error) {
	values, field, err := unified(t, values)
	if err != nil {
		return node{}, err
	}
	return node{field: field, at: t.At, eval: func(e *env) (cells, error) {
		which, err := choose(e)
		if err != nil {
			return cells{}, err
		}
		all := make([]cells, len(values))
		wide := false
		for i, v := range values {
			if all[i], err = v.eval(e); err != nil {
				return cells{}, err
			}
			all[i] = all[i].spread(e.rows)
			wide = wide || all[i].Wide != nil
		}
		return gathered(field, all, which, wide), nil
	}}, nil
}

func gathered(field frame.Field, all []cells, which []int, wide bool) cells {
	out := cells{}
	none := func(i int) {
		if out.Nulls == nil {
			out.Nulls = make([]bool, len(which))
		}
		out.Nulls[i] = true
	}
	switch {
	case field.Kind == frame.Text:
		out.Texts = make([]string, len(which))
	case wide:
		out.Wide = make([]decimal128.Num, len(which))
	default:
		out.Ints = make([]int64, len(which))
	}
	for r, i := range which {
		switch {
		case i < 0 || all[i].Null(r):
			none(r)
		case out.Texts != nil:
			out.Texts[r] = all[i].Text(r)
		case wide:
			out.Wide[r] = all[i].Digits(r)
		default:
			out.Ints[r] = all[i].Ints[r]
		}
	}
	return out
}

// unified makes values of one type: numbers get the most places of any.
func unified(t *expr.Expr, values []node) ([]node, frame.Field, error) {
	field := frame.Field{Kind: anyKind}
	for i, v := range values {
		if v.field.Names != nil {
			v = named(v)
			values[i] = v
		}
		f := v.field
		switch {
		case f.Kind == anyKind:
		case field.Kind == anyKind:
			field = unnamed(f)
		case field.Kind.Numeric() && f.Kind.Numeric():
			if field.Kind == frame.Money && f.Kind == frame.Money && field.Currency != f.Currency {
				return nil, field, fault(v.at, "this is %s, and what stands before it is %s", f.Currency, field.Currency)
			}
			money := field
			if f.Kind == frame.Money {
				money = f
			}
			field = number(max(field.Scale, f.Scale), money)
		case field.Kind != f.Kind:
			return nil, field, fault(v.at, "this is %s, and what stands before it is %s", called(f), called(field))
		}
	}
	out := make([]node, len(values))
	for i, v := range values {
		switch {
		case field.Kind == anyKind:
			out[i] = v
		case v.field.Kind == anyKind:
			out[i] = typed(v, field)
		case field.Kind.Numeric():
			out[i] = rescaled(v, field.Scale)
		default:
			out[i] = v
		}
	}
	return out, field, nil
}
