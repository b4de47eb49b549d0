// Package sheet lays kept rows out as a view: a table with its groups, a
// crosstab or a chart; filtered, sorted and totalled, with what a reader changed
// about it. The console, the command line and every file format draw from the
// same sheet, and every figure on it leads back to the rows that made it.
package sheet

import (
	"context"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/core/table"
)

// Fault says what is wrong with a reader's changes, and in which of them.
type Fault struct {
	Part string // columns, add, group, sort, filter, down, across, cells, show, names, zeros, open
	Err  error
}

func (f *Fault) Error() string { return f.Err.Error() }

func (f *Fault) Unwrap() error { return f.Err }

// Setting is what a sheet is laid out with beside its rows.
type Setting struct {
	Given    map[string]frame.Value // single values that formulas speak of
	Calendar period.Calendar        // of the reader: moving ranges in filters, the zone
	Cache    table.Cache            // keeps what is dear to compute; [table.Fresh] where nothing does

	fold    []string
	figures []string // formulas of all rows that will be computed
}

// Column is one column of a sheet. In a crosstab it is a measure of one group
// across: Heads are the names of that group and those above it, outermost
// first, and Path leads to it. A total has fewer heads than there are levels.
type Column struct {
	report.Column
	Heads   []string
	Path    string
	Field   frame.Field // what its cells are
	Measure int         // which of the crosstab's measures it is
}

// Sheet is a view laid out. It may be read by several goroutines.
type Sheet struct {
	View    *report.View // with the changes
	Dataset *report.Dataset
	Columns []Column
	Levels  []Level // what the lines are grouped by
	Sort    []frame.Key
	Filters []Filter
	Lines   int // lines of the sheet: rows and groups
	Rows    int // rows that meet the filters
	Of      int // rows kept
	Totals  []Total
	Chart   *Chart // of a chart
	Links   []string

	*prepared
	base    *report.View // without the changes
	changes Changes
	order   table.Order // of rows, where these are the lines
	outline *outline
	cross   *cross
	needs   []int // places of columns that lines of rows are made of
	toned   []tone
}

// Level is one level of the groups of a sheet.
type Level struct {
	Text  string // the column or formula
	Label string
	Field frame.Field
}

// Total is what stands under a column; Op is NoTotal where nothing does.
type Total struct {
	Op    frame.Op
	Value frame.Value
}

// Lay lays out a view of the rows. It fails with a [*Fault] when the changes
// do not fit the dataset, and otherwise when rows cannot be loaded or a formula
// gives a number that is too large.
func Lay(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c Changes,
	setting Setting) (*Sheet, error) {
	setting.fold = c.Fold
	asked := c
	if v.Show == report.Chart && v.Drawn == "histogram" && c.Drawn == "" && c.Show == "" {
		bands, err := bins(ctx, rows, d, v, c, setting)
		if err != nil {
			return nil, err
		}
		c.Group = []string{bands}
	}
	p, err := prepare(ctx, rows, d, v, c, setting)
	if err != nil {
		return nil, err
	}
	s := &Sheet{
		View:     p.view,
		Dataset:  p.set,
		Sort:     p.view.Sort,
		Filters:  p.filters,
		Of:       rows.Rows(),
		prepared: p,
		base:     v,
		changes:  asked,
	}
	if s.Rows, err = p.rows.Count(ctx, p.where()); err != nil {
		return nil, err
	}
	for _, l := range p.levels {
		s.Levels = append(s.Levels, Level{l.text, l.label, l.field})
	}
	switch p.view.Show {
	case report.Crosstab:
		return s, s.layCrosstab(ctx)
	case report.Chart:
		return s, s.layChart(ctx)
	}
	return s, s.layTable(ctx)
}

// layTable settles columns, totals, groups and order of a table, and of the
// other forms whose lines are rows.
func (s *Sheet) layTable(ctx context.Context) error {
	figures, err := s.figures(ctx, s.levels, s.shown)
	if err != nil {
		return err
	}
	s.order = s.sorted()
	s.Lines = s.Rows
	switch {
	case len(s.levels) > 0:
		if s.outline, err = s.arrange(ctx, figures); err != nil {
			return err
		}
		s.Lines = s.outline.lines
	case s.view.Show == report.Table: // lines of rows without a figure are left out; totals are still of all
		if s.order.Filled = s.hides(); s.order.Filled != nil {
			if s.Lines, err = s.rows.Count(ctx, s.order.Where); err != nil {
				return err
			}
		}
	}
	for _, id := range s.shown {
		c := s.set.Column(id)
		if s.outline != nil && !s.outline.rows && !isMeasure(c) {
			continue // it would be empty until rows are unfolded
		}
		s.Columns = append(s.Columns, Column{Column: *c, Field: s.fieldOf(c)})
		if c.Opens != nil {
			s.link(c.Opens)
		}
	}
	s.needs = s.placesOf(append(slices.Clone(s.shown), s.Links...))
	s.toned = s.tonesWithin(s.scope)
	for _, c := range s.Columns {
		t := Total{Op: c.Total}
		if f, ok := figures.of[c.ID]; ok {
			t.Value = f.levels[0].Value(f.field, 0)
			if c.AtGroups {
				t.Op = frame.Ratio
			}
		}
		s.Totals = append(s.Totals, t)
	}
	return nil
}

// Shown returns the columns that the sheet has when rows are unfolded.
func (s *Sheet) Shown() []string { return s.shown }

// link remembers the columns whose values a link needs.
func (s *Sheet) link(o *report.Opens) {
	ids := o.Fields()
	for _, f := range o.With {
		ids = append(ids, f.From)
	}
	for _, id := range ids {
		if s.set.Column(id) != nil && !slices.Contains(s.Links, id) {
			s.Links = append(s.Links, id)
		}
	}
}

// sorted is the order of the rows that meet the filters, by the columns among the
// sort keys.
func (s *Sheet) sorted() table.Order {
	out := table.Order{Where: s.where()}
	for _, k := range s.Sort {
		if c := s.set.Column(k.Column); c != nil && !c.AtGroups {
			out.Keys = append(out.Keys, k)
		}
	}
	return out
}

// Bytes returns about how much memory the sheet takes, beside what the cache keeps
// for itself.
func (s *Sheet) Bytes() int {
	n := 10_000 + 500*len(s.Columns)
	if s.outline != nil {
		n += 40 * len(s.outline.blocks)
	}
	if s.Chart != nil {
		n += 100 * (len(s.Chart.Points) + len(s.Chart.Places)*(1+len(s.Chart.Series)))
	}
	return n
}

// HasTotals tells whether anything stands under the columns.
func (s *Sheet) HasTotals() bool {
	return slices.ContainsFunc(s.Totals, func(t Total) bool { return t.Op != frame.NoTotal })
}

// Flat tells whether the lines are rows and all columns have cells in them.
func (s *Sheet) Flat() bool {
	figures := slices.ContainsFunc(s.Columns, func(c Column) bool { return c.AtGroups })
	return s.outline == nil && s.cross == nil && s.Chart == nil && !figures
}

// ShowsRows tells whether all groups are unfolded down to their rows.
func (s *Sheet) ShowsRows() bool {
	if s.outline == nil {
		return s.cross == nil && s.Chart == nil
	}
	return s.outline.rows && s.outline.open > len(s.levels) && len(s.outline.toggled) == 0 && s.outline.rest == nil
}

// IsFigure tells whether groups have a figure of a column.
func (s *Sheet) IsFigure(id string) bool {
	return s.hasFigure(id)
}

// AcrossLevels returns what the columns of a crosstab are grouped by.
func (s *Sheet) AcrossLevels() (out []Level) {
	for _, l := range s.across {
		out = append(out, Level{l.text, l.label, l.field})
	}
	return out
}

// LabelOf names a column, or something computed of each row, in words.
func (s *Sheet) LabelOf(text string) string {
	f, err := report.Level(text, s.scope)
	if err != nil {
		return text
	}
	return s.labelOf(text, f)
}

func offer(typed string, known []string) string {
	if near := nearest.Names(typed, known, 2); len(near) > 0 {
		return "did you mean " + nearest.Or(near) + "?"
	}
	return "there are " + nearest.And(known)
}
