package kept

import (
	"context"
	"fmt"
	"math"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// grouping is rows being gathered: groups, and which of them each row belongs to.
type grouping struct {
	kept   *Table
	runs   *runs
	levels []table.Level
	leaves leaves
	order  Selection // once it was asked for
}

// leaves are the places of leaves by place of a row in the selection, as narrow as
// there are few; none where there is one leaf.
type leaves struct {
	bits8  []uint8
	bits16 []uint16
	bits32 []uint32
}

func newLeaves(rows, n int) (l leaves) {
	switch {
	case n <= 1:
	case n <= math.MaxUint8+1:
		l.bits8 = make([]uint8, rows)
	case n <= math.MaxUint16+1:
		l.bits16 = make([]uint16, rows)
	default:
		l.bits32 = make([]uint32, rows)
	}
	return l
}

// read returns the leaves of a run's rows, in scratch.
func (l *leaves) read(r run, scratch []uint32) []uint32 {
	n := r.to - r.from
	if cap(scratch) < n {
		scratch = make([]uint32, n)
	}
	scratch = scratch[:n]
	switch {
	case l.bits8 != nil:
		for i, x := range l.bits8[r.from:r.to] {
			scratch[i] = uint32(x)
		}
	case l.bits16 != nil:
		for i, x := range l.bits16[r.from:r.to] {
			scratch[i] = uint32(x)
		}
	case l.bits32 != nil:
		return l.bits32[r.from:r.to]
	default:
		clear(scratch)
	}
	return scratch
}

func (l *leaves) write(r run, of []uint32) {
	switch {
	case l.bits8 != nil:
		for i, x := range of {
			l.bits8[r.from+i] = uint8(x)
		}
	case l.bits16 != nil:
		for i, x := range of {
			l.bits16[r.from+i] = uint16(x)
		}
	case l.bits32 != nil:
		copy(l.bits32[r.from:r.to], of)
	}
}

// Groups gathers rows by columns and computes figures of the groups.
func (k *Table) Groups(ctx context.Context, where table.Where, by []int, measures []table.Measure) (*table.Groups,
	error) {
	within, err := k.selected(ctx, where)
	if err != nil {
		return nil, err
	}
	g, err := k.group(ctx, within, by)
	if err != nil {
		return nil, err
	}
	return g.measured(ctx, measures)
}

// group gathers the selected rows by columns, the first outermost. It fails when a
// column cannot be loaded or when there would be more than 2^32 combinations that
// rows have.
//
// Values are numbered column by column, then numbers of parent and value are
// combined and numbered again, which takes two passes over the rows for each level
// and no comparing or hashing of values.
func (k *Table) group(ctx context.Context, within Selection, by []int) (*grouping, error) {
	g := &grouping{kept: k, runs: k.runs(within)}
	none := frame.Vector{Nulls: []bool{true}, Ints: []int64{0}}
	g.levels = []table.Level{{Rows: []int{0, g.runs.len()}, Keys: none}}
	for i, col := range by {
		if col < 0 || col >= len(k.rows.Schema()) {
			return nil, fmt.Errorf("there is no column %d to group by", col)
		}
		c, err := k.coded(ctx, g.runs, col)
		if err != nil {
			return nil, err
		}
		if err := g.deepen(ctx, col, c, i+1 == len(by)); err != nil {
			return nil, err
		}
	}
	g.countRows()
	return g, nil
}

// groups is how many leaves there are so far.
func (g *grouping) groups() int {
	if len(g.levels) == 1 {
		return 1
	}
	return len(g.levels[len(g.levels)-1].Parent)
}

// deepen splits every leaf by the values of one more column. At the deepest level
// the rows of each leaf are counted on the way.
func (g *grouping) deepen(ctx context.Context, col int, c *coding, deepest bool) error {
	parents, keys := g.groups(), uint64(max(c.n, 1))
	combined, number, err := g.numbering(ctx, col, c, uint64(parents)*keys)
	if err != nil {
		return err
	}
	if len(combined) > math.MaxUint32 {
		return fmt.Errorf("there are more groups than can be told apart; filter the rows, or group by fewer columns")
	}
	level := table.Level{Field: g.kept.rows.Schema()[col]}
	codes := make([]uint32, len(combined))
	for place, of := range combined {
		codes[place] = uint32(of % keys)
		level.Parent = append(level.Parent, uint32(of/keys))
	}
	level.Keys = pick(&c.keys, codes)
	leaves := newLeaves(g.runs.len(), len(combined))
	counts := make([][]int, rescue.Workers)
	err = g.eachCombined(ctx, col, c, func(w int, r run, of []uint64, to []uint32) {
		number(of, to)
		leaves.write(r, to)
		if deepest {
			if counts[w] == nil {
				counts[w] = make([]int, len(combined)+1)
			}
			for _, leaf := range to {
				counts[w][leaf+1]++
			}
		}
	})
	if err != nil {
		return err
	}
	g.leaves = leaves
	above := &g.levels[len(g.levels)-1]
	above.Children = offsets(level.Parent, parents)
	if deepest {
		level.Rows = make([]int, len(combined)+1)
		for _, mine := range counts {
			for i, n := range mine {
				level.Rows[i] += n
			}
		}
		for i := range len(combined) {
			level.Rows[i+1] += level.Rows[i]
		}
	}
	g.levels = append(g.levels, level)
	return nil
}

// eachCombined hands on, run by run from several goroutines, the number of each
// row's leaf and value together, with room for the leaf that they make.
func (g *grouping) eachCombined(ctx context.Context, col int, c *coding,
	visit func(worker int, r run, of []uint64, to []uint32)) error {
	all, combined := make([]scratch, rescue.Workers), make([][]uint64, rescue.Workers)
	keys := uint64(max(c.n, 1))
	return rescue.Spread(ctx, len(g.runs.each), func(w, i int) error {
		r, s := g.runs.each[i], &all[w]
		v, err := g.kept.rows.Column(ctx, r.batch, col)
		if err != nil {
			return err
		}
		n := r.to - r.from
		s.places = g.runs.places(r, s.places)
		if cap(s.wide) < n {
			s.wide, combined[w] = make([]uint32, n), make([]uint64, n)
		}
		codes, of := s.wide[:n], combined[w][:n]
		c.fill(v, r.batch, s.places, codes, s)
		s.leaves = g.leaves.read(r, s.leaves)
		for at, code := range codes {
			of[at] = uint64(s.leaves[at])*keys + uint64(code)
		}
		visit(w, r, of, codes)
		return nil
	})
}

// numbering returns which combinations of leaf and value there are, in order,
// and a function that gives them their places.
func (g *grouping) numbering(ctx context.Context, col int, c *coding, space uint64) (combined []uint64,
	number func(of []uint64, to []uint32), err error) {
	if space > max(widest, 4*uint64(g.runs.len())) {
		return g.numberedByMap(ctx, col, c)
	}
	present := make([][]bool, rescue.Workers)
	err = g.eachCombined(ctx, col, c, func(w int, _ run, of []uint64, _ []uint32) {
		if present[w] == nil {
			present[w] = make([]bool, space)
		}
		mine := present[w]
		for _, x := range of {
			mine[x] = true
		}
	})
	if err != nil {
		return nil, nil, err
	}
	table := make([]uint32, space)
	for x := range table {
		for _, mine := range present {
			if mine != nil && mine[x] {
				table[x] = uint32(len(combined))
				combined = append(combined, uint64(x))
				break
			}
		}
	}
	return combined, func(of []uint64, to []uint32) {
		for i, x := range of {
			to[i] = table[x]
		}
	}, nil
}

// numberedByMap is the numbering of combinations that are too many for a table.
func (g *grouping) numberedByMap(ctx context.Context, col int, c *coding) (combined []uint64,
	number func(of []uint64, to []uint32), err error) {
	found := make([]map[uint64]struct{}, rescue.Workers)
	err = g.eachCombined(ctx, col, c, func(w int, _ run, of []uint64, _ []uint32) {
		if found[w] == nil {
			found[w] = map[uint64]struct{}{}
		}
		for _, x := range of {
			found[w][x] = struct{}{}
		}
	})
	if err != nil {
		return nil, nil, err
	}
	known := map[uint64]uint32{}
	for _, mine := range found {
		for x := range mine {
			if _, ok := known[x]; !ok {
				known[x] = 0
				combined = append(combined, x)
			}
		}
	}
	slices.Sort(combined)
	for place, x := range combined {
		known[x] = uint32(place)
	}
	return combined, func(of []uint64, to []uint32) {
		for i, x := range of {
			to[i] = known[x]
		}
	}, nil
}

// countRows settles which rows of the gathered order each group above the deepest
// level has.
func (g *grouping) countRows() {
	for i := len(g.levels) - 2; i > 0; i-- {
		level, below := &g.levels[i], &g.levels[i+1]
		level.Rows = make([]int, len(level.Parent)+1)
		for group := range level.Rows {
			level.Rows[group] = below.Rows[level.Children[group]]
		}
	}
}

// offsets counts how often each number below n stands in of and adds up.
func offsets(of []uint32, n int) []int {
	counts := make([]int, n+1)
	for _, x := range of {
		counts[x+1]++
	}
	for i := range n {
		counts[i+1] += counts[i]
	}
	return counts
}

// gathered returns the row numbers of all groups, leaf by leaf; rows of one leaf
// keep their order, or stand as they do in sorted, which has the same rows.
func (g *grouping) gathered(ctx context.Context, sorted Selection) (Selection, error) {
	if sorted == nil && g.order != nil {
		return g.order, nil
	}
	var leafOf []uint32
	if sorted != nil {
		leafOf = make([]uint32, g.kept.Rows())
	}
	next := slices.Clone(g.levels[len(g.levels)-1].Rows)
	out := make(Selection, g.runs.len())
	var room []uint32
	for _, r := range g.runs.each {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		room = g.leaves.read(r, room)
		for i, leaf := range room {
			row := g.runs.number(r.from + i)
			if sorted != nil {
				leafOf[row] = leaf
				continue
			}
			out[next[leaf]] = row
			next[leaf]++
		}
	}
	for _, row := range sorted {
		out[next[leafOf[row]]] = row
		next[leafOf[row]]++
	}
	if sorted == nil {
		g.order = out
	}
	return out, nil
}

// pick gathers cells by their places.
func pick(v *frame.Vector, places []uint32) (out frame.Vector) {
	if v.Texts != nil {
		out.Texts = make([]string, len(places))
	} else {
		out.Ints = make([]int64, len(places))
	}
	if v.Nulls != nil {
		out.Nulls = make([]bool, len(places))
	}
	for i, at := range places {
		switch {
		case v.Null(int(at)):
			out.Nulls[i] = true
		case v.Texts != nil:
			out.Texts[i] = v.Text(int(at))
		default:
			out.Ints[i] = v.Ints[at]
		}
	}
	return out
}
