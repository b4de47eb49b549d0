package frame

import (
	"fmt"
	"math"
	"slices"
	"strconv"

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

// deviation is the sample standard deviation, by two passes in floating point
// as in Chan, Golub and LeVeque, "Algorithms for Computing the Sample
// Variance", The American Statistician 37 (1983), with their correction of the
// rounding of the mean.
func deviation(values []int64, scale, places int32) (Number, error) {
	n, sum := float64(len(values)), 0.0
	for _, v := range values {
		sum += float64(v)
	}
	mean, squares, rest := sum/n, 0.0, 0.0
	for _, v := range values {
		d := float64(v) - mean
		squares, rest = squares+d*d, rest+d
	}
	squares -= rest * rest / n
	digits := math.Sqrt(max(squares, 0)/(n-1)) * math.Pow10(int(places-scale))
	d, err := decimal128.FromString(strconv.FormatFloat(math.Round(digits), 'f', 0, 64), 38, 0)
	if err != nil {
		return Number{}, fmt.Errorf("the standard deviation: %w", err)
	}
	return Number{d, places}, nil
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
