package param

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/core/period"
)

// Setting is what values are resolved against.
type Setting struct {
	Calendar period.Calendar
	Lists    Lists
	Limited  bool                    // the person sees some units only
	Own      map[string]string       // defaults of the person's own, by parameter, before the declared ones
	Signed   map[string]period.Range // the days of the result that was signed off last, by parameter
}

// Default returns what a parameter is set to when it is not mentioned.
func (s Setting) Default(p *Parameter) string {
	if own, ok := s.Own[p.ID]; ok && !p.Locked {
		return own
	}
	return p.Default
}

// Resolve turns what was typed for each parameter into facts. A parameter that
// is not mentioned takes its default; one that is mentioned with an empty text
// stays empty. Parameters that others depend on are resolved first. All faults
// are returned together, in the order of the declarations; err is for lists
// that could not be read.
func Resolve(ctx context.Context, declared []Parameter, typed map[string]string, s Setting) (values Values,
	faults Faults, err error) {
	r := resolution{ctx, declared, typed, s, map[string]*Value{}, map[string]*Fault{}}
	for i := range declared {
		if err := r.resolve(&declared[i]); err != nil {
			return nil, nil, fmt.Errorf("parameter %s: %w", declared[i].ID, err)
		}
	}
	faults = unknown(declared, typed)
	for _, p := range declared {
		values = append(values, *r.values[p.ID])
		if f := r.faults[p.ID]; f != nil {
			f.Parameter = p.ID
			faults = append(faults, *f)
		}
	}
	return values, faults, nil
}

// resolution is a set of values as they are resolved one by one.
type resolution struct {
	ctx      context.Context
	declared []Parameter
	typed    map[string]string
	Setting
	values map[string]*Value
	faults map[string]*Fault
}

func (r *resolution) resolve(p *Parameter) error {
	if r.values[p.ID] != nil {
		return nil
	}
	text, mentioned := r.typed[p.ID]
	if !mentioned {
		text = r.Default(p)
	}
	text = strings.TrimSpace(text)
	v := &Value{Parameter: p, Typed: text, Given: text != "", Cut: r.Limited}
	r.values[p.ID] = v // before those it depends on, so that a circle ends
	for _, field := range slices.Sorted(maps.Keys(p.By)) {
		if at := slices.IndexFunc(r.declared, func(q Parameter) bool { return q.ID == p.By[field] }); at >= 0 {
			if err := r.resolve(&r.declared[at]); err != nil {
				return err
			}
		}
	}
	switch {
	case !v.Given && p.Required:
		r.faults[p.ID] = bad("%s is needed; %s", p.Label, kinds[p.Type].hint)
		return nil
	case !v.Given && !p.Locked:
		return nil
	}
	fault, err := kinds[p.Type].read(v, r.ctx, text, r.Setting)
	if fault == nil && err == nil && p.Locked && text != p.Default {
		fault, err = r.locked(v)
	}
	if fault == nil && err == nil && len(p.By) > 0 {
		fault, err = r.ruledOut(v)
	}
	if fault != nil {
		r.faults[p.ID] = fault
	}
	return err
}

// locked refuses a value that is not the one that the parameter is locked at.
func (r *resolution) locked(v *Value) (*Fault, error) {
	p := v.Parameter
	at := Value{Parameter: p, Given: true}
	fault, err := kinds[p.Type].read(&at, r.ctx, p.Default, r.Setting)
	if err != nil || fault != nil || at.Resolved() == v.Resolved() {
		return fault, err
	}
	return &Fault{Message: fmt.Sprintf("%s is locked at %s; leave it out", p.Label, p.Default), Near: []string{p.Default}},
		nil
}

// ruledOut refuses entries that do not go with what other parameters are set
// to, and says what is left without them.
func (r *resolution) ruledOut(v *Value) (*Fault, error) {
	p := v.Parameter
	by := Narrowed(p, r.values)
	if len(by) == 0 {
		return nil, nil
	}
	out, err := r.Lists.Out(r.ctx, p.From, codes(v.Entries), by)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	f := &Fault{}
	var rest []string
	for _, e := range v.Entries {
		if slices.Contains(out, e.Code) {
			f.Dropped = append(f.Dropped, e)
		} else {
			rest = append(rest, e.Code)
		}
	}
	var why []string
	for field := range by {
		for _, q := range r.declared {
			if q.ID == p.By[field] {
				why = append(why, q.Label)
			}
		}
	}
	slices.Sort(why)
	f.Rest = strings.Join(rest, "; ")
	f.Message = fmt.Sprintf("%s does not go with %s; choose another", nearest.And(labels(f.Dropped)), nearest.And(why))
	return f, nil
}

// Narrowed returns for each field of a parameter's list the values that the
// parameters it depends on leave; those that have no value leave all.
func Narrowed(p *Parameter, values map[string]*Value) map[string][]string {
	by := map[string][]string{}
	for field, id := range p.By {
		v := values[id]
		if v == nil || !v.Given {
			continue
		}
		if by[field] = v.Codes; !v.Parameter.Listed() {
			by[field] = []string{v.Resolved()}
		}
	}
	return by
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

func bad(format string, args ...any) *Fault { return &Fault{Message: fmt.Sprintf(format, args...)} }
