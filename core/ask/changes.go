// Package ask reads what a reader asks of a view, in words: other columns, groups and
// filters.
package ask

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/expr"
	"mantilla/core/fold"
	"mantilla/core/report"
)

// Fault says what is wrong with a reader's changes, and in which of them.
type Fault struct {
	Part string // columns, add, group, sort, filter, down, across, cells, show, names, zeros, open
	Err  error
}

func (f *Fault) Error() string { return f.Err.Error() }

// Faultf makes a fault of a part of the changes.
func Faultf(part, format string, args ...any) *Fault {
	return &Fault{part, fmt.Errorf(format, args...)}
}

func (f *Fault) Unwrap() error { return f.Err }

// Changes are what a reader changed about a view, as typed. What is nil or
// empty stays as the view has it.
type Changes struct {
	Columns []string `json:"columns,omitempty"`
	Add     []string `json:"add,omitempty"`     // further columns: Margin = value - cost
	Group   []string `json:"group,omitempty"`   // columns, or formulas such as month(received); none for no groups
	Sort    []string `json:"sort,omitempty"`    // a minus sign before a column for descending order
	Filters []string `json:"filters,omitempty"` // such as district=Hollin
	Down    []string `json:"down,omitempty"`    // of a crosstab
	Across  []string `json:"across,omitempty"`
	Cells   []string `json:"cells,omitempty"`  // measures of a crosstab or chart
	Totals  []string `json:"totals,omitempty"` // other totals of columns: net_kg:avg
	Show    string   `json:"show,omitempty"`   // another form: table, crosstab, chart
	Drawn   string   `json:"drawn,omitempty"`  // another form of chart
	Names   string   `json:"names,omitempty"`  // names, codes or both
	Zeros   string   `json:"zeros,omitempty"`  // show or omit
	Open    *int     `json:"open,omitempty"`   // how many levels are unfolded
	Fold    []string `json:"-"`                // paths of groups that are not as Open says
	Limit   *int     `json:"most,omitempty"`   // how many groups of the first level are shown; 0 for all
	Entries string   `json:"-"`                // as of which moment or day entries count; "" for now
}

// Given are the items of a list less none, the word by which a reader says that they mean none of those
// that a view has.
func Given(list []string) []string {
	return slices.DeleteFunc(slices.Clone(list), func(s string) bool { return s == "none" })
}

// Over lays changes over earlier ones: what they leave as it is stays as the
// earlier ones have it. Added columns come together.
func (c Changes) Over(base Changes) Changes {
	for _, part := range []struct{ own, earlier *[]string }{
		{&c.Columns, &base.Columns}, {&c.Group, &base.Group}, {&c.Sort, &base.Sort}, {&c.Filters, &base.Filters},
		{&c.Down, &base.Down}, {&c.Across, &base.Across}, {&c.Cells, &base.Cells},
		{&c.Totals, &base.Totals},
	} {
		if *part.own == nil {
			*part.own = *part.earlier
		}
	}
	for _, part := range []struct{ own, earlier *string }{{&c.Show, &base.Show}, {&c.Drawn, &base.Drawn},
		{&c.Names, &base.Names}, {&c.Zeros, &base.Zeros}} {
		if *part.own == "" {
			*part.own = *part.earlier
		}
	}
	if c.Open == nil {
		c.Open = base.Open
	}
	if c.Limit == nil {
		c.Limit = base.Limit
	}
	for _, added := range base.Add {
		if !slices.Contains(c.Add, added) {
			c.Add = append(slices.Clone(c.Add), added)
		}
	}
	return c
}

// Fit makes kept changes right for a dataset that may have changed since they
// were kept: columns that came since stand at the end, if the view shows them,
// and what speaks of columns that are gone is left out and told. Seen are the
// columns that there were.
func (c Changes) Fit(d *report.Dataset, v *report.View, seen []string) (fitted Changes, dropped []string) {
	own := map[string]bool{}
	known := func(text string) bool {
		return !slices.ContainsFunc(expr.Mentioned(text), func(id string) bool {
			return slices.Contains(seen, id) && d.Column(id) == nil
		})
	}
	keep := func(what string, list []string, fits func(string) bool) []string {
		if list == nil {
			return nil
		}
		out := []string{}
		for _, item := range list {
			if fits(item) {
				out = append(out, item)
			} else {
				dropped = append(dropped, fmt.Sprintf("%s %s", what, item))
			}
		}
		return out
	}
	c.Add = keep("the column", c.Add, func(text string) bool {
		label, source, _ := strings.Cut(text, "=")
		id := OwnID(strings.TrimSpace(label))
		own[id] = known(source)
		return own[id]
	})
	column := func(id string) bool { return own[id] || d.Column(id) != nil }
	c.Columns = keep("the column", c.Columns, column)
	c.Cells = keep("the measure", c.Cells, column)
	c.Totals = keep("the total", c.Totals, func(text string) bool {
		id, _, _ := strings.Cut(text, ":")
		return column(id)
	})
	c.Group = keep("the grouping by", c.Group, known)
	c.Down, c.Across = keep("the grouping by", c.Down, known), keep("the grouping by", c.Across, known)
	c.Sort = keep("the sorting by", c.Sort, func(text string) bool {
		id := strings.TrimPrefix(text, "-")
		return column(id) || (strings.Contains(id, "(") || Wrapped(id) != id) && known(id)
	})
	c.Filters = keep("the filter", c.Filters, func(text string) bool {
		return known(Filtered(text))
	})
	if c.Columns == nil {
		return c, dropped
	}
	shown := v.Columns
	if len(shown) == 0 {
		for _, col := range d.Columns {
			shown = append(shown, col.ID)
		}
	}
	for _, id := range shown {
		if !slices.Contains(seen, id) && !slices.Contains(c.Columns, id) {
			c.Columns = append(c.Columns, id)
		}
	}
	return c, dropped
}

// OwnID makes a column's id of its label.
func OwnID(label string) string {
	id := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '_'
	}, fold.Text(label))
	return "own_" + strings.Trim(id, "_")
}
