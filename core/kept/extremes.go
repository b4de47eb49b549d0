package kept

import (
	"context"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// best is the best figure of each group, and which groups have none.
type best struct {
	of   []int64
	none []bool
}

func newBest(n int) best { return best{make([]int64, n), slices.Repeat([]bool{true}, n)} }

// take keeps a figure that is less than the one of its group, or more.
func (b *best) take(group int, x int64, most bool) {
	if b.none[group] || (x > b.of[group]) == most && x != b.of[group] {
		b.of[group], b.none[group] = x, false
	}
}

// extremes computes the smallest or largest value of each group: texts by
// their place in the order.
func (g *grouping) extremes(ctx context.Context, m table.Measure) ([]frame.Vector, error) {
	most := m.Op == frame.Max
	if g.kept.rows.Schema()[m.Column].Kind != frame.Text {
		return g.best(ctx, m.Column, most, func(v *frame.Column, r run, s *scratch, take func(i int, x int64)) {
			ints := v.Ints(&s.ints)
			for i := range r.to - r.from {
				if row := rowAt(s.places, i); !v.Null(row) {
					take(i, ints[row])
				}
			}
		})
	}
	c, err := g.kept.coded(ctx, g.runs, m.Column)
	if err != nil {
		return nil, err
	}
	found, err := g.best(ctx, m.Column, most, func(v *frame.Column, r run, s *scratch, take func(i int, x int64)) {
		codes := slices.Grow(s.wide[:0], r.to-r.from)[:r.to-r.from]
		c.fill(v, r.batch, s.places, codes, s)
		for i, code := range codes {
			if !v.Null(rowAt(s.places, i)) {
				take(i, int64(code))
			}
		}
		s.wide = codes
	})
	for i, places := range found {
		found[i] = pickSome(&c.keys, places)
	}
	return found, err
}

// pickSome gathers the texts at the places that another vector holds.
func pickSome(v *frame.Vector, places frame.Vector) frame.Vector {
	out := frame.Vector{Texts: make([]string, len(places.Ints)), Nulls: places.Nulls}
	for i, at := range places.Ints {
		if !places.Null(i) {
			out.Texts[i] = v.Text(int(at))
		}
	}
	return out
}

// best finds, for each group, the best of the figures that of hands on for the rows
// of a run.
func (g *grouping) best(ctx context.Context, col int, most bool,
	of func(v *frame.Column, r run, s *scratch, take func(i int, x int64))) ([]frame.Vector, error) {
	parts, all := make([]best, rescue.Workers), make([]scratch, rescue.Workers)
	for w := range parts {
		parts[w] = newBest(g.groups())
	}
	err := rescue.Spread(ctx, len(g.runs.each), func(w, i int) error {
		r, s := g.runs.each[i], &all[w]
		v, err := g.kept.rows.Column(ctx, r.batch, col)
		if err != nil {
			return err
		}
		s.places, s.leaves = g.runs.places(r, s.places), g.leaves.read(r, s.leaves)
		of(v, r, s, func(i int, x int64) { parts[w].take(int(s.leaves[i]), x, most) })
		return nil
	})
	if err != nil {
		return nil, err
	}
	p := parts[0]
	for _, other := range parts[1:] {
		for i, x := range other.of {
			if !other.none[i] {
				p.take(i, x, most)
			}
		}
	}
	out := make([]frame.Vector, len(g.levels))
	for level := len(g.levels) - 1; ; level-- {
		out[level] = frame.Vector{Ints: p.of}
		if slices.Contains(p.none, true) {
			out[level].Nulls = p.none
		}
		if level == 0 {
			return out, nil
		}
		above := newBest(g.levels[level-1].Len())
		for i, parent := range g.levels[level].Parent {
			if !p.none[i] {
				above.take(int(parent), p.of[i], most)
			}
		}
		p = above
	}
}

// ends finds the first or last value of each group in the order of the rows.
func (g *grouping) ends(ctx context.Context, m table.Measure) ([]frame.Vector, error) {
	last := m.Op == frame.Last
	out, err := g.best(ctx, m.Column, last, func(v *frame.Column, r run, s *scratch, take func(i int, x int64)) {
		for i := range r.to - r.from {
			if !v.Null(rowAt(s.places, i)) {
				take(i, int64(g.runs.number(r.from+i)))
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for level, rows := range out {
		if out[level], err = g.valuesAt(ctx, m.Column, rows); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// valuesAt gathers the values of a column at row numbers, some of which are none.
func (g *grouping) valuesAt(ctx context.Context, col int, rows frame.Vector) (frame.Vector, error) {
	var numbers []uint32
	for i, row := range rows.Ints {
		if !rows.Null(i) {
			numbers = append(numbers, uint32(row))
		}
	}
	b, err := g.kept.Take(ctx, numbers, []int{col})
	if err != nil {
		return frame.Vector{}, err
	}
	field, at := g.kept.rows.Schema()[col], 0
	values := make([]frame.Value, len(rows.Ints))
	for i := range values {
		values[i] = frame.Value{Kind: field.Kind, Null: true}
		if !rows.Null(i) {
			values[i] = b.Value(0, at)
			at++
		}
	}
	return frame.VectorOf(field, values), nil
}
