package sheet

import (
	"context"
	"fmt"
	"slices"

	"mantilla/core/compare"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/table"
)

// figures are groups with what stands in their lines.
type figures struct {
	groups *table.Groups
	of     map[string]figure // by column
	ids    []string
	some   [][]bool // by level and group: whether any row has a figure that is not zero; nil where zeros are shown
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
		for i := range x.levels {
			n += x.levels[i].Bytes()
		}
	}
	return n
}

// figures groups the selected rows and computes what is wanted of the columns.
func (p *prepared) figures(ctx context.Context, levels []level, ids []string) (*figures, error) {
	var texts []string
	for _, l := range levels {
		texts = append(texts, l.text)
	}
	ids = p.measured(ids)
	if p.view.Zeros == "omit" {
		texts = append(texts, "without zeros")
	}
	key := fmt.Sprintf("%s/groups%q/%q", p.key, texts, ids)
	kept, err := p.setting.Cache.Get(key, func() (table.Sized, error) {
		return p.figuresOf(ctx, p.where(), levels, ids, nil)
	})
	if err != nil {
		return nil, err
	}
	return kept.(*figures), nil
}

// measured returns the columns that have a figure, with those that they need
// and those that the view sorts by.
func (p *prepared) measured(ids []string) (out []string) {
	for _, id := range ids {
		out = p.measure(out, id)
	}
	for _, k := range p.view.Sort {
		out = p.measure(out, k.Column)
	}
	return out
}

// measure adds a column that has a figure, after those that it is made of.
func (p *prepared) measure(out []string, id string) []string {
	c := p.set.Column(id)
	if c == nil || !p.hasFigure(id) || slices.Contains(out, id) {
		return out
	}
	switch {
	case c.Percent != nil:
		out = p.measure(p.measure(out, c.Percent.Of), c.Percent.By)
	case c.Difference != nil:
		out = p.measure(p.measure(out, c.Difference.Of), c.Difference.From)
	}
	return append(out, id)
}

// figuresOf groups rows and computes figures; see [prepared.calculated] for
// whole.
func (p *prepared) figuresOf(ctx context.Context, where table.Where, levels []level, ids []string,
	whole *table.Groups) (*figures, error) {
	var measures []table.Measure
	for _, id := range ids {
		if c := p.set.Column(id); c.Percent == nil && c.Difference == nil {
			measures = append(measures, p.measuresOf(c)...)
		}
	}
	var filled []int
	if p.view.Zeros == "omit" {
		filled = p.filled(ids)
		for _, at := range filled {
			measures = append(measures, table.Measure{Column: at, Op: frame.NonZero})
		}
	}
	groups, err := p.rows.Groups(ctx, where, placesOf(levels), distinct(measures))
	if err != nil {
		return nil, err
	}
	out := &figures{groups: groups, of: map[string]figure{}, ids: ids}
	if p.view.Zeros == "omit" {
		out.some = anyOf(groups, filled)
	}
	for _, id := range ids {
		if out.of[id], err = p.figureOf(out, p.set.Column(id), whole); err != nil {
			return nil, fmt.Errorf("column %s: %w", id, err)
		}
	}
	return out, nil
}

// figureOf computes the figure of one column, after those that it is made of.
func (p *prepared) figureOf(f *figures, c *report.Column, whole *table.Groups) (x figure, err error) {
	switch {
	case c.AtGroups:
		return p.calculated(f.groups, p.formulaOf(c), whole)
	case c.Percent != nil:
		return percents(f.groups, f.of[c.Percent.Of], f.of[c.Percent.By], c.Field()), nil
	case c.Difference != nil:
		return differences(f.groups, f.of[c.Difference.Of], f.of[c.Difference.From]), nil
	}
	return measuredBy(f.groups, p.totalOf(c))
}

// measuredBy is a figure that the groups were made with.
func measuredBy(groups *table.Groups, m table.Measure) (x figure, err error) {
	var ok bool
	if x.field, x.levels, ok = groups.Figures(m); !ok {
		return x, fmt.Errorf("the groups were made without its %s", m.Op)
	}
	return x, nil
}

// formulaOf is the formula of a column that is computed of groups.
func (p *prepared) formulaOf(c *report.Column) *formula.Formula {
	at := slices.IndexFunc(p.atAll, func(g report.Calculated) bool { return g.Column.ID == c.ID })
	return p.atAll[at].Formula
}

// totalOf is the measure of a column that is not computed of groups.
func (p *prepared) totalOf(c *report.Column) table.Measure {
	return table.Measure{Column: p.scope.Columns.Index(c.ID), Op: c.Total}
}

// measuresOf are what the figure of a column is made of.
func (p *prepared) measuresOf(c *report.Column) []table.Measure {
	if !c.AtGroups {
		return []table.Measure{p.totalOf(c)}
	}
	return p.measuresIn(p.formulaOf(c))
}

// measuresIn are what a formula of groups is made of.
func (p *prepared) measuresIn(f *formula.Formula) (out []table.Measure) {
	for _, a := range f.Aggregates {
		out = append(out, p.aggregate(a))
	}
	for _, w := range f.Windows {
		out = append(out, p.measuresIn(w.Of)...)
	}
	return out
}

func (p *prepared) aggregate(a formula.Aggregate) table.Measure {
	return table.Measure{Column: p.place(a.Key, a.Of), Op: a.Op, Percent: a.Percent}
}

func distinct(measures []table.Measure) (out []table.Measure) {
	for _, m := range measures {
		if !slices.Contains(out, m) {
			out = append(out, m)
		}
	}
	return out
}

// anyOf tells of every group, level by level, whether any of its rows has a value
// other than 0 in one of the columns.
func anyOf(groups *table.Groups, columns []int) [][]bool {
	out := make([][]bool, len(groups.Levels))
	for level := range out {
		out[level] = make([]bool, groups.Levels[level].Len())
	}
	for _, at := range columns {
		_, counts, _ := groups.Figures(table.Measure{Column: at, Op: frame.NonZero})
		for level, v := range counts {
			for group, n := range v.Ints {
				out[level][group] = out[level][group] || n > 0
			}
		}
	}
	return out
}

// calculated computes a formula of groups at every level. Where the groups are
// only a part of the rows, such as those beyond a limit, whole are the groups of
// all rows, which shares are of; otherwise it is nil.
func (p *prepared) calculated(groups *table.Groups, f *formula.Formula, whole *table.Groups) (figure, error) {
	aggregates := make([][]frame.Vector, len(f.Aggregates))
	for i, a := range f.Aggregates {
		x, err := measuredBy(groups, p.aggregate(a))
		if err != nil {
			return figure{}, err
		}
		aggregates[i] = x.levels
	}
	windows := make([][]formula.Beside, len(f.Windows))
	for i, w := range f.Windows {
		inner, err := p.calculated(groups, w.Of, nil)
		if err != nil {
			return figure{}, err
		}
		of := inner
		if whole != nil {
			if of, err = p.calculated(whole, w.Of, nil); err != nil {
				return figure{}, err
			}
		}
		windows[i] = around(groups, w, inner, of, whole != nil)
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

func at[T any](all [][]T, level int) (out []T) {
	for _, v := range all {
		out = append(out, v[level])
	}
	return out
}

// around computes a window: what a figure is beside those of other groups. Of
// are the figures of all rows, the same as inner unless the groups are only a
// part of them; a part stands in no order among the others, so that nothing
// comes before it.
func around(groups *table.Groups, w formula.Window, inner, of figure, part bool) []formula.Beside {
	out := make([]formula.Beside, len(groups.Levels))
	for l := range groups.Levels {
		level := &groups.Levels[l]
		own := make([]frame.Value, level.Len())
		whole := make([]frame.Value, level.Len())
		for g := range own {
			own[g] = inner.levels[l].Value(inner.field, g)
			first := l == 0 || g == 0 || level.Parent[g] != level.Parent[g-1]
			switch {
			case w.Around == formula.ShareOfParent && l > 0:
				whole[g] = inner.levels[l-1].Value(inner.field, int(level.Parent[g]))
			case w.Shares():
				whole[g] = of.levels[0].Value(of.field, 0)
			case part && l == 0:
				own[g] = frame.Value{Kind: own[g].Kind, Null: true}
			case first:
				own[g] = besides(w.Around, own[g], nil)
			case w.Around == formula.Running:
				own[g] = besides(w.Around, own[g], &own[g-1])
			default:
				before := inner.levels[l].Value(inner.field, g-1)
				own[g] = besides(w.Around, own[g], &before)
			}
		}
		out[l].Own = frame.VectorOf(w.Field(), own)
		if w.Shares() {
			out[l].Whole = frame.VectorOf(w.Field(), whole)
		}
	}
	return out
}

// besides computes what depends on the group before, which is nil for the
// first.
func besides(how formula.Around, own frame.Value, before *frame.Value) frame.Value {
	none := frame.Value{Kind: own.Kind, Null: true}
	switch {
	case how == formula.Running && (before == nil || before.Null):
		return own
	case how == formula.Running && own.Null:
		return *before
	case how == formula.Running:
		own.Number = own.Number.Plus(before.Number, 1)
		return own
	case before == nil:
		return none
	case how == formula.Previous:
		return *before
	case own.Null || before.Null:
		return none
	}
	own.Number = own.Number.Plus(before.Number, -1)
	return own
}

// percents computes the percentage that one figure is of another.
func percents(groups *table.Groups, of, by figure, field frame.Field) figure {
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

// differences computes what one figure is more than another; what a period does
// not have counts as nothing.
func differences(groups *table.Groups, of, from figure) figure {
	out := figure{field: of.field}
	for l := range groups.Levels {
		values := make([]frame.Value, groups.Levels[l].Len())
		for g := range values {
			own, other := of.levels[l].Value(of.field, g), from.levels[l].Value(from.field, g)
			values[g] = frame.Value{Kind: own.Kind, Null: own.Null && other.Null}
			values[g].Number = own.Number.Plus(other.Number, -1)
		}
		out.levels = append(out.levels, frame.VectorOf(out.field, values))
	}
	return out
}

// ofRows tells whether a column's figure is nothing as soon as all its cells
// are: a count of rows, or a figure computed of groups, is not.
func ofRows(c *report.Column) bool {
	return c.Kind.Numeric() && !c.AtGroups && c.Total != frame.Count && c.Total != frame.Distinct
}

// filled are the columns that tell whether a row has any figure.
func (p *prepared) filled(ids []string) (places []int) {
	for _, id := range ids {
		if c := p.set.Column(id); c != nil && isMeasure(c) && ofRows(c) {
			if at := p.scope.Columns.Index(id); at >= 0 && !slices.Contains(places, at) {
				places = append(places, at)
			}
		}
	}
	return places
}

// nothing tells whether all figures of a group are zero or missing: those of its
// rows each for itself, since what cancels is not nothing.
func (s *Sheet) nothing(f *figures, level, group int, ids []string) bool {
	if f.some != nil && f.some[level][group] {
		return false
	}
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
