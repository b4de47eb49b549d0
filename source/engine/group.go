package engine

import (
	"cmp"
	"context"
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// mostGroups is how many groups there may be at all levels together.
const mostGroups = 250_000

// group is one as it came from the engine.
type group struct {
	keys    []Cell   // the outermost first
	folded  []string // of keys that are texts
	rows    int64
	figures []frame.Value
}

// grouping is what is asked of groups, and what came.
type grouping struct {
	table    *Table
	where    table.Where
	by       []int
	measures []table.Measure
	levels   [][]*group
	known    []map[string]*group // by level and [keyOf]
}

// Groups gathers rows by columns where they lie; all levels come from one query, and figures that
// are ranked or of single rows from one more each.
func (t *Table) Groups(ctx context.Context, where table.Where, by []int, measures []table.Measure) (*table.Groups,
	error) {
	g := &grouping{table: t, where: where, by: by, measures: measures, levels: make([][]*group, len(by)+1)}
	out := &table.Groups{Measures: measures, Fields: make([]frame.Field, len(measures))}
	for i, m := range measures {
		field := t.schema[m.Column]
		if err := m.Op.Fits(field); err != nil {
			return nil, fmt.Errorf("column %s: %w", field.Name, err)
		}
		out.Fields[i] = m.Op.Field(field)
	}
	if err := g.gather(ctx); err != nil {
		return nil, err
	}
	g.order()
	for i, m := range measures {
		if err := g.later(ctx, i, m); err != nil {
			return nil, err
		}
	}
	for depth := range g.levels {
		out.Levels = append(out.Levels, g.level(depth, out.Fields))
	}
	g.parents(out.Levels)
	return out, nil
}

// gather asks for the groups of all levels.
func (g *grouping) gather(ctx context.Context) error {
	a := g.table.asking()
	keys, words, err := a.columns(ctx, g.by)
	if err != nil {
		return err
	}
	var inner, outer, names []string
	for i, cell := range keys {
		names = append(names, fmt.Sprintf("k%d", i))
		inner = append(inner, fmt.Sprintf("%s as k%d", cell, i))
	}
	outer = append(outer, names...)
	words = append(words, false, false)
	if len(names) > 0 {
		outer = append(outer, "grouping("+strings.Join(names, ", ")+")::bigint")
	} else {
		outer = append(outer, "0::bigint")
	}
	outer = append(outer, "count(*)")
	readers := make([]reader, len(g.measures))
	at := len(words)
	for i, m := range g.measures {
		cells, list, own, read, err := a.figure(ctx, fmt.Sprintf("x%d", i), m)
		if err != nil {
			return err
		}
		inner, outer, words = append(inner, cells...), append(outer, list...), append(words, own...)
		readers[i] = reader{at: at, to: at + len(own), read: read}
		at += len(own)
	}
	test, err := a.where(ctx, g.where)
	if err != nil {
		return err
	}
	if len(inner) == 0 {
		inner = []string{"1"}
	}
	text := "select " + strings.Join(outer, ", ") + " from (select " + strings.Join(inner, ", ") + a.from() + test + ") q"
	if len(names) > 0 {
		text += fmt.Sprintf(" group by rollup(%s) limit %d", strings.Join(names, ", "), mostGroups+1)
	}
	n := 0
	return g.table.conn.Query(ctx, text, a.args, words, func(row []Cell) error {
		if n++; n > mostGroups {
			return fmt.Errorf("there are more than %d groups; filter the rows, or group by fewer columns", mostGroups)
		}
		depth := len(g.by) - bits.OnesCount64(uint64(row[len(g.by)].Int))
		one := &group{keys: slices.Clone(row[:depth]), rows: row[len(g.by)+1].Int,
			figures: make([]frame.Value, len(g.measures))}
		for i, m := range g.measures {
			if r := readers[i]; r.read != nil {
				var err error
				if one.figures[i], err = r.read(row[r.at:r.to], m); err != nil {
					return err
				}
			}
		}
		g.levels[depth] = append(g.levels[depth], one)
		return nil
	})
}

// reader reads a figure from some cells of a row.
type reader struct {
	at, to int
	read   func(cells []Cell, m table.Measure) (frame.Value, error)
}

// order brings the groups of each level into their order, and notes them by their keys.
func (g *grouping) order() {
	if len(g.levels[0]) == 0 { // no rows make one group too
		g.levels[0] = []*group{{figures: make([]frame.Value, len(g.measures))}}
	}
	for _, level := range g.levels {
		for _, one := range level {
			for i, key := range one.keys {
				text := ""
				if g.table.schema[g.by[i]].Kind == frame.Text {
					text = fold.Text(key.Text)
				}
				one.folded = append(one.folded, text)
			}
		}
		slices.SortFunc(level, g.compare)
		known := map[string]*group{}
		for _, one := range level {
			known[keyOf(one.keys)] = one
		}
		g.known = append(g.known, known)
	}
}

// compare orders groups by their keys; what has no value stands last.
func (g *grouping) compare(a, b *group) int {
	for i, x := range a.keys {
		y := b.keys[i]
		switch {
		case x.Null && y.Null:
			continue
		case x.Null:
			return 1
		case y.Null:
			return -1
		}
		by := cmp.Compare(x.Int, y.Int)
		if g.table.schema[g.by[i]].Kind == frame.Text {
			by = fold.Compare(a.folded[i], x.Text, b.folded[i], y.Text)
		}
		if by != 0 {
			return by
		}
	}
	return 0
}

// keyOf tells groups of a level apart.
func keyOf(keys []Cell) string {
	var b strings.Builder
	for _, k := range keys {
		fmt.Fprintf(&b, "%t %d %d:%s\n", k.Null, k.Int, len(k.Text), k.Text)
	}
	return b.String()
}

// level makes one of what came.
func (g *grouping) level(depth int, fields []frame.Field) table.Level {
	groups := g.levels[depth]
	l := table.Level{Rows: make([]int, 1, len(groups)+1), Keys: frame.Vector{Nulls: []bool{true}, Ints: []int64{0}}}
	for _, one := range groups {
		l.Rows = append(l.Rows, l.Rows[len(l.Rows)-1]+int(one.rows))
	}
	if depth > 0 {
		l.Field = g.table.schema[g.by[depth-1]]
		values := make([]frame.Value, len(groups))
		for i, one := range groups {
			values[i] = valueOf(l.Field, one.keys[depth-1])
		}
		l.Keys = frame.VectorOf(l.Field, values)
	}
	for i, field := range fields {
		values := make([]frame.Value, len(groups))
		for at, one := range groups {
			values[at] = one.figures[i]
		}
		l.Figures = append(l.Figures, frame.VectorOf(field, values))
	}
	return l
}

func valueOf(field frame.Field, c Cell) frame.Value {
	v := frame.Value{Kind: field.Kind, Null: c.Null, Text: c.Text}
	if field.Kind != frame.Text {
		v.Number = frame.Exact(c.Int, field.Scale)
	}
	return v
}

// parents tells of each group which one it is in, and of each which are in it.
func (g *grouping) parents(levels []table.Level) {
	for depth := 1; depth < len(levels); depth++ {
		above := g.levels[depth-1]
		children := make([]int, len(above)+1)
		parent := 0
		for at, one := range g.levels[depth] {
			for keyOf(above[parent].keys) != keyOf(one.keys[:depth-1]) {
				parent++
				children[parent] = at
			}
			levels[depth].Parent = append(levels[depth].Parent, uint32(parent))
		}
		for parent++; parent < len(children); parent++ {
			children[parent] = len(g.levels[depth])
		}
		levels[depth-1].Children = children
	}
}
