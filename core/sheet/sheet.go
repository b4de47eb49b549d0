// Package sheet lays kept rows out as a view: a table with its groups, a
// crosstab or a chart; filtered, sorted and totalled, with what a reader changed
// about it. The console, the command line and every file format draw from the
// same sheet, and every figure on it leads back to the rows that made it.
package sheet

import (
	"context"
	"slices"
	"time"

	"mantilla/core/ask"
	"mantilla/core/drawn"
	"mantilla/core/expr"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
)

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
	Levels  []ready.Level // what the lines are grouped by
	Sort    []frame.Key
	Filters []ask.Filter
	Lines   int // lines of the sheet: rows and groups
	Rows    int // rows that meet the filters
	Of      int // rows kept
	Totals  []Total
	Chart   *drawn.Chart // of a chart
	Links   []string

	of      *ready.View
	base    *report.View // without the changes
	changes ask.Changes
	order   table.Order // of rows, where these are the lines
	outline *outline
	cross   *cross
	needs   []int // places of columns that lines of rows are made of
	toned   []tone
}

// Total is what stands under a column; Op is NoTotal where nothing does.
type Total struct {
	Op    frame.Op
	Value frame.Value
}

// Lay lays out a view of the rows. It fails with a [*ask.Fault] when the changes
// do not fit the dataset, and otherwise when rows cannot be loaded or a formula
// gives a number that is too large.
func Lay(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes,
	setting ready.Setting) (*Sheet, error) {
	return lay(ctx, rows, d, v, c, setting)
}

// lay lays out a view; figures are formulas of all rows that will be computed.
func lay(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes,
	setting ready.Setting, figures ...string) (*Sheet, error) {
	asked := c
	if v.Show == report.Chart && v.Drawn == "histogram" && c.Drawn == "" && c.Show == "" {
		bands, err := bins(ctx, rows, d, v, c, setting)
		if err != nil {
			return nil, err
		}
		c.Group = []string{bands}
	}
	p, err := ready.Of(ctx, rows, d, v, c, setting, figures...)
	if err != nil {
		return nil, err
	}
	s := &Sheet{
		View:    p.As,
		Dataset: p.Set,
		Levels:  p.Levels,
		Sort:    p.As.Sort,
		Filters: p.Filters,
		Of:      rows.Rows(),
		of:      p,
		base:    v,
		changes: asked,
	}
	if s.Rows, err = p.Rows.Count(ctx, p.Where()); err != nil {
		return nil, err
	}
	switch p.As.Show {
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
	figures, err := s.of.Figures(ctx, s.of.Levels, s.of.Shown)
	if err != nil {
		return err
	}
	s.order = s.sorted()
	s.Lines = s.Rows
	switch {
	case len(s.of.Levels) > 0:
		if s.outline, err = s.arrange(ctx, figures); err != nil {
			return err
		}
		s.Lines = s.outline.lines
	case s.of.As.Show == report.Table: // lines of rows without a figure are left out; totals are still of all
		if s.order.Filled = s.hides(); s.order.Filled != nil {
			if s.Lines, err = s.of.Rows.Count(ctx, s.order.Where); err != nil {
				return err
			}
		}
	}
	for _, id := range s.of.Shown {
		c := s.of.Set.Column(id)
		if s.outline != nil && !s.outline.rows && !ready.IsMeasure(c) {
			continue // it would be empty until rows are unfolded
		}
		s.Columns = append(s.Columns, Column{Column: *c, Field: s.of.FieldOf(c)})
		if c.Opens != nil {
			s.link(c.Opens)
		}
	}
	s.needs = s.of.PlacesOf(append(slices.Clone(s.of.Shown), s.Links...))
	s.toned = s.tonesWithin(s.of.Scope)
	for _, c := range s.Columns {
		t := Total{Op: c.Total}
		if f, ok := figures.Of[c.ID]; ok {
			t.Value = f.Levels[0].Value(f.Field, 0)
			if c.AtGroups {
				t.Op = frame.Ratio
			}
		}
		s.Totals = append(s.Totals, t)
	}
	return nil
}

// Shown returns the columns that the sheet has when rows are unfolded.
func (s *Sheet) Shown() []string { return s.of.Shown }

// Speaks tells whether a column is shown, or rows are grouped or drawn by it.
func (s *Sheet) Speaks(column string) bool {
	v := s.View
	spoken := slices.Concat(s.of.Shown, v.Cells)
	for _, level := range slices.Concat(v.Levels, v.Down, v.Across) {
		spoken = append(spoken, expr.Mentioned(level)...)
	}
	return slices.Contains(spoken, column)
}

// link remembers the columns whose values a link needs.
func (s *Sheet) link(o *report.Opens) {
	ids := o.Fields()
	for _, f := range o.With {
		ids = append(ids, f.From)
	}
	for _, id := range ids {
		if s.of.Set.Column(id) != nil && !slices.Contains(s.Links, id) {
			s.Links = append(s.Links, id)
		}
	}
}

// sorted is the order of the rows that meet the filters, by the columns among the
// sort keys.
func (s *Sheet) sorted() table.Order {
	out := table.Order{Where: s.of.Where()}
	for _, k := range s.Sort {
		if c := s.of.Set.Column(k.Column); c != nil && !c.AtGroups {
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
	return s.outline.rows && s.outline.open > len(s.of.Levels) && len(s.outline.toggled) == 0 && s.outline.rest == nil
}

// IsFigure tells whether groups have a figure of a column.
func (s *Sheet) IsFigure(id string) bool {
	return s.of.HasFigure(id)
}

// AcrossLevels returns what the columns of a crosstab are grouped by.
func (s *Sheet) AcrossLevels() []ready.Level { return s.of.Across }

// LabelOf names a column, or something computed of each row, in words.
func (s *Sheet) LabelOf(text string) string {
	f, err := report.Level(text, s.of.Scope)
	if err != nil {
		return text
	}
	return s.of.LabelOf(text, f)
}

// KeyText writes the value that a group stands for.
func (s *Sheet) KeyText(v frame.Value) string { return s.of.Setting.Form.Key(v) }

func (s *Sheet) zone() *time.Location {
	if zone := s.of.Setting.Calendar.Zone; zone != nil {
		return zone
	}
	return time.UTC
}
