package ready

import (
	"context"
	"fmt"
	"slices"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/table"
)

// Figures are groups with what stands in their lines.
type Figures struct {
	Groups *table.Groups
	Of     map[string]Figure // by column
	IDs    []string
	Some   [][]bool // by level and group: whether any row has a figure that is not zero; nil where zeros are shown
}

// Figure is one figure of every group: a vector for each level.
type Figure struct {
	Field  frame.Field
	Levels []frame.Vector
}

// Bytes returns about how much memory the figures take.
func (f *Figures) Bytes() int {
	n := f.Groups.Bytes()
	for _, x := range f.Of {
		for i := range x.Levels {
			n += x.Levels[i].Bytes()
		}
	}
	return n
}

// Figures groups the selected rows and computes what is wanted of the columns.
func (p *View) Figures(ctx context.Context, levels []Level, ids []string) (*Figures, error) {
	var texts []string
	for _, l := range levels {
		texts = append(texts, l.Text)
	}
	ids = p.measured(ids)
	if p.As.Zeros == "omit" {
		texts = append(texts, "without zeros")
	}
	key := fmt.Sprintf("%s/groups%q/%q", p.Key, texts, ids)
	kept, err := p.Setting.Cache.Get(key, func() (table.Sized, error) {
		return p.FiguresOf(ctx, p.Where(), levels, ids, nil)
	})
	if err != nil {
		return nil, err
	}
	return kept.(*Figures), nil
}

// measured returns the columns that have a figure, with those that they need
// and those that the view sorts by.
func (p *View) measured(ids []string) (out []string) {
	for _, id := range ids {
		out = p.measure(out, id)
	}
	for _, k := range p.As.Sort {
		out = p.measure(out, k.Column)
	}
	return out
}

// measure adds a column that has a figure, after those that it is made of.
func (p *View) measure(out []string, id string) []string {
	c := p.Set.Column(id)
	if c == nil || !p.HasFigure(id) || slices.Contains(out, id) {
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

// FiguresOf groups rows and computes figures; see [View.Calculated] for
// whole.
func (p *View) FiguresOf(ctx context.Context, where table.Where, levels []Level, ids []string,
	whole *table.Groups) (*Figures, error) {
	var measures []table.Measure
	for _, id := range ids {
		if c := p.Set.Column(id); c.Percent == nil && c.Difference == nil {
			measures = append(measures, p.measuresOf(c)...)
		}
	}
	var filled []int
	if p.As.Zeros == "omit" {
		filled = p.Filled(ids)
		for _, at := range filled {
			measures = append(measures, table.Measure{Column: at, Op: frame.NonZero})
		}
	}
	groups, err := p.Rows.Groups(ctx, where, Places(levels), Distinct(measures))
	if err != nil {
		return nil, err
	}
	out := &Figures{Groups: groups, Of: map[string]Figure{}, IDs: ids}
	if p.As.Zeros == "omit" {
		out.Some = anyOf(groups, filled)
	}
	for _, id := range ids {
		if out.Of[id], err = p.figureOf(out, p.Set.Column(id), whole); err != nil {
			return nil, fmt.Errorf("column %s: %w", id, err)
		}
	}
	return out, nil
}

// figureOf computes the figure of one column, after those that it is made of.
func (p *View) figureOf(f *Figures, c *report.Column, whole *table.Groups) (x Figure, err error) {
	switch {
	case c.AtGroups:
		return p.Calculated(f.Groups, p.FormulaOf(c), whole)
	case c.Percent != nil:
		return percents(f.Groups, f.Of[c.Percent.Of], f.Of[c.Percent.By], c.Field()), nil
	case c.Difference != nil:
		return Differences(f.Groups, f.Of[c.Difference.Of], f.Of[c.Difference.From]), nil
	}
	return Measured(f.Groups, p.TotalOf(c))
}

// Measured is a figure that the groups were made with.
func Measured(groups *table.Groups, m table.Measure) (x Figure, err error) {
	var ok bool
	if x.Field, x.Levels, ok = groups.Figures(m); !ok {
		return x, fmt.Errorf("the groups were made without its %s", m.Op)
	}
	return x, nil
}

// FormulaOf is the formula of a column that is computed of groups.
func (p *View) FormulaOf(c *report.Column) *formula.Formula {
	at := slices.IndexFunc(p.atAll, func(g report.Calculated) bool { return g.Column.ID == c.ID })
	return p.atAll[at].Formula
}

// TotalOf is the measure of a column that is not computed of groups.
func (p *View) TotalOf(c *report.Column) table.Measure {
	return table.Measure{Column: p.Scope.Columns.Index(c.ID), Op: c.Total}
}

// measuresOf are what the figure of a column is made of.
func (p *View) measuresOf(c *report.Column) []table.Measure {
	if !c.AtGroups {
		return []table.Measure{p.TotalOf(c)}
	}
	return p.MeasuresIn(p.FormulaOf(c))
}

// MeasuresIn are what a formula of groups is made of.
func (p *View) MeasuresIn(f *formula.Formula) (out []table.Measure) {
	for _, a := range f.Aggregates {
		out = append(out, p.aggregate(a))
	}
	for _, w := range f.Windows {
		out = append(out, p.MeasuresIn(w.Of)...)
	}
	return out
}

func (p *View) aggregate(a formula.Aggregate) table.Measure {
	return table.Measure{Column: p.place(a.Key, a.Of), Op: a.Op, Percent: a.Percent}
}

// Distinct returns each measure once.
func Distinct(measures []table.Measure) (out []table.Measure) {
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

// Calculated computes a formula of groups at every level. Where the groups are
// only a part of the rows, such as those beyond a limit, whole are the groups of
// all rows, which shares are of; otherwise it is nil.
func (p *View) Calculated(groups *table.Groups, f *formula.Formula, whole *table.Groups) (Figure, error) {
	aggregates := make([][]frame.Vector, len(f.Aggregates))
	for i, a := range f.Aggregates {
		x, err := Measured(groups, p.aggregate(a))
		if err != nil {
			return Figure{}, err
		}
		aggregates[i] = x.Levels
	}
	windows := make([][]formula.Beside, len(f.Windows))
	for i, w := range f.Windows {
		inner, err := p.Calculated(groups, w.Of, nil)
		if err != nil {
			return Figure{}, err
		}
		of := inner
		if whole != nil {
			if of, err = p.Calculated(whole, w.Of, nil); err != nil {
				return Figure{}, err
			}
		}
		windows[i] = around(groups, w, inner, of, whole != nil)
	}
	out := Figure{Field: f.Field}
	for level := range groups.Levels {
		v, err := f.OfGroup(groups.Levels[level].Len(), at(aggregates, level), at(windows, level))
		if err != nil {
			return Figure{}, err
		}
		out.Levels = append(out.Levels, v)
	}
	return out, nil
}

func at[T any](all [][]T, level int) (out []T) {
	for _, v := range all {
		out = append(out, v[level])
	}
	return out
}

// OfRows tells whether a column's figure is nothing as soon as all its cells
// are: a count of rows, or a figure computed of groups, is not.
func OfRows(c *report.Column) bool {
	return c.Kind.Numeric() && !c.AtGroups && c.Total != frame.Count && c.Total != frame.Distinct
}

// Filled are the columns that tell whether a row has any figure.
func (p *View) Filled(ids []string) (places []int) {
	for _, id := range ids {
		if c := p.Set.Column(id); c != nil && IsMeasure(c) && OfRows(c) {
			if at := p.Scope.Columns.Index(id); at >= 0 && !slices.Contains(places, at) {
				places = append(places, at)
			}
		}
	}
	return places
}

// Nothing tells whether all figures of a group are zero or missing: those of its
// rows each for itself, since what cancels is not nothing.
func (f *Figures) Nothing(level, group int, ids []string) bool {
	if f.Some != nil && f.Some[level][group] {
		return false
	}
	for _, id := range ids {
		x, ok := f.Of[id]
		if !ok || !x.Field.Kind.Numeric() {
			continue
		}
		v := x.Levels[level]
		if !v.Null(group) && v.Digits(group).Sign() != 0 {
			return false
		}
	}
	return true
}

// Places returns where levels stand in the table.
func Places(levels []Level) (places []int) {
	for _, l := range levels {
		places = append(places, l.Place)
	}
	return places
}
