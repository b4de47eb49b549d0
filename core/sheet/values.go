package sheet

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
)

// Values are what a column holds under the filters on other columns.
type Values struct {
	Field     frame.Field
	Items     []Item // in their order, at most as many as were asked for
	Of        int    // how many different values match what was searched for
	Empty     int    // rows without a value
	Low, High frame.Value
	Bands     string // of numbers: a formula of bands of equal width between round limits, to group by; "" for none
}

// Item is a value with the number of rows that have it, and the filter that
// selects these.
type Item struct {
	Value  frame.Value
	Text   string
	Rows   int
	Filter string
}

// ValuesOf lists the values of a column or of something computed of each row,
// such as month(received), among the rows that meet the filters on others. A
// search keeps the values that hold it, whatever the case and accents.
func ValuesOf(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes,
	setting ready.Setting,
	column, search string, limit int) (*Values, error) {
	if column == "" || column == "none" {
		return nil, ask.Faultf("columns", "a column is wanted whose values are to be listed")
	}
	c.Filters = slices.DeleteFunc(slices.Clone(c.Filters), func(text string) bool { return ask.Filtered(text) == column })
	whole := d.Rows()
	c.Columns, c.Sort, c.Group, c.Show, c.Limit = nil, nil, []string{column}, "table", nil
	s, err := Lay(ctx, rows, d, whole, c, setting)
	if err != nil {
		return nil, err
	}
	l := &s.outline.Groups.Levels[1]
	out := &Values{Field: l.Field}
	search = fold.Text(search)
	for g := range l.Len() {
		value := l.Keys.Value(l.Field, g)
		if value.Null {
			out.Empty = l.Size(g)
			continue
		}
		if out.High = value; g == 0 {
			out.Low = value
		}
		text := s.KeyText(value)
		if !strings.Contains(fold.Text(text), search) {
			continue
		}
		if out.Of++; len(out.Items) < limit {
			out.Items = append(out.Items, Item{value, text, l.Size(g), ready.FilterOf(s.of.Levels[0], value)})
		}
	}
	out.Bands = bandsOf(column, out)
	return out, nil
}

// mostBands is how many bands a column is cut into.
const mostBands = 8

// bandsOf writes the bands that the numbers of a column fall into.
func bandsOf(column string, v *Values) string {
	if !v.Field.Kind.Numeric() || v.Low.Null || v.Low.Number.Compare(v.High.Number) >= 0 {
		return ""
	}
	as := func(n frame.Number) float64 { return float64(frame.Value{Number: n}.Int()) / math.Pow10(int(n.Scale)) }
	return fmt.Sprintf("band(%s%s)", column, limits(as(v.Low.Number), as(v.High.Number), mostBands))
}

// Filled tells how complete a column is.
type Filled struct {
	Column report.Column
	Empty  int
	Rows   int
}

// Completeness counts, for each column of the rows, those without a value. The
// filter column= selects them.
func Completeness(ctx context.Context, rows table.Table, d *report.Dataset, c ask.Changes,
	setting ready.Setting) ([]Filled,
	error) {
	c.Columns, c.Sort, c.Group, c.Show, c.Limit = nil, nil, []string{"none"}, "table", nil
	view := d.Rows()
	for _, col := range d.Columns {
		view.Columns = append(view.Columns, col.ID)
	}
	s, err := Lay(ctx, rows, d, view, c, setting)
	if err != nil {
		return nil, err
	}
	var columns []report.Column
	var counts []table.Measure
	for _, col := range s.of.Set.Columns {
		if at := s.of.Scope.Columns.Index(col.ID); at >= 0 {
			columns, counts = append(columns, col), append(counts, table.Measure{Column: at, Op: frame.Count})
		}
	}
	groups, err := s.of.Rows.Groups(ctx, s.of.Where(), nil, counts)
	if err != nil {
		return nil, err
	}
	var out []Filled
	for i, col := range columns {
		out = append(out, Filled{col, s.Rows - int(groups.Levels[0].Figures[i].Ints[0]), s.Rows})
	}
	return out, nil
}
