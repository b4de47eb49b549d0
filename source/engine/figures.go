package engine

import (
	"cmp"
	"context"
	"fmt"
	"math/big"
	"strings"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/exact"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// figure is how a figure is asked for within a query of groups.
type figure struct {
	cell  string   // of the rows, with the name by which it is asked for
	asks  []string // parts of the figure
	words []bool   // which of them are texts
	// merge adds the parts of one group to those of another; nil where they do not add up.
	merge func(to, from []Cell) error
	// read makes the figure of its parts; nil where it is asked for later.
	read func(parts []Cell) (frame.Value, error)
}

// figure writes a figure of the cells that a name is given to.
func (a *asking) figure(ctx context.Context, x string, m table.Measure) (f figure, err error) {
	field := a.table.schema[m.Column]
	cell, err := a.column(ctx, m.Column)
	if err != nil {
		return f, err
	}
	f.cell = cell + " as " + x
	shown := m.Op.Field(field)
	count := func(parts []Cell) (frame.Value, error) { return valueOf(shown, parts[0]), nil }
	switch m.Op {
	case frame.Count:
		f.asks, f.words, f.merge, f.read = []string{"count(" + x + ")"}, []bool{false}, added, count
	case frame.Distinct:
		f.asks, f.words, f.read = []string{"count(distinct " + x + ")"}, []bool{false}, count
	case frame.NonZero:
		f.asks, f.words = []string{"count(*) filter (where " + x + " <> 0)"}, []bool{false}
		f.merge, f.read = added, count
	case frame.Sum, frame.Avg:
		f.asks, f.words, f.merge = []string{"count(" + x + ")", "sum(" + x + ")::text"}, []bool{false, true}, added
		f.read = func(parts []Cell) (frame.Value, error) { return sumOf(parts, m, field, shown) }
	case frame.Stddev:
		f.asks = []string{"count(" + x + ")", "sum(" + x + ")::text", "sum(" + x + "::numeric * " + x + ")::text"}
		f.words, f.merge = []bool{false, true, true}, added
		f.read = func(parts []Cell) (frame.Value, error) { return deviationOf(parts, field, shown) }
	case frame.Min, frame.Max:
		return a.extreme(ctx, x, m, f)
	case frame.First, frame.Last, frame.Median, frame.Percentile:
	default:
		err = fmt.Errorf("column %s: %s is not a measure", field.Name, m.Op)
	}
	return f, err
}

// added adds counts, and sums as they are written.
func added(to, from []Cell) error {
	for i, part := range from {
		switch {
		case part.Null:
		case to[i].Null:
			to[i] = part
		case part.Text == "":
			to[i].Int += part.Int
		default:
			x, ok1 := new(big.Int).SetString(to[i].Text, 10)
			y, ok2 := new(big.Int).SetString(part.Text, 10)
			if !ok1 || !ok2 {
				return fmt.Errorf("the engine answers with %q and %q for sums", to[i].Text, part.Text)
			}
			to[i].Text = x.Add(x, y).String()
		}
	}
	return nil
}

// extreme writes the least or greatest value: of texts by what they are ordered by.
func (a *asking) extreme(ctx context.Context, x string, m table.Measure, f figure) (figure, error) {
	field := a.table.schema[m.Column]
	f.asks, f.words = []string{m.Op.String() + "(" + x + ")"}, []bool{false}
	f.merge = func(to, from []Cell) error {
		by := cmp.Or(cmp.Compare(from[0].Int, to[0].Int), strings.Compare(from[0].Text, to[0].Text))
		if !from[0].Null && (to[0].Null || by < 0 && m.Op == frame.Min || by > 0 && m.Op == frame.Max) {
			to[0] = from[0]
		}
		return nil
	}
	f.read = func(parts []Cell) (frame.Value, error) { return valueOf(field, parts[0]), nil }
	if field.Kind != frame.Text {
		return f, nil
	}
	by, err := a.order(ctx, m.Column)
	if err != nil {
		return f, err
	}
	if len(by) == 1 { // places among all texts, from 1
		known, err := a.table.ordered(ctx, m.Column)
		f.cell = by[0] + " as " + x
		f.read = func(parts []Cell) (frame.Value, error) {
			v := frame.Value{Kind: field.Kind, Null: parts[0].Null}
			if !v.Null {
				v.Text = known[parts[0].Int-1]
			}
			return v, nil
		}
		return f, err
	}
	f.cell = "(" + by[0] + " || chr(1) || " + by[1] + ") as " + x
	f.asks, f.words = []string{m.Op.String() + "(" + x + ` collate "C")`}, []bool{true}
	f.read = func(parts []Cell) (frame.Value, error) {
		v := frame.Value{Kind: field.Kind, Null: parts[0].Null}
		_, v.Text, _ = strings.Cut(parts[0].Text, "\x01")
		return v, nil
	}
	return f, nil
}

// sumOf is a sum of which there are a count and the digits, or an average of it.
func sumOf(c []Cell, m table.Measure, field, shown frame.Field) (frame.Value, error) {
	v := frame.Value{Kind: shown.Kind, Null: c[0].Int == 0}
	if v.Null {
		return v, nil
	}
	digits, err := decimal128.FromString(c[1].Text, 38, 0)
	if err != nil {
		return v, fmt.Errorf("column %s: the sum has more digits than can be kept", field.Name)
	}
	v.Number = frame.Number{Digits: digits, Scale: field.Scale}
	if m.Op == frame.Avg {
		v.Number = v.Number.Divide(c[0].Int, shown.Scale)
	}
	return v, nil
}

func deviationOf(c []Cell, field, shown frame.Field) (v frame.Value, err error) {
	v = frame.Value{Kind: shown.Kind, Null: c[0].Int < 2}
	if v.Null {
		return v, nil
	}
	sum, ok1 := new(big.Int).SetString(c[1].Text, 10)
	squares, ok2 := new(big.Int).SetString(c[2].Text, 10)
	if !ok1 || !ok2 {
		return v, fmt.Errorf("column %s: the engine answers with %q and %q for sums", field.Name, c[1].Text, c[2].Text)
	}
	v.Number, err = exact.DeviationOf(c[0].Int, sum, squares, field.Scale, shown.Scale)
	return v, err
}

// later asks for a figure that does not come with the groups.
func (g *grouping) later(ctx context.Context, i int, m table.Measure) error {
	field := g.table.schema[m.Column]
	shown := m.Op.Field(field)
	switch m.Op {
	case frame.First, frame.Last:
		return g.ends(ctx, i, m)
	case frame.Median, frame.Percentile:
	default:
		return nil
	}
	percent := m.Percent
	if m.Op == frame.Median {
		percent = frame.Exact(50, 0)
	}
	for _, level := range g.levels {
		for _, one := range level {
			one.figures[i] = frame.Value{Kind: shown.Kind, Null: true}
		}
	}
	for depth := range g.levels {
		if err := g.ranked(ctx, i, m.Column, depth, percent, shown); err != nil {
			return err
		}
	}
	return nil
}

// ranked asks for the two values next to a rank in each group of a level.
func (g *grouping) ranked(ctx context.Context, i, col, depth int, percent frame.Number, shown frame.Field) error {
	a := g.table.asking()
	keys, words, err := a.columns(ctx, g.by[:depth])
	if err != nil {
		return err
	}
	cell, err := a.column(ctx, col)
	if err != nil {
		return err
	}
	test, err := a.where(ctx, g.where)
	if err != nil {
		return err
	}
	var inner, names []string
	for i, key := range keys {
		names = append(names, fmt.Sprintf("k%d", i))
		inner = append(inner, fmt.Sprintf("%s as k%d", key, i))
	}
	over := ""
	if depth > 0 {
		over = "partition by " + strings.Join(names, ", ")
	}
	below := "100" + strings.Repeat("0", int(percent.Scale))
	at := fmt.Sprintf("div(%s::numeric * (count - 1), %s)", percent.Digits.ToString(0), below)
	list := strings.Join(append(append([]string{}, names...), "x", "place", "count"), ", ")
	text := "select " + list + " from (select " + strings.Join(append(append([]string{}, names...), "x"), ", ") +
		", row_number() over (" + over + " order by x) - 1 as place, count(*) over (" + over + ") as count from (select " +
		strings.Join(append(inner, cell+" as x"), ", ") + a.from() + test + ") q where x is not null) w where place in (" +
		at + ", " + at + " + 1) order by place desc"
	field, next := g.table.schema[col], map[*group]int64{}
	return g.table.conn.Query(ctx, text, a.args, append(words, false, false, false), func(row []Cell) error {
		one := g.known[depth][keyOf(row[:depth])]
		x, place, count := row[depth].Int, row[depth+1].Int, row[depth+2].Int
		rank, part := exact.Rank(int(count), percent)
		if one == nil {
			return fmt.Errorf("the engine told a figure of a group that it did not tell before")
		}
		if int(place) != rank {
			next[one] = x
			return nil
		}
		high, ok := next[one]
		if !ok {
			high = x
		}
		n := exact.Interpolated(x, high, field.Scale, part).To(shown.Scale)
		one.figures[i] = frame.Value{Kind: shown.Kind, Number: n}
		return nil
	})
}

// ends asks for the number of the first or last row of each group that has a value, and takes those
// rows.
func (g *grouping) ends(ctx context.Context, i int, m table.Measure) error {
	end := "min"
	if m.Op == frame.Last {
		end = "max"
	}
	field := g.table.schema[m.Column]
	for depth, level := range g.levels {
		a := g.table.asking()
		keys, words, err := a.columns(ctx, g.by[:depth])
		if err != nil {
			return err
		}
		cell, err := a.column(ctx, m.Column)
		if err != nil {
			return err
		}
		test, err := a.where(ctx, g.where)
		if err != nil {
			return err
		}
		text := "select " + strings.Join(append(append([]string{}, keys...), end+"(t.n) filter (where "+cell+" is not null)"),
			", ") + a.from() + test
		if depth > 0 {
			text += " group by " + strings.Join(keys, ", ")
		}
		for _, one := range level {
			one.figures[i] = frame.Value{Kind: field.Kind, Null: true}
		}
		var numbers []uint32
		var of []*group
		err = g.table.conn.Query(ctx, text, a.args, append(words, false), func(row []Cell) error {
			if one := g.known[depth][keyOf(row[:depth])]; one != nil && !row[depth].Null {
				numbers, of = append(numbers, uint32(row[depth].Int)), append(of, one)
			}
			return nil
		})
		if err != nil {
			return err
		}
		b, err := g.table.Take(ctx, numbers, []int{m.Column})
		if err != nil {
			return err
		}
		for at, one := range of {
			one.figures[i] = b.Value(0, at)
		}
	}
	return nil
}
