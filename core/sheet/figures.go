package sheet

import (
	"fmt"
	"slices"

	"mantilla/core/compare"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// figures are groups with what stands in their lines.
type figures struct {
	groups *frame.Groups
	of     map[string]figure // by column
	ids    []string
}

// figure is one figure of every group: a vector for each level.
type figure struct {
	field  frame.Field
	levels []frame.Vector
}

// Bytes returns about how much memory the figures take.
func (f *figures) Bytes() int {
	n := f.groups.Bytes()
	for _, x := range f.of {
		n += vectors(x.levels).Bytes()
	}
	return n
}

// figures groups the selected rows and computes what is wanted of the columns.
func (p *prepared) figures(levels []level, ids []string) (*figures, error) {
	var texts []string
	for _, l := range levels {
		texts = append(texts, l.text)
	}
	ids = p.measured(ids)
	kept, err := p.setting.Cache.Get(fmt.Sprintf("%s/groups%q/%q", p.key, texts, ids), func() (Sized, error) {
		rows, err := p.selection()
		if err != nil {
			return nil, err
		}
		return p.figuresOf(rows, levels, ids)
	})
	if err != nil {
		return nil, err
	}
	return kept.(*figures), nil
}

// measured returns the columns that have a figure, with those that they need
// and those that the view sorts by.
func (p *prepared) measured(ids []string) (out []string) {
	add := func(id string) {
		if c := p.set.Column(id); c != nil && isMeasure(c) && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	for _, id := range ids {
		if c := p.set.Column(id); c.Percent != nil {
			add(c.Percent.Of)
			add(c.Percent.By)
			if !slices.Contains(out, c.Percent.Of) || !slices.Contains(out, c.Percent.By) {
				continue // a percentage of what has no total
			}
		}
		add(id)
	}
	for _, k := range p.view.Sort {
		if c := p.set.Column(k.Column); c != nil && c.Percent == nil {
			add(k.Column)
		}
	}
	return out
}

func (p *prepared) figuresOf(rows frame.Selection, levels []level, ids []string) (*figures, error) {
	var by []int
	for _, l := range levels {
		by = append(by, l.place)
	}
	groups, err := p.rows.Group(rows, by)
	if err != nil {
		return nil, err
	}
	out := &figures{groups: groups, of: map[string]figure{}, ids: ids}
	for _, id := range ids {
		c := p.set.Column(id)
		var f figure
		switch {
		case c.AtGroups:
			at := slices.IndexFunc(p.atAll, func(g report.Calculated) bool { return g.Column.ID == id })
			f, err = p.calculated(groups, p.atAll[at].Formula)
		case c.Percent != nil:
			f = percents(groups, out.of[c.Percent.Of], out.of[c.Percent.By], c.Field())
		default:
			f.field, f.levels, err = groups.Measure(frame.Measure{Column: p.scope.Columns.Index(id), Op: c.Total})
		}
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", id, err)
		}
		out.of[id] = f
	}
	return out, nil
}

// calculated computes a formula of groups at every level.
func (p *prepared) calculated(groups *frame.Groups, f *formula.Formula) (figure, error) {
	aggregates := make([][]frame.Vector, len(f.Aggregates))
	for i, a := range f.Aggregates {
		var err error
		m := frame.Measure{Column: p.place(a.Key, a.Of), Op: a.Op, Percent: a.Percent}
		if _, aggregates[i], err = groups.Measure(m); err != nil {
			return figure{}, err
		}
	}
	windows := make([][]frame.Vector, len(f.Windows))
	for i, w := range f.Windows {
		inner, err := p.calculated(groups, w.Of)
		if err != nil {
			return figure{}, err
		}
		windows[i] = around(groups, w, inner)
	}
	out := figure{field: f.Field}
	for level := range groups.Levels {
		v, err := f.OfGroup(groups.Levels[level].Len(), at(aggregates, level), at(windows, level))
		if err != nil {
			return figure{}, err
		}
		out.levels = append(out.levels, v)
	}
	return out, nil
}

func at(all [][]frame.Vector, level int) (out []frame.Vector) {
	for _, v := range all {
		out = append(out, v[level])
	}
	return out
}

// around computes a window: what a figure is beside those of other groups.
func around(groups *frame.Groups, w formula.Window, inner figure) []frame.Vector {
	field := w.Field()
	out := make([]frame.Vector, len(groups.Levels))
	for l := range groups.Levels {
		level := &groups.Levels[l]
		values := make([]frame.Value, level.Len())
		for g := range values {
			own := inner.levels[l].Value(inner.field, g)
			switch w.Around {
			case formula.ShareOfTotal:
				values[g] = share(own, inner.levels[0].Value(inner.field, 0))
			case formula.ShareOfParent:
				whole := own
				if l > 0 {
					whole = inner.levels[l-1].Value(inner.field, int(level.Parent[g]))
				}
				values[g] = share(own, whole)
			default:
				first := l == 0 || g == 0 || level.Parent[g] != level.Parent[g-1]
				values[g] = besides(w.Around, own, first, g, values, func() frame.Value { return inner.levels[l].Value(inner.field, g-1) })
			}
		}
		out[l] = frame.VectorOf(field, values)
	}
	return out
}

// share is the percentage that a figure is of a whole. It has more places than
// are shown, so that it is rounded once.
func share(own, whole frame.Value) frame.Value {
	v := frame.Value{Kind: frame.Decimal, Null: own.Null || whole.Null}
	if !v.Null {
		part, ok := own.Number.Times(frame.Exact(100, 0)).Over(whole.Number, sharePlaces)
		v.Number, v.Null = part, !ok
	}
	return v
}

const sharePlaces = 6

// besides computes what depends on the group before.
func besides(how formula.Around, own frame.Value, first bool, g int, values []frame.Value, before func() frame.Value) frame.Value {
	switch how {
	case formula.Running:
		if first || values[g-1].Null {
			return own
		}
		if own.Null {
			return values[g-1]
		}
		own.Number = own.Number.Plus(values[g-1].Number, 1)
		return own
	case formula.Previous:
		if first {
			return frame.Value{Kind: own.Kind, Null: true}
		}
		return before()
	}
	if first || own.Null || before().Null {
		return frame.Value{Kind: own.Kind, Null: true}
	}
	own.Number = own.Number.Plus(before().Number, -1)
	return own
}

// percents computes the percentage that one figure is of another.
func percents(groups *frame.Groups, of, by figure, field frame.Field) figure {
	out := figure{field: field}
	for l := range groups.Levels {
		values := make([]frame.Value, groups.Levels[l].Len())
		for g := range values {
			values[g] = compare.Percent(of.levels[l].Value(of.field, g), by.levels[l].Value(by.field, g))
		}
		out.levels = append(out.levels, frame.VectorOf(field, values))
	}
	return out
}

// nothing tells whether all figures of a group are zero or missing.
func (f *figures) nothing(level, group int, ids []string) bool {
	for _, id := range ids {
		x, ok := f.of[id]
		if !ok || !x.field.Kind.Numeric() {
			continue
		}
		v := x.levels[level]
		if !v.Null(group) && v.Digits(group).Sign() != 0 {
			return false
		}
	}
	return true
}
