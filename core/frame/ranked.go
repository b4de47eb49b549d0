package frame

import (
	"fmt"
	"math/big"
	"math/bits"
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// distinct counts the different values of each group, at every level from the
// rows of that level.
func (g *Groups) distinct(field Field, m Measure) (Field, []Vector, error) {
	c, err := g.frame.coded(m.Column)
	if err != nil {
		return Field{}, nil, err
	}
	out := make([]Vector, len(g.Levels))
	for level := range g.Levels {
		out[level] = Vector{Ints: g.different(c, level)}
	}
	return m.Op.Field(field), out, nil
}

// different counts values by sweeping the gathered rows group by group and
// remembering for each value the last group that had it.
func (g *Groups) different(c *coding, level int) []int64 {
	counts := make([]int64, g.Levels[level].Len())
	seen := make([]uint32, c.n)
	order := g.Order()
	for group := range counts {
		for _, row := range order[g.Levels[level].Rows[group]:g.Levels[level].Rows[group+1]] {
			code := c.codes[row]
			if seen[code] != uint32(group)+1 && !c.keys.Null(int(code)) {
				seen[code] = uint32(group) + 1
				counts[group]++
			}
		}
	}
	return counts
}

// ranked computes what needs all values of a group together.
func (g *Groups) ranked(field Field, m Measure) (Field, []Vector, error) {
	values, nulls, err := g.frame.cells(m.Column)
	if err != nil {
		return Field{}, nil, err
	}
	order, shown := g.Order(), m.Op.Field(field)
	out := make([]Vector, len(g.Levels))
	for level := range g.Levels {
		l := &g.Levels[level]
		found := make([]Number, l.Len())
		none := make([]bool, l.Len())
		err := spread(l.Len(), func(_, group int) error {
			own := make([]int64, 0, l.Size(group))
			for _, row := range order[l.Rows[group]:l.Rows[group+1]] {
				if nulls == nil || !nulls[row] {
					own = append(own, values[row])
				}
			}
			var err error
			found[group], none[group], err = rankedOf(own, field, shown, m)
			return err
		})
		if err != nil {
			return Field{}, nil, err
		}
		b := newFigures(l.Len())
		for group, n := range found {
			if none[group] {
				b.none(group)
			} else {
				b.set(group, n.Digits)
			}
		}
		out[level] = b.vector
	}
	return shown, out, nil
}

// rankedOf computes one figure of the values, which it sorts.
func rankedOf(values []int64, field, shown Field, m Measure) (n Number, none bool, err error) {
	switch {
	case len(values) == 0, m.Op == Stddev && len(values) < 2:
		return n, true, nil
	case m.Op == Stddev:
		n, err = deviation(values, field.Scale, shown.Scale)
		return n, false, err
	}
	slices.Sort(values)
	percent := m.Percent
	if m.Op == Median {
		percent = Exact(50, 0)
	}
	return percentile(values, field.Scale, percent).To(shown.Scale), false, nil
}

// percentile interpolates between the two values next to the rank, exactly.
// The method is number 7 of Hyndman and Fan, "Sample Quantiles in Statistical
// Packages", The American Statistician 50 (1996), which SQL's percentile_cont
// uses too.
func percentile(sorted []int64, scale int32, percent Number) Number {
	rank := percent.Times(Exact(int64(len(sorted)-1), 0)) // in hundredths
	whole, _ := rank.Over(Exact(100, 0), rank.Scale+2)    // exact
	unit := power(whole.Scale)
	digits := whole.Digits.BigInt()
	at := int(digits.Quo(digits, unit).Int64())
	low := Exact(sorted[at], scale)
	if at+1 == len(sorted) {
		return low
	}
	part := whole.Plus(Exact(int64(at), 0), -1)
	step := Exact(sorted[at+1], scale).Plus(low, -1)
	return low.Plus(part.Times(step), 1)
}

// deviation is the sample standard deviation, rounded half away from zero. Sums
// and sums of squares are exact, in two and three words of 64 bits, and so are
// the variance, n Σx² − (Σx)² over n (n − 1), and its root to half a unit of the
// last place. Squares of up to 2^64 numbers of 18 digits fit.
func deviation(values []int64, scale, places int32) (Number, error) {
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
		return Number{}, fmt.Errorf("the standard deviation has more digits than can be kept")
	}
	return Number{decimal128.FromBigInt(root), places}, nil
}

// words makes a number of words of 64 bits, the lowest first.
func words(of []uint64) *big.Int {
	out := new(big.Int)
	for _, w := range slices.Backward(of) {
		out.Lsh(out, 64).Or(out, new(big.Int).SetUint64(w))
	}
	return out
}

// cells copies a whole column that is not text.
func (f *Frame) cells(col int) (values []int64, nulls []bool, err error) {
	values = make([]int64, f.rows)
	for i := range f.Batches() {
		b, err := f.load(i)
		if err != nil {
			return nil, nil, err
		}
		v := &b.columns[col]
		copy(values[i*f.size:], v.Ints)
		if v.Nulls != nil {
			if nulls == nil {
				nulls = make([]bool, f.rows)
			}
			copy(nulls[i*f.size:], v.Nulls)
		}
	}
	return values, nulls, nil
}
