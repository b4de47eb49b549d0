package kept

import (
	"context"
	"fmt"
	"math"
	"math/bits"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// measured computes figures of every group. Sums are exact in 128 bits. It fails
// when a column has no such measure or cannot be loaded.
func (g *grouping) measured(ctx context.Context, measures []table.Measure) (*table.Groups, error) {
	out := &table.Groups{Levels: g.levels, Measures: measures, Fields: make([]frame.Field, len(measures))}
	figures := make([][]frame.Vector, len(measures))
	for i, m := range measures {
		field := g.kept.rows.Schema()[m.Column]
		if err := m.Op.Fits(field); err != nil {
			return nil, fmt.Errorf("column %s: %w", field.Name, err)
		}
		out.Fields[i] = m.Op.Field(field)
	}
	g.known(measures, figures)
	if err := g.additive(ctx, measures, figures); err != nil {
		return nil, err
	}
	for i, m := range measures {
		if figures[i] != nil {
			continue
		}
		var err error
		switch m.Op {
		case frame.Min, frame.Max:
			figures[i], err = g.extremes(ctx, m)
		case frame.First, frame.Last:
			figures[i], err = g.ends(ctx, m)
		case frame.Distinct:
			figures[i], err = g.distinct(ctx, m)
		case frame.Median, frame.Percentile, frame.Stddev:
			figures[i], err = g.ranked(ctx, m)
		default:
			err = fmt.Errorf("column %s: %s is not a measure", g.kept.rows.Schema()[m.Column].Name, m.Op)
		}
		if err != nil {
			return nil, err
		}
	}
	for level := range out.Levels {
		for i := range measures {
			out.Levels[level].Figures = append(out.Levels[level].Figures, figures[i][level])
		}
	}
	return out, nil
}

// known takes figures of all rows from what is known of the batches without their
// cells.
func (g *grouping) known(measures []table.Measure, figures [][]frame.Vector) {
	if len(g.levels) > 1 || g.runs.within != nil {
		return
	}
	for i, m := range measures {
		if t, ok := g.knownTotal(m); ok {
			of := g.kept.rows.Schema()[m.Column]
			figures[i] = []frame.Vector{t.vector(of, m.Op.Field(of))}
		}
	}
}

func (g *grouping) knownTotal(m table.Measure) (totals, bool) {
	if m.Op != frame.Count && m.Op != frame.Sum && m.Op != frame.Avg {
		return totals{}, false
	}
	t := newTotals(m.Op, 1)
	for batch := range g.kept.rows.Batches() {
		stats, ok := g.kept.rows.Stats(batch, m.Column)
		if !ok {
			return totals{}, false
		}
		from, to := g.kept.rows.Span(batch)
		own := totals{count: []int64{int64(to - from - stats.Nulls)}, low: []uint64{stats.Low}, high: []int64{stats.High}}
		t.merge(own, nil)
	}
	return t, true
}

// totals are counts and sums by leaf. A sum is kept as two 64-bit halves, and what
// was added since in one word, for as long as that cannot leave it.
type totals struct {
	op    frame.Op
	count []int64
	low   []uint64
	high  []int64
	near  []int64
	reach uint64 // no cell of near is farther from 0
}

func newTotals(op frame.Op, leaves int) totals {
	t := totals{op: op, count: make([]int64, leaves)}
	if op == frame.Sum || op == frame.Avg {
		t.low, t.high, t.near = make([]uint64, leaves), make([]int64, leaves), make([]int64, leaves)
	}
	return t
}

// additive computes what adds up, of all columns in one pass: each level's figures
// are those of the level below.
func (g *grouping) additive(ctx context.Context, measures []table.Measure, figures [][]frame.Vector) error {
	var which []int
	for i, m := range measures {
		additive := m.Op == frame.Count || m.Op == frame.Sum || m.Op == frame.Avg || m.Op == frame.NonZero
		if additive && figures[i] == nil {
			which = append(which, i)
		}
	}
	if len(which) == 0 {
		return nil
	}
	leaves := g.groups()
	parts := make([][]totals, rescue.Workers)
	for w := range parts {
		parts[w] = make([]totals, len(which))
	}
	all := make([]scratch, rescue.Workers)
	err := rescue.Spread(ctx, len(g.runs.each), func(w, i int) error {
		r, s := g.runs.each[i], &all[w]
		s.leaves, s.places = g.leaves.read(r, s.leaves), g.runs.places(r, s.places)
		for at, m := range which {
			v, err := g.kept.rows.Column(ctx, r.batch, measures[m].Column)
			if err != nil {
				return err
			}
			t := &parts[w][at]
			if t.count == nil {
				*t = newTotals(measures[m].Op, leaves)
			}
			t.add(v, s.places, s.leaves, s)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for at, m := range which {
		t := newTotals(measures[m].Op, leaves)
		for w := range parts {
			parts[w][at].settle()
			t.merge(parts[w][at], nil)
		}
		of := g.kept.rows.Schema()[measures[m].Column]
		for _, level := range g.upwards(t) {
			figures[m] = append(figures[m], level.vector(of, measures[m].Op.Field(of)))
		}
	}
	return nil
}

// add adds the cells of a column to the totals of their leaves; at are the rows
// that are meant, nil for all.
func (t *totals) add(v *frame.Column, at, leaves []uint32, s *scratch) {
	if v.Texts != nil { // texts are counted only
		t.addCounts(v.Nulls, at, leaves)
		return
	}
	if t.op == frame.NonZero {
		ints := v.Ints(&s.ints)
		for i, leaf := range leaves {
			if ints[rowAt(at, i)] != 0 {
				t.count[leaf]++
			}
		}
		return
	}
	t.addCounts(v.Nulls, at, leaves)
	if t.op == frame.Count {
		return
	}
	ints := v.Ints(&s.ints)
	high, most := bits.Mul64(v.Bound(), uint64(len(leaves)))
	if high > 0 || most > math.MaxInt64 {
		t.addWide(ints, at, leaves)
		return
	}
	if t.reach+most > math.MaxInt64 {
		t.settle()
	}
	t.reach += most
	t.addNear(ints, at, leaves)
}

func (t *totals) addCounts(nulls []bool, at, leaves []uint32) {
	switch {
	case nulls == nil:
		for _, leaf := range leaves {
			t.count[leaf]++
		}
	case at == nil:
		for r, leaf := range leaves {
			if !nulls[r] {
				t.count[leaf]++
			}
		}
	default:
		for i, leaf := range leaves {
			if !nulls[at[i]] {
				t.count[leaf]++
			}
		}
	}
}

// addNear adds cells where no sum can leave 64 bits. Cells without a value are 0
// and need not be told apart.
func (t *totals) addNear(ints []int64, at, leaves []uint32) {
	near := t.near
	if at == nil {
		ints = ints[:len(leaves)]
		for r, leaf := range leaves {
			near[leaf] += ints[r]
		}
		return
	}
	for i, leaf := range leaves {
		near[leaf] += ints[at[i]]
	}
}

func (t *totals) addWide(ints []int64, at, leaves []uint32) {
	for i, leaf := range leaves {
		t.plus(int(leaf), ints[rowAt(at, i)])
	}
}

// plus adds one cell to both halves of a sum.
func (t *totals) plus(leaf int, x int64) {
	var carry uint64
	t.low[leaf], carry = bits.Add64(t.low[leaf], uint64(x), 0)
	t.high[leaf] += x>>63 + int64(carry)
}

// settle adds what is near to the sums.
func (t *totals) settle() {
	for leaf, x := range t.near {
		t.plus(leaf, x)
	}
	clear(t.near)
	t.reach = 0
}

// merge adds other to t, each of its groups to its parent, if there are any. Both
// are settled.
func (t *totals) merge(other totals, parents []uint32) {
	for i, n := range other.count {
		to := i
		if parents != nil {
			to = int(parents[i])
		}
		t.count[to] += n
		if t.low != nil {
			var carry uint64
			t.low[to], carry = bits.Add64(t.low[to], other.low[i], 0)
			t.high[to] += other.high[i] + int64(carry)
		}
	}
}

// upwards adds the leaves up, level by level.
func (g *grouping) upwards(leaves totals) []totals {
	levels := make([]totals, len(g.levels))
	levels[len(levels)-1] = leaves
	for i := len(levels) - 2; i >= 0; i-- {
		levels[i] = newTotals(leaves.op, g.levels[i].Len())
		levels[i].merge(levels[i+1], g.levels[i+1].Parent)
	}
	return levels
}

func (t *totals) vector(field, shown frame.Field) frame.Vector {
	if t.low == nil {
		return frame.Vector{Ints: t.count}
	}
	b := frame.NewFigures(len(t.count))
	for i, n := range t.count {
		if n == 0 {
			b.None(i)
			continue
		}
		sum := frame.Number{Digits: decimal128.New(t.high[i], t.low[i]), Scale: field.Scale}
		if t.op == frame.Avg {
			sum = sum.Divide(n, shown.Scale)
		}
		b.Set(i, sum.Digits)
	}
	return b.Vector()
}
