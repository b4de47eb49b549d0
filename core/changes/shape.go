package changes

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// Datasets of a comparison: every row, and those that are not the same.
const (
	AllRows     = "rows"
	ChangedRows = "changes"
)

// Layout is which columns of two datasets are compared.
type Layout struct {
	Key   []string // columns that find a row on the other side
	IDs   []string // columns that are compared
	Left  []string // labels of columns that the other side lacks, or has of another kind
	after *report.Dataset
}

// Columns are the columns to read of both sides, the key first.
func (l Layout) Columns() []string { return slices.Concat(l.Key, l.IDs) }

// Compare lays out the comparison of two datasets that have the columns of the key. Columns
// are the same when they have the same id and hold values of the same kind, scale and
// currency; those that are computed of groups are left out, as they follow from the others.
func Compare(before, after *report.Dataset, key []string) (Layout, error) {
	l := Layout{Key: key, after: after}
	for _, id := range key {
		c, was := after.Column(id), before.Column(id)
		switch {
		case c == nil || was == nil || c.AtGroups || was.AtGroups:
			return l, fmt.Errorf("both sides need the column %q to find rows by; they have %s", id,
				strings.Join(common(before, after), ", "))
		case !alike(c, was):
			return l,
				fmt.Errorf("the column %q holds other values on the one side than on the other; rows cannot be found by it",
					id)
		}
	}
	for i := range after.Columns {
		c := &after.Columns[i]
		was := before.Column(c.ID)
		switch {
		case slices.Contains(key, c.ID) || c.AtGroups:
		case was == nil || !alike(c, was):
			l.Left = append(l.Left, c.Label)
		default:
			l.IDs = append(l.IDs, c.ID)
		}
	}
	for _, was := range before.Columns {
		if after.Column(was.ID) == nil && !was.AtGroups {
			l.Left = append(l.Left, was.Label)
		}
	}
	return l, nil
}

// alike tells whether two columns hold values of the same kind.
func alike(a, b *report.Column) bool {
	x, y := a.Field(), b.Field()
	return x.Kind == y.Kind && x.Scale == y.Scale && x.Currency == y.Currency && x.Grain == y.Grain
}

func common(a, b *report.Dataset) (ids []string) {
	for _, c := range b.Columns {
		if !c.AtGroups && a.Column(c.ID) != nil {
			ids = append(ids, c.ID)
		}
	}
	return ids
}

// part is what is written of a compared column.
type part struct {
	label  string
	both   bool // as it was and as it is; otherwise once, as it is or, of rows that are gone, was
	change bool // and by how much it changed
	sums   bool
}

// Shape is what is written of a comparison.
type Shape struct {
	Layout
	Rows  report.Dataset // its id is [AllRows]
	parts []part         // by the layout's IDs
	said  Counts
}

// Shape shapes the rows of a comparison by what became of them: what is summed, and columns that
// changed in any row, are written as they were and as they are; the others once.
func (l Layout) Shape(counts Counts) Shape {
	s := Shape{Layout: l, said: counts, Rows: report.Dataset{ID: AllRows, Columns: []report.Column{
		{ID: "became", Label: "Became", Kind: frame.Text, About: "What became of the row: changed, new, gone or same."},
		{ID: "differs", Label: "In", Kind: frame.Text, About: "The columns in which it changed."},
	}}}
	for _, id := range l.Key {
		c := l.after.Column(id)
		s.Rows.Columns = append(s.Rows.Columns, plain(c, id, c.Label))
	}
	for i, id := range l.IDs {
		s.add(l.after.Column(id), counts.Columns[i])
	}
	return s
}

// Counts are how many rows became what.
func (s *Shape) Counts() Counts { return s.said }

// add shapes a column.
func (s *Shape) add(c *report.Column, changed bool) {
	p := part{label: c.Label, sums: c.Total == frame.Sum}
	p.both = p.sums || changed
	total := frame.NoTotal // other totals are not made of the cells before and after alone
	if p.sums {
		total = frame.Sum
	}
	is := plain(c, c.ID, c.Label)
	is.Total = total
	if p.both {
		was := plain(c, c.ID+"_before", c.Label+", before")
		was.Total, is.Label = total, c.Label+", after"
		s.Rows.Columns = append(s.Rows.Columns, was)
	}
	s.Rows.Columns = append(s.Rows.Columns, is)
	days := c.Kind == frame.Date && c.Field().Grain == ""
	if p.change = p.both && (c.Kind.Numeric() || days); p.change {
		change := plain(c, c.ID+"_change", c.Label+", change")
		change.Total, change.About, change.Means = total, "", ""
		if days {
			change.Kind, change.Unit = frame.Integer, "days"
		}
		s.Rows.Columns = append(s.Rows.Columns, change)
	}
	s.parts = append(s.parts, p)
}

// plain is a column as it is kept: without what computes it, links it or marks it.
func plain(c *report.Column, id, label string) report.Column {
	out := c.Bare()
	out.ID, out.Label = id, label
	return out
}

// written are the columns that are written of a compared one.
func (s *Shape) written(i int) (ids []string) {
	id := s.IDs[i]
	if s.parts[i].both {
		ids = append(ids, id+"_before")
	}
	ids = append(ids, id)
	if s.parts[i].change {
		ids = append(ids, id+"_change")
	}
	return ids
}

// mostBeside is how many texts that did not change stand beside the key, to tell rows by: names of
// the key all of them.
const mostBeside = 3

// Definition is how a comparison is read: what changed first, then the sums of each side, then
// every row.
func (s *Shape) Definition(d report.Definition) *report.Definition {
	changes := s.Rows
	changes.ID = ChangedRows
	d.Datasets = []report.Dataset{changes, s.Rows}
	shown, changed, sums := append([]string{"became"}, s.Key...), []string{"differs"}, []string(nil)
	beside := 0
	for i, id := range s.IDs {
		p, c := s.parts[i], s.after.Column(id)
		names := c.Code != "" && slices.Contains(s.Key, c.Code)
		switch {
		case !p.both && (names || c.Kind == frame.Text && beside < mostBeside):
			shown, beside = append(shown, id), beside+1
		case s.said.Columns[i] || p.sums && s.said.New+s.said.Gone > 0:
			changed = append(changed, s.written(i)...)
		}
		if p.sums {
			sums = append(sums, s.written(i)...)
		}
	}
	if len(sums) == 0 {
		sums = s.Key[:1] // for the counts of rows beside it
	}
	says := s.said.Said()
	if len(s.Left) > 0 {
		says += " Not compared: " + strings.Join(s.Left, ", ") + "; one side lacks them or has another kind of value."
	}
	d.Views = []report.View{
		{ID: "changes", Title: "What changed", Says: says, Of: ChangedRows, Show: report.Table, Empty: "say",
			Columns: append(shown, changed...), Sort: []frame.Key{{Column: "became"}, {Column: s.Key[0]}}},
		{ID: "totals", Title: "Both sides", Of: AllRows, Show: report.Table, Levels: []string{"became"}, Open: 1,
			Empty:   "say",
			Columns: sums},
		{ID: "everything", Title: "Every row", Of: AllRows, Show: report.Table, Empty: "say"},
	}
	d.Page = []string{"changes", "totals"}
	return &d
}
