package frame

import (
	"fmt"
	"math"
	"math/bits"
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// Measure is a figure to be computed of one column in every group. Percent is
// the rank that [Percentile] asks for, from 0 to 100.
type Measure struct {
	Column  int
	Op      Op
	Percent Number
}

// Measure computes a figure of every group: a vector for each level with a
// cell for each group, and the field that tells what the cells are. Sums are
// exact in 128 bits. Averages, medians, percentiles and deviations are rounded
// half away from zero: money to its own places, other numbers to two places
// more than the column has. It fails when the column has no such measure or a
// batch cannot be loaded.
func (g *Groups) Measure(m Measure) (Field, []Vector, error) {
	field := g.frame.schema[m.Column]
	if err := m.Op.Fits(field); err != nil {
		return Field{}, nil, fmt.Errorf("column %s: %w", field.Name, err)
	}
	switch m.Op {
	case Count, Sum, Avg:
		return g.additive(field, m)
	case Min, Max:
		return g.extremes(field, m)
	case First, Last:
		return g.ends(field, m)
	case Distinct:
		return g.distinct(field, m)
	case Median, Percentile, Stddev:
		return g.ranked(field, m)
	}
	return Field{}, nil, fmt.Errorf("column %s: %s is not a measure", field.Name, m.Op)
}

// run is rows of one batch that follow one another in the selection.
type run struct{ batch, from, to int }

func (g *Groups) runs() (runs []run) {
	if g.within == nil {
		for i := range g.frame.Batches() {
			runs = append(runs, run{i, i * g.frame.size, min((i+1)*g.frame.size, g.frame.rows)})
		}
		return runs
	}
	for from := 0; from < len(g.within); {
		batch, to := int(g.within[from])/g.frame.size, from+1
		for to < len(g.within) && int(g.within[to])/g.frame.size == batch {
			to++
		}
		runs = append(runs, run{batch, from, to})
		from = to
	}
	return runs
}

// scan hands the cells of a column to add, run by run from several
// goroutines; at gives the place of each cell in the vector, nil for all.
func (g *Groups) scan(col int, add func(worker int, v *Vector, at, leaves []uint32)) error {
	runs := g.runs()
	places := make([][]uint32, workers)
	return spread(len(runs), func(worker, i int) error {
		r := runs[i]
		b, err := g.frame.load(r.batch)
		if err != nil {
			return err
		}
		if g.within == nil {
			add(worker, &b.columns[col], nil, g.leaves[r.from:r.to])
			return nil
		}
		at := places[worker][:0]
		for _, row := range g.within[r.from:r.to] {
			at = append(at, row-uint32(r.batch*g.frame.size))
		}
		places[worker] = at
		add(worker, &b.columns[col], at, g.leaves[r.from:r.to])
		return nil
	})
}

// totals are counts and sums by leaf; a sum is kept as two 64-bit halves.
type totals struct {
	count []int64
	low   []uint64
	high  []int64
}

// additive computes what adds up: each level's figures are those of the level
// below.
func (g *Groups) additive(field Field, m Measure) (Field, []Vector, error) {
	leaves := g.Levels[len(g.Levels)-1].Len()
	narrow, err := g.fitsNarrow(m)
	if err != nil {
		return Field{}, nil, err
	}
	parts := make([]totals, workers)
	for i := range parts {
		parts[i].count = make([]int64, leaves)
		if m.Op != Count {
			parts[i].low = make([]uint64, leaves)
			parts[i].high = make([]int64, leaves)
		}
	}
	err = g.scan(m.Column, func(w int, v *Vector, at, of []uint32) {
		t := &parts[w]
		t.addCounts(v, at, of)
		switch {
		case m.Op == Count:
		case narrow:
			t.addNarrow(v, at, of)
		default:
			t.addWide(v, at, of)
		}
	})
	if err != nil {
		return Field{}, nil, err
	}
	t := parts[0]
	for _, other := range parts[1:] {
		t.merge(other, nil)
	}
	if narrow && m.Op != Count {
		for i, low := range t.low {
			t.high[i] = int64(low) >> 63
		}
	}
	levels := g.upwards(t)
	out := make([]Vector, len(levels))
	shown := m.Op.Field(field)
	for i, t := range levels {
		out[i] = t.vector(field, shown, m.Op)
	}
	return shown, out, nil
}

// fitsNarrow tells whether no sum can leave 64 bits.
func (g *Groups) fitsNarrow(m Measure) (bool, error) {
	if m.Op == Count {
		return true, nil
	}
	runs := g.runs()
	bounds := make([]uint64, len(runs))
	err := spread(len(runs), func(_, i int) error {
		b, err := g.frame.load(runs[i].batch)
		if err == nil {
			bounds[i] = b.columns[m.Column].Bound()
		}
		return err
	})
	if err != nil || len(runs) == 0 {
		return true, err
	}
	most := slices.Max(bounds)
	high, low := bits.Mul64(most, uint64(len(g.leaves)))
	return high == 0 && low < math.MaxInt64, nil
}

func (t *totals) addCounts(v *Vector, at, of []uint32) {
	switch {
	case v.Nulls == nil:
		for _, leaf := range of {
			t.count[leaf]++
		}
	case at == nil:
		for r, leaf := range of {
			if !v.Nulls[r] {
				t.count[leaf]++
			}
		}
	default:
		for i, leaf := range of {
			if !v.Nulls[at[i]] {
				t.count[leaf]++
			}
		}
	}
}

// addNarrow adds cells where no sum can leave 64 bits. Cells without a value
// are 0 and need not be told apart.
func (t *totals) addNarrow(v *Vector, at, of []uint32) {
	low := t.low
	if at == nil {
		ints := v.Ints[:len(of)]
		for r, leaf := range of {
			low[leaf] += uint64(ints[r])
		}
		return
	}
	for i, leaf := range of {
		low[leaf] += uint64(v.Ints[at[i]])
	}
}

func (t *totals) addWide(v *Vector, at, of []uint32) {
	for i, leaf := range of {
		if at != nil {
			i = int(at[i])
		}
		x := v.Ints[i]
		var carry uint64
		t.low[leaf], carry = bits.Add64(t.low[leaf], uint64(x), 0)
		t.high[leaf] += x>>63 + int64(carry)
	}
}

// merge adds other to t, each of its groups to its parent, if there are any.
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
func (g *Groups) upwards(leaves totals) []totals {
	levels := make([]totals, len(g.Levels))
	levels[len(levels)-1] = leaves
	for i := len(levels) - 2; i >= 0; i-- {
		n := g.Levels[i].Len()
		levels[i].count = make([]int64, n)
		if leaves.low != nil {
			levels[i].low, levels[i].high = make([]uint64, n), make([]int64, n)
		}
		parents := g.Levels[i+1].Parent
		levels[i].merge(levels[i+1], parents)
	}
	return levels
}

func (t *totals) vector(field, shown Field, op Op) Vector {
	if op == Count {
		return Vector{Ints: t.count}
	}
	b := newFigures(len(t.count))
	for i, n := range t.count {
		if n == 0 {
			b.none(i)
			continue
		}
		sum := Number{decimal128.New(t.high[i], t.low[i]), field.Scale}
		if op == Avg {
			sum = sum.Divide(n, shown.Scale)
		}
		b.set(i, sum.Digits)
	}
	return b.vector
}
