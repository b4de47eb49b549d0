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

// figures collects the cells of a vector, which becomes wide when one is.
type figures struct{ vector Vector }

func newFigures(n int) *figures { return &figures{Vector{Ints: make([]int64, n)}} }

func (f *figures) none(i int) {
	if f.vector.Nulls == nil {
		f.vector.Nulls = make([]bool, max(len(f.vector.Ints), len(f.vector.Wide)))
	}
	f.vector.Nulls[i] = true
}

func (f *figures) set(i int, digits decimal128.Num) {
	low := int64(digits.LowBits())
	switch {
	case f.vector.Wide != nil:
		f.vector.Wide[i] = digits
	case digits == decimal128.FromI64(low):
		f.vector.Ints[i] = low
	default:
		f.vector.Wide = make([]decimal128.Num, len(f.vector.Ints))
		for at, x := range f.vector.Ints {
			f.vector.Wide[at] = decimal128.FromI64(x)
		}
		f.vector.Wide[i], f.vector.Ints = digits, nil
	}
}

// extremes computes the smallest or largest value of each group: texts by
// their place in the order.
func (g *Groups) extremes(field Field, m Measure) (Field, []Vector, error) {
	if field.Kind == Text {
		return g.extremeTexts(field, m)
	}
	better := func(a, b int64) bool { return a < b }
	if m.Op == Max {
		better = func(a, b int64) bool { return a > b }
	}
	best, err := g.best(m.Column, func(v *Vector, r int, _ uint32) int64 { return v.Ints[r] }, better)
	if err != nil {
		return Field{}, nil, err
	}
	return field, best, nil
}

func (g *Groups) extremeTexts(field Field, m Measure) (Field, []Vector, error) {
	c, err := g.frame.coded(m.Column)
	if err != nil {
		return Field{}, nil, err
	}
	better := func(a, b int64) bool { return a < b }
	if m.Op == Max {
		better = func(a, b int64) bool { return a > b }
	}
	best, err := g.best(m.Column, func(_ *Vector, _ int, row uint32) int64 { return int64(c.codes[row]) }, better)
	if err != nil {
		return Field{}, nil, err
	}
	for i, v := range best {
		best[i] = c.keys.pickNull(v)
	}
	return field, best, nil
}

// pickNull gathers the cells at the places that another vector holds.
func (v *Vector) pickNull(places Vector) Vector {
	out := Vector{Texts: make([]string, len(places.Ints)), Nulls: places.Nulls}
	for i, at := range places.Ints {
		if !places.Null(i) {
			out.Texts[i] = v.Text(int(at))
		}
	}
	return out
}

// best finds, for each group, the best figure that of makes of a cell and its
// row number.
func (g *Groups) best(col int, of func(v *Vector, r int, row uint32) int64, better func(a, b int64) bool) ([]Vector, error) {
	leaves := g.Levels[len(g.Levels)-1].Len()
	type part struct {
		best []int64
		none []bool
	}
	parts := make([]part, workers)
	for i := range parts {
		parts[i] = part{make([]int64, leaves), slices.Repeat([]bool{true}, leaves)}
	}
	take := func(p part, i int, x int64) {
		if p.none[i] || better(x, p.best[i]) {
			p.best[i], p.none[i] = x, false
		}
	}
	runs := g.runs()
	err := spread(len(runs), func(w, i int) error {
		b, err := g.frame.load(runs[i].batch)
		if err != nil {
			return err
		}
		v, start := &b.columns[col], uint32(runs[i].batch*g.frame.size)
		for at := runs[i].from; at < runs[i].to; at++ {
			row := uint32(at)
			if g.within != nil {
				row = g.within[at]
			}
			if r := int(row - start); !v.Null(r) {
				take(parts[w], int(g.leaves[at]), of(v, r, row))
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	p := parts[0]
	for _, other := range parts[1:] {
		for i, x := range other.best {
			if !other.none[i] {
				take(p, i, x)
			}
		}
	}
	out := make([]Vector, len(g.Levels))
	for level := len(g.Levels) - 1; ; level-- {
		out[level] = Vector{Ints: p.best}
		if slices.Contains(p.none, true) {
			out[level].Nulls = p.none
		}
		if level == 0 {
			return out, nil
		}
		n := g.Levels[level-1].Len()
		above := part{make([]int64, n), slices.Repeat([]bool{true}, n)}
		for i, parent := range g.Levels[level].Parent {
			if !p.none[i] {
				take(above, int(parent), p.best[i])
			}
		}
		p = above
	}
}

// ends finds the first or last value of each group in the order of the rows.
func (g *Groups) ends(field Field, m Measure) (Field, []Vector, error) {
	better := func(a, b int64) bool { return a < b }
	if m.Op == Last {
		better = func(a, b int64) bool { return a > b }
	}
	rows, err := g.best(m.Column, func(_ *Vector, _ int, row uint32) int64 { return int64(row) }, better)
	if err != nil {
		return Field{}, nil, err
	}
	for level, v := range rows {
		numbers := make([]uint32, len(v.Ints))
		for i, row := range v.Ints {
			numbers[i] = uint32(row)
		}
		if g.frame.rows == 0 {
			numbers = nil
		}
		b, err := g.frame.Take(numbers, []int{m.Column})
		if err != nil {
			return Field{}, nil, err
		}
		cells := b.columns[0]
		cells.Nulls = v.Nulls
		if numbers == nil {
			cells = Vector{Ints: make([]int64, len(v.Ints)), Texts: make([]string, len(v.Ints)), Nulls: v.Nulls}
		}
		rows[level] = cells
	}
	return field, rows, nil
}

// VectorOf makes a vector of single values of a field; numbers are brought to
// its places. It is wide where a value has more than 18 digits.
func VectorOf(field Field, values []Value) Vector {
	if field.Kind == Text {
		v := Vector{Texts: make([]string, len(values)), Nulls: make([]bool, len(values))}
		for i, x := range values {
			v.Texts[i], v.Nulls[i] = x.Text, x.Null
		}
		return v
	}
	f := newFigures(len(values))
	for i, x := range values {
		if x.Null {
			f.none(i)
		} else {
			f.set(i, x.Number.To(field.Scale).Digits)
		}
	}
	return f.vector
}
