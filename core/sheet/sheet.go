// Package sheet lays kept rows out as a view: which columns, in which order,
// filtered, sorted and totalled. The console, the command line and every file
// format draw from the same sheet.
package sheet

import (
	"fmt"
	"slices"

	"mantilla/core/compare"
	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/report"
)

// Changes are what a reader changed about a view. Nil columns and sort keep
// those of the view.
type Changes struct {
	Columns []string
	Sort    []frame.Key
	Filters []Filter
}

// Sheet is a view laid out.
type Sheet struct {
	View    *report.View
	Columns []report.Column
	Sort    []frame.Key
	Filters []Filter
	Rows    int // rows shown
	Of      int // rows kept
	Totals  []Total

	Links []string // columns whose values the links of the shown columns need

	frame  *frame.Frame
	places []int
	linked []int
	order  frame.Selection
}

// Total is what stands under a column; Op is NoTotal where nothing does.
type Total struct {
	Op    frame.Op
	Value frame.Value
}

// Order is the part of a layout that is dear to compute: which rows, in which
// order. It may be kept and given back to [Lay].
type Order struct {
	Rows   frame.Selection
	Totals map[string]frame.Value
}

// Bytes returns about how much memory the order takes.
func (o *Order) Bytes() int { return 4*len(o.Rows) + 100*len(o.Totals) }

// Orders keeps orders by what asked for them.
type Orders interface {
	Get(key string, make func() (*Order, error)) (*Order, error)
}

// Fresh computes every order anew.
type Fresh struct{}

// Get calls make.
func (Fresh) Get(_ string, make func() (*Order, error)) (*Order, error) { return make() }

// Lay lays out a view of the rows. It fails when the changes name a column
// that the dataset does not have, or when rows cannot be loaded.
func Lay(rows *frame.Frame, d *report.Dataset, v *report.View, c Changes, orders Orders) (*Sheet, error) {
	s := &Sheet{View: v, Filters: c.Filters, Sort: c.Sort, Of: rows.Rows(), frame: rows}
	if s.Sort == nil {
		s.Sort = v.Sort
	}
	if err := s.choose(d, c.Columns); err != nil {
		return nil, err
	}
	conditions := make([]frame.Condition, 0, len(c.Filters))
	for _, f := range c.Filters {
		conditions = append(conditions, f.Conditions...)
	}
	selected, err := orders.Get(fmt.Sprintf("%s/%v/totals", d.ID, c.Filters), func() (*Order, error) {
		return s.selectRows(d, conditions)
	})
	if err != nil {
		return nil, err
	}
	for _, col := range s.Columns {
		s.Totals = append(s.Totals, Total{col.Total, selected.Totals[col.ID]})
	}
	s.order, s.Rows = selected.Rows, len(selected.Rows)
	if selected.Rows == nil {
		s.Rows = rows.Rows()
	}
	if len(s.Sort) == 0 {
		return s, nil
	}
	sorted, err := orders.Get(fmt.Sprintf("%s/%v/%v", d.ID, c.Filters, s.Sort), func() (*Order, error) {
		order, err := rows.Sort(selected.Rows, s.Sort)
		return &Order{Rows: order}, err
	})
	if err != nil {
		return nil, err
	}
	s.order = sorted.Rows
	return s, nil
}

// choose settles the columns shown.
func (s *Sheet) choose(d *report.Dataset, wanted []string) error {
	if wanted == nil {
		wanted = s.View.Columns
	}
	var ids []string
	for _, c := range d.Columns {
		ids = append(ids, c.ID)
	}
	if len(wanted) == 0 {
		wanted = ids
	}
	for _, id := range wanted {
		at := slices.Index(ids, id)
		if at < 0 {
			return fmt.Errorf("there is no column %q; %s", id, offer(id, ids))
		}
		s.places = append(s.places, at)
		s.Columns = append(s.Columns, d.Columns[at])
	}
	for _, c := range s.Columns {
		if c.Opens != nil {
			s.link(c.Opens, ids)
		}
	}
	for _, k := range s.Sort {
		if !slices.Contains(ids, k.Column) {
			return fmt.Errorf("there is no column %q to sort by; %s", k.Column, offer(k.Column, ids))
		}
	}
	return nil
}

func (s *Sheet) link(o *report.Opens, ids []string) {
	for _, f := range o.With {
		if at := slices.Index(ids, f.From); at >= 0 && !slices.Contains(s.Links, f.From) {
			s.Links = append(s.Links, f.From)
			s.linked = append(s.linked, at)
		}
	}
}

func offer(typed string, known []string) string {
	if near := nearest.Names(typed, known, 2); len(near) > 0 {
		return "did you mean " + nearest.Or(near) + "?"
	}
	return "there are " + nearest.And(known)
}

// selectRows filters, and totals what is left.
func (s *Sheet) selectRows(d *report.Dataset, conditions []frame.Condition) (*Order, error) {
	rows, err := s.frame.Filter(conditions)
	if err != nil {
		return nil, err
	}
	o := &Order{Rows: rows, Totals: map[string]frame.Value{}}
	for _, c := range d.Columns {
		if c.Total == frame.NoTotal || c.Total == frame.Ratio {
			continue
		}
		if o.Totals[c.ID], err = s.frame.Total(rows, c.ID, c.Total); err != nil {
			return nil, err
		}
	}
	for _, c := range d.Columns {
		if c.Percent != nil {
			o.Totals[c.ID] = compare.Percent(o.Totals[c.Percent.Of], o.Totals[c.Percent.By])
		}
	}
	return o, nil
}

// Page returns rows first up to first+count as they stand in the sheet, in the
// sheet's columns followed by those of Links. It is shorter at the end and
// empty beyond it.
func (s *Sheet) Page(first, count int) (*frame.Batch, error) {
	first = min(max(first, 0), s.Rows)
	count = min(max(count, 0), s.Rows-first)
	return s.frame.Take(s.numbers(first, count), slices.Concat(s.places, s.linked))
}

// numbers returns the kept row numbers of rows first up to first+count.
func (s *Sheet) numbers(first, count int) []uint32 {
	if s.order != nil {
		return s.order[first : first+count]
	}
	numbers := make([]uint32, count)
	for i := range numbers {
		numbers[i] = uint32(first + i)
	}
	return numbers
}

// Each hands on all rows in batches, in the sheet's order and columns.
func (s *Sheet) Each(visit func(*frame.Batch) error) error {
	if s.order == nil {
		for i := range s.frame.Batches() {
			b, err := s.frame.Batch(i)
			if err == nil {
				err = visit(b.Columns(s.places))
			}
			if err != nil {
				return err
			}
		}
		return nil
	}
	for first := 0; first < s.Rows; first += frame.BatchRows {
		b, err := s.frame.Take(s.numbers(first, min(frame.BatchRows, s.Rows-first)), s.places)
		if err == nil {
			err = visit(b)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// HasTotals tells whether anything stands under the columns.
func (s *Sheet) HasTotals() bool {
	return slices.ContainsFunc(s.Totals, func(t Total) bool { return t.Op != frame.NoTotal })
}
