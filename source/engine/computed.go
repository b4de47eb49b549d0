package engine

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// computed writes a column that is computed of each row: by its formula, or where the engine
// cannot compute that exactly and what it is computed of takes few values, by what it comes to
// for each of them, which is computed here.
func (a *asking) computed(ctx context.Context, col int) (string, error) {
	tried := a.clone() // what was bound for a part of a formula must not stay bound for nothing
	w := writing{asking: tried, ctx: ctx, formula: a.table.formula(col), until: col}
	written, err := w.whole(a.table.schema[col])
	if err == nil {
		*a = *tried
		return written, nil
	}
	if ctx.Err() != nil {
		return "", context.Cause(ctx)
	}
	needs := a.table.needs(col)
	if len(needs) == 0 {
		return a.constant(col)
	}
	made, failed := a.table.combined(ctx, col, needs)
	if failed != nil {
		return "", fmt.Errorf("column %s: the engine cannot compute %w exactly, and %w", a.table.schema[col].Name, err,
			failed)
	}
	return a.looked(ctx, needs, made)
}

// constant writes a column that is the same for all rows: what it comes to for one.
func (a *asking) constant(col int) (string, error) {
	one := frame.Columns(nil, nil, 1).Spread(nil, a.table.schema[:col])
	cells, err := a.table.formula(col).Rows(one)
	if err != nil {
		return "", fmt.Errorf("column %s: %w", a.table.schema[col].Name, err)
	}
	return a.cell(&cells, 0), nil
}

// needs are the columns that a formula speaks of, by their places.
func (t *Table) needs(col int) (out []int) {
	for _, name := range t.formula(col).Names() {
		if at := t.schema[:col].Index(name); at >= 0 {
			out = append(out, at)
		}
	}
	return out
}

// combined is what a computed column comes to: by the values of what it is computed of, each
// combination of which is written as a key.
type combined struct {
	keys  []string // of combinations that have all values, or of more than one column
	cells frame.Vector
	none  int // the place of the combination without a value, of one column; -1 for none
}

// Bytes returns about how much memory it takes.
func (c *combined) Bytes() int { return c.cells.Bytes() + 40*len(c.keys) }

// combined computes a column for each combination of values that there is of others.
func (t *Table) combined(ctx context.Context, col int, needs []int) (*combined, error) {
	kept, err := t.cache.Get(t.computed[col-t.own()].Key+"/combined", func() (table.Sized, error) {
		until := *t
		until.schema, until.computed = t.schema[:col], t.computed[:col-t.own()]
		a := until.asking()
		list, words, err := a.columns(ctx, needs)
		if err != nil {
			return nil, err
		}
		g := until.gathering(needs)
		text := fmt.Sprintf("select distinct %s%s limit %d", strings.Join(list, ", "), a.from(), mostValues+1)
		err = t.conn.Query(ctx, text, a.args, words, func(row []Cell) error {
			g.add(row)
			return nil
		})
		if err != nil {
			return nil, err
		}
		if g.rows > mostValues {
			return nil, fmt.Errorf("what it is computed of has more than %d different values; filter cannot help, group by "+
				"what it is made of", mostValues)
		}
		return t.combine(col, needs, g)
	})
	if err != nil {
		return nil, err
	}
	return kept.(*combined), nil
}

// combine computes a column of combinations.
func (t *Table) combine(col int, needs []int, g *gathering) (*combined, error) {
	b := g.batch()
	cells, err := t.formula(col).Rows(b.Spread(needs, t.schema[:col]))
	if err != nil {
		return nil, err
	}
	out := &combined{cells: cells, none: -1}
	for row := range g.rows {
		if len(needs) == 1 {
			if b.Null(0, row) {
				out.none = row
			}
			out.keys = append(out.keys, plain(b, 0, row))
			continue
		}
		var key strings.Builder
		for i := range needs {
			if b.Null(i, row) {
				key.WriteByte('-')
				continue
			}
			text := plain(b, i, row)
			key.WriteString(strconv.Itoa(utf8.RuneCountInString(text)) + ":" + text)
		}
		out.keys = append(out.keys, key.String())
	}
	return out, nil
}

// plain is a cell as the engine writes it.
func plain(b *frame.Batch, col, row int) string {
	switch {
	case b.Null(col, row):
		return ""
	case b.Schema()[col].Kind == frame.Text:
		return b.Text(col, row)
	}
	return strconv.FormatInt(b.Int(col, row), 10)
}

// looked writes that a column is looked up by what it is computed of.
func (a *asking) looked(ctx context.Context, needs []int, made *combined) (string, error) {
	list, words, err := a.columns(ctx, needs)
	if err != nil {
		return "", err
	}
	m := a.name()
	values := arrayOfVector(&made.cells)
	kind := "bigint[]"
	if made.cells.Texts != nil {
		kind = "text[]"
	}
	if len(list) == 1 {
		keys, own := arrayOfTexts(made.keys, onlyAt(made.none, len(made.keys))), "text[]"
		if !words[0] {
			own = "bigint[]"
		}
		a.joins += fmt.Sprintf(" left join unnest(%s, %s) %s(k, v) on %s.k = %s", a.bind(keys, own), a.bind(values, kind), m,
			m,
			list[0])
		if made.none < 0 {
			return m + ".v", nil
		}
		return "case when " + list[0] + " is null then " + a.cell(&made.cells, made.none) + " else " + m + ".v end", nil
	}
	var key []string
	for _, cell := range list {
		key = append(key, "coalesce(length("+cell+"::text) || ':' || "+cell+"::text, '-')")
	}
	a.joins += fmt.Sprintf(" left join unnest(%s, %s) %s(k, v) on %s.k = %s", a.bind(arrayOfTexts(made.keys, nil),
		"text[]"),
		a.bind(values, kind), m, m, strings.Join(key, " || "))
	return m + ".v", nil
}

// cell writes one of a vector.
func (a *asking) cell(v *frame.Vector, at int) string {
	switch {
	case v.Null(at) && v.Texts != nil:
		return "null::text"
	case v.Null(at):
		return "null::bigint"
	case v.Texts != nil:
		return a.bind(v.Text(at), "text")
	}
	return a.int(v.Ints[at])
}

func onlyAt(place, n int) []bool {
	out := make([]bool, n)
	if place >= 0 {
		out[place] = true
	}
	return out
}

func arrayOfVector(v *frame.Vector) string {
	if v.Texts == nil {
		return arrayOfInts(v.Ints, v.Nulls)
	}
	n := len(v.Texts)
	if v.Codes != nil {
		n = len(v.Codes)
	}
	texts, nulls := make([]string, n), make([]bool, n)
	for i := range n {
		texts[i], nulls[i] = v.Text(i), v.Null(i)
	}
	return arrayOfTexts(texts, nulls)
}
