package kept

import (
	"context"
	"math/bits"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// mostBits bounds the marks by group and value that are made at a time.
const mostBits = 1 << 28

// distinct counts the different values of each group, at every level: those that
// any of its leaves has.
func (g *grouping) distinct(ctx context.Context, m table.Measure) ([]frame.Vector, error) {
	c, err := g.kept.coded(ctx, g.runs, m.Column)
	if err != nil {
		return nil, err
	}
	values := c.n
	if c.nulls {
		values-- // no value is not one
	}
	if uint64(g.groups())*uint64(values) > mostBits {
		return g.distinctInTurn(ctx, m.Column, c, values)
	}
	words := (values + 63) / 64
	marks := make([][]uint64, rescue.Workers)
	err = g.eachCoded(ctx, m.Column, c, func(w int, _ run, codes, leaves []uint32) {
		if marks[w] == nil {
			marks[w] = make([]uint64, g.groups()*words)
		}
		mine := marks[w]
		for i, code := range codes {
			if int(code) < values {
				mine[int(leaves[i])*words+int(code>>6)] |= 1 << (code & 63)
			}
		}
	})
	if err != nil {
		return nil, err
	}
	own := make([]uint64, g.groups()*words)
	for _, mine := range marks {
		for i, word := range mine {
			own[i] |= word
		}
	}
	out := make([]frame.Vector, len(g.levels))
	for level := len(g.levels) - 1; ; level-- {
		out[level].Ints = make([]int64, g.levels[level].Len())
		for i, word := range own {
			out[level].Ints[i/words] += int64(bits.OnesCount64(word))
		}
		if level == 0 {
			return out, nil
		}
		above := make([]uint64, g.levels[level-1].Len()*words)
		for group, parent := range g.levels[level].Parent {
			for i := range words {
				above[int(parent)*words+i] |= own[group*words+i]
			}
		}
		own = above
	}
}

// eachCoded hands on, run by run from several goroutines, the value and the leaf of
// each row.
func (g *grouping) eachCoded(ctx context.Context, col int, c *coding,
	visit func(worker int, r run, codes, leaves []uint32)) error {
	all := make([]scratch, rescue.Workers)
	return rescue.Spread(ctx, len(g.runs.each), func(w, i int) error {
		r, s := g.runs.each[i], &all[w]
		v, err := g.kept.rows.Column(ctx, r.batch, col)
		if err != nil {
			return err
		}
		s.places, s.leaves = g.runs.places(r, s.places), g.leaves.read(r, s.leaves)
		s.wide = slices.Grow(s.wide[:0], r.to-r.from)[:r.to-r.from]
		c.fill(v, r.batch, s.places, s.wide, s)
		visit(w, r, s.wide, s.leaves)
		return nil
	})
}

// distinctInTurn counts values by sweeping the gathered rows group by group and
// remembering for each value the last group that had it.
func (g *grouping) distinctInTurn(ctx context.Context, col int, c *coding, values int) ([]frame.Vector, error) {
	gathered, starts := make([]uint32, g.runs.len()), g.levels[len(g.levels)-1].Rows
	next := slices.Clone(starts)
	all := scratch{}
	for _, r := range g.runs.each { // not from several goroutines: they would write to one list
		v, err := g.kept.rows.Column(ctx, r.batch, col)
		if err != nil {
			return nil, err
		}
		all.places, all.leaves = g.runs.places(r, all.places), g.leaves.read(r, all.leaves)
		all.wide = slices.Grow(all.wide[:0], r.to-r.from)[:r.to-r.from]
		c.fill(v, r.batch, all.places, all.wide, &all)
		for i, code := range all.wide {
			gathered[next[all.leaves[i]]] = code
			next[all.leaves[i]]++
		}
	}
	out := make([]frame.Vector, len(g.levels))
	for level := range g.levels {
		l := &g.levels[level]
		out[level].Ints = make([]int64, l.Len())
		seen := make([]uint32, values)
		for group := range l.Len() {
			for _, code := range gathered[l.Rows[group]:l.Rows[group+1]] {
				if int(code) < values && seen[code] != uint32(group)+1 {
					seen[code] = uint32(group) + 1
					out[level].Ints[group]++
				}
			}
		}
	}
	return out, nil
}
