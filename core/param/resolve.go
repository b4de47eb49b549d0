package param

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
)

// Setting is what values are resolved against.
type Setting struct {
	Calendar period.Calendar
	Lists    Lists
}

// Resolve turns what was typed for each parameter into facts. A parameter that
// is not mentioned takes its default; one that is mentioned with an empty text
// stays empty. All faults are returned together; err is for lists that could
// not be read.
func Resolve(ctx context.Context, declared []Parameter, typed map[string]string, s Setting) (values Values, faults Faults, err error) {
	faults = unknown(declared, typed)
	for i := range declared {
		p := &declared[i]
		text, mentioned := typed[p.ID]
		if !mentioned {
			text = p.Default
		}
		text = strings.TrimSpace(text)
		v := Value{Parameter: p, Typed: text, Given: text != ""}
		if !v.Given {
			if p.Required {
				faults = append(faults, Fault{Parameter: p.ID, Message: fmt.Sprintf("%s is needed; %s", p.Label, p.hint())})
			}
			values = append(values, v)
			continue
		}
		fault, err := v.read(ctx, text, s)
		if err != nil {
			return nil, nil, fmt.Errorf("parameter %s: %w", p.ID, err)
		}
		if fault != nil {
			fault.Parameter = p.ID
			faults = append(faults, *fault)
		}
		values = append(values, v)
	}
	return values, faults, nil
}

// unknown reports the names that no declaration has.
func unknown(declared []Parameter, typed map[string]string) (faults Faults) {
	var names, ids []string
	for _, p := range declared {
		ids = append(ids, p.ID)
	}
	for name := range typed {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if slices.Contains(ids, name) {
			continue
		}
		near := nearest.Names(name, ids, 3)
		message := fmt.Sprintf("the report has no parameter %q; it has %s", name, nearest.And(ids))
		if len(ids) == 0 {
			message = fmt.Sprintf("the report has no parameter %q; it has none", name)
		} else if len(near) > 0 {
			message = fmt.Sprintf("the report has no parameter %q; did you mean %s?", name, nearest.Or(near))
		}
		faults = append(faults, Fault{Parameter: name, Message: message, Near: near})
	}
	return faults
}

// hint tells how a value of the parameter is written.
func (p *Parameter) hint() string {
	switch p.Type {
	case Integer:
		return "write a whole number such as 12"
	case Decimal:
		return "write a number such as 12.50"
	case Flag:
		return "write yes or no"
	case Date:
		return "write a day such as 2026-09-30 or today"
	case Range:
		return "write days such as last month or 2026-01-15/2026-03-31"
	case Unit:
		return "choose a unit by its code or name"
	case Entity:
		return "choose one by its number or exact name"
	case Choice:
		return "choose from the list"
	}
	return "write a text"
}

func bad(format string, args ...any) *Fault { return &Fault{Message: fmt.Sprintf(format, args...)} }

// read fills the value from a text that is not empty.
func (v *Value) read(ctx context.Context, text string, s Setting) (*Fault, error) {
	switch v.Parameter.Type {
	case Integer, Decimal:
		return v.readNumber(text), nil
	case Flag:
		return v.readFlag(text), nil
	case Date:
		return v.readDay(text, s.Calendar), nil
	case Range:
		return v.readRange(text, s.Calendar), nil
	case Unit, Entity, Choice:
		return v.readEntries(ctx, text, s.Lists)
	}
	return v.readText(text), nil
}

func (v *Value) readText(text string) *Fault {
	p, limit := v.Parameter, v.Parameter.MaxLength
	if limit == 0 {
		limit = 200
	}
	if n := utf8.RuneCountInString(text); n > limit {
		return bad("%s has %d characters; at most %d are allowed", p.Label, n, limit)
	}
	if p.Pattern != "" && !regexp.MustCompile(`^(?:`+p.Pattern+`)$`).MatchString(text) {
		return bad("%q does not have the form of %s; it must match %s", text, p.Label, p.Pattern)
	}
	v.Text = text
	return nil
}

func (v *Value) readNumber(text string) *Fault {
	p, scale := v.Parameter, v.Parameter.Scale
	if p.Type == Integer {
		scale = 0
	}
	digits, err := frame.ParseNumber(text, scale)
	if err != nil {
		return bad("%v; %s", err, p.hint())
	}
	if low, err := frame.ParseNumber(p.Min, scale); err == nil && digits < low {
		return bad("%s is below the smallest allowed, %s", text, p.Min)
	}
	if high, err := frame.ParseNumber(p.Max, scale); err == nil && digits > high {
		return bad("%s is above the largest allowed, %s", text, p.Max)
	}
	v.Number = frame.Exact(digits, scale)
	return nil
}

func (v *Value) readFlag(text string) *Fault {
	switch strings.ToLower(text) {
	case "yes", "true", "1":
		v.Flag = true
	case "no", "false", "0":
	default:
		return bad("%q is neither yes nor no", text)
	}
	return nil
}

func (v *Value) readDay(text string, c period.Calendar) *Fault {
	day, err := c.ParseDay(text)
	if err != nil {
		return bad("%v", err)
	}
	if low, err := c.ParseDay(v.Parameter.Min); err == nil && day < low {
		return bad("%s lies before the earliest day allowed, %s", day.Long(), low.Long())
	}
	if high, err := c.ParseDay(v.Parameter.Max); err == nil && day > high {
		return bad("%s lies after the latest day allowed, %s", day.Long(), high.Long())
	}
	v.Day = day
	return nil
}

func (v *Value) readRange(text string, c period.Calendar) *Fault {
	r, err := c.ParseRange(text)
	if err != nil {
		return bad("%v", err)
	}
	if n, u, err := period.ParseSpan(v.Parameter.Longest); err == nil && r.Exceeds(n, u) {
		return bad("%s is %d days, longer than the %s allowed", r.Long(), r.Days(), v.Parameter.Longest)
	}
	v.Range = r
	return nil
}

func (v *Value) readEntries(ctx context.Context, text string, lists Lists) (*Fault, error) {
	p := v.Parameter
	if len(p.Options) > 0 {
		lists = options(p.Options)
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
			}
			problems, near = append(problems, problem), append(near, codes(like)...)
		default:
			problems = append(problems, fmt.Sprintf("%q is the name of %d; use the number: %s", t, len(found[i]), nearest.Or(labels(found[i]))))
			near = append(near, codes(found[i])...)
		}
	}
	if len(problems) > 0 {
		return &Fault{Message: strings.Join(problems, "; "), Near: near}, nil
	}
	v.Codes = codes(v.Entries)
	if p.Type == Unit {
		v.Codes, err = lists.Below(ctx, p.From, v.Codes)
	}
	return nil, err
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

// options answers for the fixed entries of a choice.
type options []Entry

func (o options) Match(_ context.Context, _, typed string) (found []Entry, err error) {
	for _, e := range o {
		if frame.Fold(e.Code) == frame.Fold(typed) || frame.Fold(e.Label) == frame.Fold(typed) {
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
