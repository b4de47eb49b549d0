package kept

import (
	"context"
	"slices"

	"mantilla/core/exact"
	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// ranked computes what needs all values of a group together.
func (g *grouping) ranked(ctx context.Context, m table.Measure) ([]frame.Vector, error) {
	field := g.kept.rows.Schema()[m.Column]
	shown := m.Op.Field(field)
	values, starts, err := g.cells(ctx, m.Column)
	if err != nil {
		return nil, err
	}
	out := make([]frame.Vector, len(g.levels))
	for level := len(g.levels) - 1; level >= 0; level-- {
		l := &g.levels[level]
		found, none := make([]frame.Number, l.Len()), make([]bool, l.Len())
		err := rescue.Spread(ctx, l.Len(), func(_, group int) (err error) {
			found[group], none[group], err = rankedOf(values[starts[group]:starts[group+1]], field, shown, m)
			return err
		})
		if err != nil {
			return nil, err
		}
		b := frame.NewFigures(l.Len())
		for group, n := range found {
			if none[group] {
				b.None(group)
			} else {
				b.Set(group, n.Digits)
			}
		}
		out[level] = b.Vector()
		if level > 0 { // the values of a group stand together at the level above too
			above := make([]int, g.levels[level-1].Len()+1)
			for group := range above {
				above[group] = starts[g.levels[level-1].Children[group]]
			}
			starts = above
		}
	}
	return out, nil
}

// cells gathers the values of a column leaf by leaf, and tells where each leaf's
// begin.
func (g *grouping) cells(ctx context.Context, col int) (values []int64, starts []int, err error) {
	all := make([]scratch, rescue.Workers)
	counts := make([]int, g.groups()+1)
	visit := func(take func(leaf uint32, x int64)) error {
		for _, r := range g.runs.each {
			v, err := g.kept.rows.Column(ctx, r.batch, col)
			if err != nil {
				return err
			}
			s := &all[0]
			s.places, s.leaves = g.runs.places(r, s.places), g.leaves.read(r, s.leaves)
			ints := v.Ints(&s.ints)
			for i, leaf := range s.leaves {
				if row := rowAt(s.places, i); !v.Null(row) {
					take(leaf, ints[row])
				}
			}
		}
		return nil
	}
	if err := visit(func(leaf uint32, _ int64) { counts[leaf+1]++ }); err != nil {
		return nil, nil, err
	}
	for i := range g.groups() {
		counts[i+1] += counts[i]
	}
	values = make([]int64, counts[len(counts)-1])
	next := slices.Clone(counts)
	err = visit(func(leaf uint32, x int64) {
		values[next[leaf]] = x
		next[leaf]++
	})
	return values, counts, err
}

// rankedOf computes one figure of the values, which it sorts.
func rankedOf(values []int64, field, shown frame.Field, m table.Measure) (n frame.Number, none bool, err error) {
	switch {
	case len(values) == 0, m.Op == frame.Stddev && len(values) < 2:
		return n, true, nil
	case m.Op == frame.Stddev:
		n, err = exact.Deviation(values, field.Scale, shown.Scale)
		return n, false, err
	}
	slices.Sort(values)
	percent := m.Percent
	if m.Op == frame.Median {
		percent = frame.Exact(50, 0)
	}
	return exact.Percentile(values, field.Scale, percent).To(shown.Scale), false, nil
}
