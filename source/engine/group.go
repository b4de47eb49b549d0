package engine

import (
	"cmp"
	"context"
	"errors"
	"fmt"
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
	parts   [][]Cell      // what each figure is made of, by measure
	figures []frame.Value // by measure
}

// grouping is what is asked of groups, and what came.
type grouping struct {
	table    *Table
	where    table.Where
	by       []int
	measures []table.Measure
	figures  []figure
	levels   [][]*group
	known    []map[string]*group // by level and [keyOf]
}

// Groups gathers rows by columns where they lie. The groups of the deepest level are asked for;
// those above are made of them, but for figures that do not add up.
func (t *Table) Groups(ctx context.Context, where table.Where, by []int, measures []table.Measure) (*table.Groups,
	error) {
	g := &grouping{table: t, where: where, by: by, measures: measures, levels: make([][]*group, len(by)+1),
		known: make([]map[string]*group, len(by)+1)}
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

// gather asks for the groups of the deepest level, makes those above of them, and asks for what of
// these does not add up.
func (g *grouping) gather(ctx context.Context) error {
	all := make([]int, len(g.measures))
	for i := range all {
		all[i] = i
	}
	if g.fromKnown() {
		return nil
	}
	deepest := len(g.by)
	err := g.ask(ctx, deepest, all, func(one *group) error {
		g.levels[deepest] = append(g.levels[deepest], one)
		return nil
	})
	if err != nil {
		return err
	}
	if deepest > 0 && len(g.levels[deepest]) == 0 { // no rows make one group too
		err := g.ask(ctx, 0, all, func(one *group) error {
			g.levels[0] = append(g.levels[0], one)
			return nil
		})
		for depth := range g.known {
			g.known[depth] = map[string]*group{}
		}
		return errors.Join(err, g.read())
	}
	if err := g.upwards(); err != nil {
		return err
	}
	apart := slices.DeleteFunc(all, func(i int) bool { return g.figures[i].read == nil || g.figures[i].merge != nil })
	for depth := deepest - 1; depth >= 0 && len(apart) > 0; depth-- {
		err := g.ask(ctx, depth, apart, func(one *group) error {
			to := g.known[depth][keyOf(one.keys)]
			if to == nil {
				return errors.New("the engine told of a group that it did not tell of before")
			}
			for _, i := range apart {
				to.parts[i] = one.parts[i]
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return g.read()
}

// fromKnown makes the one group of all rows of what is known of the columns, where that is enough.
func (g *grouping) fromKnown() bool {
	if len(g.by) > 0 || len(g.where.Conditions) > 0 || len(g.where.Filled) > 0 {
		return false
	}
	one := &group{rows: int64(g.table.Rows()), figures: make([]frame.Value, len(g.measures))}
	for i, m := range g.measures {
		known, ok := g.table.rows.knownOf(m)
		if !ok {
			return false
		}
		one.figures[i] = known
	}
	g.levels[0], g.known[0] = []*group{one}, map[string]*group{"": one}
	g.figures = make([]figure, len(g.measures))
	return true
}

// ask asks for the groups of a level with some of the figures.
func (g *grouping) ask(ctx context.Context, depth int, some []int, visit func(one *group) error) error {
	a := g.table.asking()
	keys, words, err := a.columns(ctx, g.by[:depth])
	if err != nil {
		return err
	}
	var inner, names []string
	for i, cell := range keys {
		names = append(names, fmt.Sprintf("k%d", i))
		inner = append(inner, fmt.Sprintf("%s as k%d", cell, i))
	}
	outer := append(slices.Clone(names), "count(*)")
	words = append(words, false)
	figures, starts := make([]figure, len(g.measures)), make([]int, len(g.measures))
	for _, i := range some {
		if figures[i], err = a.figure(ctx, fmt.Sprintf("x%d", i), g.measures[i]); err != nil {
			return err
		}
		starts[i] = len(words)
		inner, outer = append(inner, figures[i].cell), append(outer, figures[i].asks...)
		words = append(words, figures[i].words...)
	}
	if g.figures == nil {
		g.figures = figures
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
		text += fmt.Sprintf(" group by %s limit %d", strings.Join(names, ", "), mostGroups+1)
	}
	n := 0
	return g.table.conn.Query(ctx, text, a.args, words, func(row []Cell) error {
		if n++; n > mostGroups {
			return fmt.Errorf("there are more than %d groups; filter the rows, or group by fewer columns", mostGroups)
		}
		one := &group{keys: slices.Clone(row[:depth]), rows: row[depth].Int, parts: make([][]Cell, len(g.measures))}
		for _, i := range some {
			one.parts[i] = slices.Clone(row[starts[i] : starts[i]+len(figures[i].words)])
		}
		return visit(one)
	})
}

// upwards makes the groups of each level of those below.
func (g *grouping) upwards() error {
	for depth := len(g.by); ; depth-- {
		g.known[depth] = map[string]*group{}
		for _, one := range g.levels[depth] {
			g.known[depth][keyOf(one.keys)] = one
		}
		if depth == 0 {
			break
		}
		above := map[string]*group{}
		for _, one := range g.levels[depth] {
			key := keyOf(one.keys[:depth-1])
			to := above[key]
			if to == nil {
				to = &group{keys: one.keys[:depth-1], parts: make([][]Cell, len(g.measures))}
				above[key] = to
				g.levels[depth-1] = append(g.levels[depth-1], to)
			}
			to.rows += one.rows
			for i, f := range g.figures {
				if f.merge == nil {
					continue
				}
				if to.parts[i] == nil {
					to.parts[i] = slices.Clone(one.parts[i])
				} else if err := f.merge(to.parts[i], one.parts[i]); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// read makes the figures of their parts.
func (g *grouping) read() (err error) {
	for _, level := range g.levels {
		for _, one := range level {
			one.figures = make([]frame.Value, len(g.measures))
			for i, f := range g.figures {
				if f.read == nil {
					continue
				}
				if one.figures[i], err = f.read(one.parts[i]); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// order brings the groups of each level into their order.
func (g *grouping) order() {
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
