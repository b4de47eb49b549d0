package frame

import (
	"slices"
)

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
func (g *Groups) best(col int, of func(v *Vector, r int, row uint32) int64, better func(a, b int64) bool) ([]Vector,
	error) {
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
