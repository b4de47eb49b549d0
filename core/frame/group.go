package frame

import (
	"fmt"
	"sync"
)

// Groups are selected rows gathered by the values of columns, one level below
// the other. Level 0 is all rows in one group; the groups of the deepest level
// are called leaves. Groups stand in the order of their values within their
// parents, and what has no value stands last.
type Groups struct {
	Levels []Level

	frame  *Frame
	within Selection
	leaves []uint32 // by place in the selection, which leaf the row belongs to
	gather sync.Once
	order  Selection // the row numbers, leaf by leaf
}

// Level is the groups of one depth. The arrays are by group; those of offsets
// have one element more.
type Level struct {
	Field    Field    // the column that the level gathers by; zero at level 0
	Keys     Vector   // the group's value in that column
	Parent   []uint32 // the group's place in the level above
	Children []int    // children of group g are those from Children[g] up to Children[g+1] in the level below
	Rows     []int    // rows of group g are those from Rows[g] up to Rows[g+1] of [Groups.Order]
}

// Len returns how many groups there are.
func (l *Level) Len() int { return len(l.Rows) - 1 }

// Size returns how many rows a group has.
func (l *Level) Size(g int) int { return l.Rows[g+1] - l.Rows[g] }

// Group gathers the selected rows by columns, named by their places in the
// schema, the first column outermost. It fails when a batch cannot be loaded
// or when there would be more than 2^32 combinations that rows have.
//
// Values are numbered column by column, then numbers of parent and value are
// combined and numbered again, which takes a pass over the rows for each level
// and no comparing or hashing of values.
func (f *Frame) Group(within Selection, by []int) (*Groups, error) {
	n := len(within)
	if within == nil {
		n = f.rows
	}
	g := &Groups{frame: f, within: within, leaves: make([]uint32, n)}
	g.Levels = append(g.Levels, Level{Rows: []int{0, n}, Keys: Vector{Nulls: []bool{true}, Ints: []int64{0}}})
	for _, col := range by {
		if col < 0 || col >= len(f.schema) {
			return nil, fmt.Errorf("frame: there is no column %d to group by", col)
		}
		c, err := f.coded(col)
		if err != nil {
			return nil, err
		}
		g.deepen(f.schema[col], c)
	}
	g.countRows()
	return g, nil
}

// deepen splits every leaf by the values of one more column.
func (g *Groups) deepen(field Field, c *coding) {
	parents := uint64(1)
	if len(g.Levels) > 1 {
		parents = uint64(len(g.Levels[len(g.Levels)-1].Parent))
	}
	keys := uint64(max(c.n, 1))
	combined, number := numbering(g, c, parents*keys)
	level := Level{Field: field}
	codes := make([]uint32, len(combined))
	for place, of := range combined {
		codes[place] = uint32(of % keys)
		level.Parent = append(level.Parent, uint32(of/keys))
	}
	level.Keys = c.keys.pick(codes)
	above := &g.Levels[len(g.Levels)-1]
	above.Children = offsets(level.Parent, int(parents))
	number(uint32(keys))
	g.Levels = append(g.Levels, level)
}

// numbering returns which combinations of leaf and value there are, in order,
// and a function that makes every row's leaf the place of its combination.
func numbering(g *Groups, c *coding, space uint64) (combined []uint64, number func(keys uint32)) {
	code := func(at int) uint64 {
		if g.within != nil {
			at = int(g.within[at])
		}
		return uint64(c.codes[at])
	}
	keys := uint64(max(c.n, 1))
	if space > max(widest, 4*uint64(len(g.leaves))) {
		return g.numberedByMap(code, keys)
	}
	table := make([]uint32, space)
	if g.within == nil {
		for at, leaf := range g.leaves {
			table[uint64(leaf)*keys+uint64(c.codes[at])] = 1
		}
	} else {
		for at, leaf := range g.leaves {
			table[uint64(leaf)*keys+code(at)] = 1
		}
	}
	for x, present := range table {
		if present != 0 {
			table[x] = uint32(len(combined))
			combined = append(combined, uint64(x))
		}
	}
	return combined, func(keys uint32) {
		pieces := (len(g.leaves) + BatchRows - 1) / BatchRows
		mustSpread(pieces, func(_, i int) error {
			from, to := i*BatchRows, min((i+1)*BatchRows, len(g.leaves))
			if g.within == nil {
				for at := from; at < to; at++ {
					g.leaves[at] = table[g.leaves[at]*keys+c.codes[at]]
				}
				return nil
			}
			for at := from; at < to; at++ {
				g.leaves[at] = table[g.leaves[at]*keys+c.codes[g.within[at]]]
			}
			return nil
		})
	}
}

// countRows settles which rows of the gathered order each group has.
func (g *Groups) countRows() {
	deepest := &g.Levels[len(g.Levels)-1]
	if len(g.Levels) > 1 {
		deepest.Rows = offsets(g.leaves, len(deepest.Parent))
	}
	for i := len(g.Levels) - 2; i > 0; i-- {
		level, below := &g.Levels[i], &g.Levels[i+1]
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

// Order returns the row numbers of all groups, leaf by leaf; rows of one leaf
// keep their order. It is made when it is first asked for.
func (g *Groups) Order() Selection {
	g.gather.Do(func() {
		next := append([]int(nil), g.Levels[len(g.Levels)-1].Rows...)
		g.order = make(Selection, len(g.leaves))
		for at, leaf := range g.leaves {
			row := uint32(at)
			if g.within != nil {
				row = g.within[at]
			}
			g.order[next[leaf]] = row
			next[leaf]++
		}
	})
	return g.order
}

// RowsOf returns the row numbers of one group.
func (g *Groups) RowsOf(level, group int) Selection {
	l := &g.Levels[level]
	return g.Order()[l.Rows[group]:l.Rows[group+1]]
}

// Above returns for every leaf its group at a level.
func (g *Groups) Above(level int) []uint32 {
	deepest := len(g.Levels) - 1
	if level == 0 {
		return make([]uint32, g.Levels[deepest].Len())
	}
	above := make([]uint32, g.Levels[deepest].Len())
	for leaf := range above {
		above[leaf] = uint32(leaf)
	}
	for i := deepest; i > level; i-- {
		for leaf := range above {
			above[leaf] = g.Levels[i].Parent[above[leaf]]
		}
	}
	return above
}

// Bytes returns about how much memory the groups take.
func (g *Groups) Bytes() int {
	n := 8 * len(g.leaves) // the order too, which may be made later
	for i := range g.Levels {
		l := &g.Levels[i]
		n += l.Keys.size() + 4*len(l.Parent) + 8*len(l.Children) + 8*len(l.Rows)
	}
	return n
}

// pick gathers cells by their places.
func (v *Vector) pick(places []uint32) (out Vector) {
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

// Gather returns the rows of all groups, leaf by leaf, as [Groups.Order] does,
// but rows of one leaf in the order in which they stand in sorted, which has
// the same rows; nil keeps their own order.
func (g *Groups) Gather(sorted Selection) Selection {
	if sorted == nil {
		return g.Order()
	}
	leafOf := make([]uint32, g.frame.rows)
	for at, leaf := range g.leaves {
		row := at
		if g.within != nil {
			row = int(g.within[at])
		}
		leafOf[row] = leaf
	}
	next := append([]int(nil), g.Levels[len(g.Levels)-1].Rows...)
	out := make(Selection, len(sorted))
	for _, row := range sorted {
		out[next[leafOf[row]]] = row
		next[leafOf[row]]++
	}
	return out
}

// Any tells of every group, level by level, whether any of its rows is marked;
// marks are by row number.
func (g *Groups) Any(marked []bool) [][]bool {
	out := make([][]bool, len(g.Levels))
	deepest := len(g.Levels) - 1
	for level := range out {
		out[level] = make([]bool, g.Levels[level].Len())
	}
	for at, leaf := range g.leaves {
		row := at
		if g.within != nil {
			row = int(g.within[at])
		}
		if marked[row] {
			out[deepest][leaf] = true
		}
	}
	for level := deepest; level > 0; level-- {
		for group, parent := range g.Levels[level].Parent {
			if out[level][group] {
				out[level-1][parent] = true
			}
		}
	}
	return out
}
