package param

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"mantilla/core/fold"
	"mantilla/core/nearest"
)

func (v *Value) readEntries(ctx context.Context, text string, s Setting) (*Fault, error) {
	p, lists := v.Parameter, s.Lists
	if len(p.Options) > 0 {
		lists = options(p.Options)
	}
	only := false
	if p.Type == Unit { // only UF: the unit itself, without what lies below it
		rest, ok := strings.CutPrefix(strings.TrimSpace(text), "only ")
		if only = ok; only {
			text = rest
		}
	}
	typed, found, err := split(ctx, p, text, lists)
	if err != nil {
		return nil, err
	}
	if len(typed) > 1 && !p.Many {
		return bad("%s takes one entry; %d are given", p.Label, len(typed)), nil
	}
	var problems, near []string
	for i, t := range typed {
		switch len(found[i]) {
		case 1:
			if !slices.ContainsFunc(v.Entries, func(e Entry) bool { return e.Code == found[i][0].Code }) {
				v.Entries = append(v.Entries, found[i][0])
			}
		case 0:
			like, err := lists.Near(ctx, p.From, t)
			if err != nil {
				return nil, err
			}
			problem := fmt.Sprintf("%q is not known", t)
			if len(like) > 0 {
				problem += "; did you mean " + nearest.Or(labels(like)) + "?"
			} else {
				problem += "; " + kinds[p.Type].hint
			}
			problems, near = append(problems, problem), append(near, codes(like)...)
		default:
			problems = append(problems,
				fmt.Sprintf("%q is the name of %d; use the number: %s", t, len(found[i]), nearest.Or(labels(found[i]))))
			near = append(near, codes(found[i])...)
		}
	}
	if len(problems) > 0 {
		return &Fault{Message: strings.Join(problems, "; "), Near: near}, nil
	}
	v.Codes = codes(v.Entries)
	if p.Type != Unit {
		return nil, nil
	}
	below, err := lists.Below(ctx, p.From, v.Codes)
	if err != nil {
		return nil, err
	}
	if only {
		v.Only = true
		below = slices.DeleteFunc(below, func(code string) bool { return !slices.Contains(v.Codes, code) })
	}
	v.Codes = below
	if len(v.Codes) == 0 {
		return bad("%s is not among your units", nearest.And(labels(v.Entries))), nil
	}
	return nil, nil
}

// readCodes reads 4000..4999, or one code that is both first and last.
func (v *Value) readCodes(ctx context.Context, text string, s Setting) (*Fault, error) {
	p := v.Parameter
	first, last, two := strings.Cut(text, "..")
	if !two {
		last = first
	}
	var problems, near []string
	for _, end := range []string{first, last} {
		found, err := s.Lists.Match(ctx, p.From, strings.TrimSpace(end))
		if err != nil {
			return nil, err
		}
		if len(found) == 1 {
			v.Entries = append(v.Entries, found[0])
			continue
		}
		like, err := s.Lists.Near(ctx, p.From, end)
		if err != nil {
			return nil, err
		}
		problem := fmt.Sprintf("%q is not known", strings.TrimSpace(end))
		if len(like) > 0 {
			problem += "; did you mean " + nearest.Or(labels(like)) + "?"
		}
		if !slices.Contains(problems, problem) {
			problems = append(problems, problem)
		}
		if !two {
			near = codes(like)
		}
	}
	if len(problems) > 0 {
		return &Fault{Message: strings.Join(problems, "; "), Near: near}, nil
	}
	v.Codes = codes(v.Entries)
	if v.Codes[0] > v.Codes[1] {
		return &Fault{
			Message: fmt.Sprintf("%s comes after %s; write the smaller code first", v.Codes[0], v.Codes[1]),
			Near:    []string{v.Codes[1] + ".." + v.Codes[0]},
		}, nil
	}
	return nil, nil
}

// readColumns reads ids or labels of columns, in order.
func (v *Value) readColumns(ctx context.Context, text string, _ Setting) (*Fault, error) {
	known := options(v.Parameter.Options)
	for _, typed := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == ',' || r == '\n' }) {
		typed = strings.TrimSpace(typed)
		found, _ := known.Match(ctx, "", typed)
		if len(found) == 0 {
			like, _ := known.Near(ctx, "", typed)
			if len(like) == 0 {
				like = known
			}
			return &Fault{
				Message: fmt.Sprintf("there is no column %q; choose %s", typed, nearest.Or(codes(like))),
				Near:    codes(like),
			}, nil
		}
		if slices.Contains(v.Codes, found[0].Code) {
			return bad("the column %s is given twice", found[0].Code), nil
		}
		v.Entries, v.Codes = append(v.Entries, found[0]), append(v.Codes, found[0].Code)
	}
	return nil, nil
}

// split takes a list apart at semicolons and lines, and at commas only where
// the piece as a whole is not an entry.
func split(ctx context.Context, p *Parameter, text string, lists Lists) (typed []string, found [][]Entry, err error) {
	add := func(piece string) error {
		if piece = strings.TrimSpace(piece); piece == "" {
			return nil
		}
		entries, err := lists.Match(ctx, p.From, piece)
		typed, found = append(typed, piece), append(found, entries)
		return err
	}
	for _, piece := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		whole := len(typed)
		if err := add(piece); err != nil {
			return nil, nil, err
		}
		if whole == len(typed) || len(found[whole]) > 0 || !strings.Contains(piece, ",") {
			continue
		}
		typed, found = typed[:whole], found[:whole]
		for _, part := range strings.Split(piece, ",") {
			if err := add(part); err != nil {
				return nil, nil, err
			}
		}
	}
	return typed, found, nil
}

func codes(entries []Entry) []string {
	out := make([]string, len(entries))
	for i, e := range entries {
		out[i] = e.Code
	}
	return out
}

func labels(entries []Entry) []string {
	out := make([]string, len(entries))
	for i, e := range entries {
		out[i] = e.Label
		if e.Label != e.Code {
			out[i] += " (" + e.Code + ")"
		}
	}
	return out
}

func names(entries []Entry) []string {
	out := make([]string, len(entries))
	for i, e := range entries {
		out[i] = e.Label
	}
	return out
}

func lowered(names []string) []string {
	for i := range names {
		names[i] = withFirst(names[i], unicode.ToLower)
	}
	return names
}

// options answers for the fixed entries of a choice.
type options []Entry

func (o options) Match(_ context.Context, _, typed string) (found []Entry, err error) {
	for _, e := range o {
		if fold.Text(e.Code) == fold.Text(typed) || fold.Text(e.Label) == fold.Text(typed) {
			found = append(found, e)
		}
	}
	return found, nil
}

func (o options) Near(_ context.Context, _, typed string) (found []Entry, err error) {
	for _, name := range nearest.Names(typed, labels(o), 3) {
		found = append(found, o[slices.Index(labels(o), name)])
	}
	return found, nil
}

func (o options) Below(_ context.Context, _ string, codes []string) ([]string, error) {
	return codes, nil
}

func (o options) Out(context.Context, string, []string, map[string][]string) ([]string, error) {
	return nil, nil
}
