package table

import (
	"context"
	"fmt"
	"math/big"
	"math/bits"
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/frame"
)

// ranked computes what needs all values of a group together.
func (g *grouping) ranked(ctx context.Context, m Measure) ([]frame.Vector, error) {
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
		err := spread(ctx, l.Len(), func(_, group int) (err error) {
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
	all := make([]scratch, workers)
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
func rankedOf(values []int64, field, shown frame.Field, m Measure) (n frame.Number, none bool, err error) {
	switch {
	case len(values) == 0, m.Op == frame.Stddev && len(values) < 2:
		return n, true, nil
	case m.Op == frame.Stddev:
		n, err = deviation(values, field.Scale, shown.Scale)
		return n, false, err
	}
	slices.Sort(values)
	percent := m.Percent
	if m.Op == frame.Median {
		percent = frame.Exact(50, 0)
	}
	return percentile(values, field.Scale, percent).To(shown.Scale), false, nil
}

// percentile interpolates between the two values next to the rank, exactly.
// The method is number 7 of Hyndman and Fan, "Sample Quantiles in Statistical
// Packages", The American Statistician 50 (1996), which SQL's percentile_cont
// uses too.
func percentile(sorted []int64, scale int32, percent frame.Number) frame.Number {
	rank := percent.Times(frame.Exact(int64(len(sorted)-1), 0)) // in hundredths
	whole, _ := rank.Over(frame.Exact(100, 0), rank.Scale+2)    // exact
	unit := power(whole.Scale)
	digits := whole.Digits.BigInt()
	at := int(digits.Quo(digits, unit).Int64())
	low := frame.Exact(sorted[at], scale)
	if at+1 == len(sorted) {
		return low
	}
	part := whole.Plus(frame.Exact(int64(at), 0), -1)
	step := frame.Exact(sorted[at+1], scale).Plus(low, -1)
	return low.Plus(part.Times(step), 1)
}

// deviation is the sample standard deviation, rounded half away from zero. Sums
// and sums of squares are exact, in two and three words of 64 bits, and so are
// the variance, n Σx² − (Σx)² over n (n − 1), and its root to half a unit of the
// last place. Squares of up to 2^64 numbers of 18 digits fit.
func deviation(values []int64, scale, places int32) (frame.Number, error) {
	var sum [2]uint64
	var squares [3]uint64
	for _, v := range values {
		var carry uint64
		sum[0], carry = bits.Add64(sum[0], uint64(v), 0)
		sum[1] += uint64(v>>63) + carry
		size := uint64(max(v, -v))
		high, low := bits.Mul64(size, size)
		squares[0], carry = bits.Add64(squares[0], low, 0)
		squares[1], carry = bits.Add64(squares[1], high, carry)
		squares[2] += carry
	}
	n := big.NewInt(int64(len(values)))
	total := decimal128.New(int64(sum[1]), sum[0]).BigInt()
	above := new(big.Int).Mul(n, words(squares[:]))
	above.Sub(above, total.Mul(total, total))
	below := new(big.Int).Mul(n, new(big.Int).Sub(n, big.NewInt(1)))
	// Twice the root, cut to a whole number, tells whether its half is to be
	// rounded up.
	above.Mul(above, power(2*max(places-scale, 0))).Lsh(above, 2)
	below.Mul(below, power(2*max(scale-places, 0)))
	root := above.Sqrt(above.Quo(above, below))
	root.Add(root, big.NewInt(1)).Rsh(root, 1)
	if root.BitLen() > 126 {
		return frame.Number{}, fmt.Errorf("the standard deviation has more digits than can be kept")
	}
	return frame.Number{Digits: decimal128.FromBigInt(root), Scale: places}, nil
}

// words makes a number of words of 64 bits, the lowest first.
func words(of []uint64) *big.Int {
	out := new(big.Int)
	for _, w := range slices.Backward(of) {
		out.Lsh(out, 64).Or(out, new(big.Int).SetUint64(w))
	}
	return out
}

func power(places int32) *big.Int {
	return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)
}
