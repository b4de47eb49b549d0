// Package changes finds what changed from one set of rows to another: which rows are in one of
// them only, which have other cells, and which are the same.
package changes

import (
	"context"
	"hash/maphash"
	"math/bits"

	"mantilla/core/frame"
	"mantilla/core/rescue"
)

// Side is the rows of one set, in batches that have the same columns: those of the key first.
type Side []*frame.Batch

// Rows is how many rows there are.
func (s Side) Rows() (n int) {
	for _, b := range s {
		n += b.Rows
	}
	return n
}

// place is a row of a side: a batch, and a row within that.
type place struct{ batch, row int32 }

var nowhere = place{-1, -1}

// Match is the rows of two sides in pairs.
type Match struct {
	Counts

	before, after Side
	schema        frame.Schema
	keys          int
	pairs         [][]place  // by batch of after: where each of its rows stands before
	became        [][]string // by batch of after: what each of its rows became
	gone          []place    // rows of before that are in no pair
}

// Find finds the rows of after in before by the first columns of the schema, a number of keys.
// Rows whose key stands more than once in a side are paired with rows that are the same in
// every column, as far as there are some, and otherwise in their order. The rows before are
// gathered in a hash table with open addressing, those after are sought in it. Cells without
// a value are a key like any other.
func Find(ctx context.Context, before, after Side, schema frame.Schema, keys int) (*Match, error) {
	m := &Match{before: before, after: after, schema: schema, keys: keys}
	t := newHashed(m)
	hashes := make([][]uint64, len(before))
	err := rescue.Spread(ctx, len(before), func(_, i int) error {
		hashes[i] = t.keysOf(before[i])
		return nil
	})
	if err != nil {
		return nil, err
	}
	for i := range before {
		if err := context.Cause(ctx); err != nil {
			return nil, err
		}
		t.add(int32(i), hashes[i])
	}
	sought := make([][]int32, len(after)) // by batch and row: the first row before of the same key, or -1
	err = rescue.Spread(ctx, len(after), func(_, i int) error {
		sought[i] = t.seek(after[i])
		return nil
	})
	if err != nil {
		return nil, err
	}
	m.pair(t, sought)
	return m, m.count(ctx)
}

// hashed is the rows before by their keys. Rows of one key are a chain that begins with the
// first of them.
type hashed struct {
	m      *Match
	seed   maphash.Seed
	places []place // of each row
	hashes []uint64
	slots  []int32 // 1 + the first row of a key; 0 where there is none
	next   []int32 // 1 + the next row of the same key; 0 where there is none
	last   []int32 // by the first row of a key: the last
	here   []int32 // by the first row of a key: rows of that key before
	there  []int32 // and after
}

func newHashed(m *Match) *hashed {
	n := m.before.Rows()
	size := 1 << bits.Len(uint(2*n+1))
	return &hashed{m: m, seed: maphash.MakeSeed(), places: make([]place, 0, n), hashes: make([]uint64, 0, n),
		slots: make([]int32, size), next: make([]int32, n), last: make([]int32, n), here: make([]int32, n),
		there: make([]int32, n)}
}

// add gathers the rows of a batch by the hashes of their keys.
func (t *hashed) add(batch int32, hashes []uint64) {
	b := t.m.before[batch]
	mask := uint64(len(t.slots) - 1)
	for row, h := range hashes {
		g := int32(len(t.places))
		t.places, t.hashes = append(t.places, place{batch, int32(row)}), append(t.hashes, h)
		first := g
		for slot := h & mask; ; slot = (slot + 1) & mask {
			known := t.slots[slot] - 1
			if known < 0 {
				t.slots[slot] = g + 1
				break
			}
			if t.hashes[known] == h && t.m.alike(t.places[known], b, row, 0, t.m.keys) {
				first = known
				t.next[t.last[first]] = g + 1
				break
			}
		}
		t.last[first] = g
		t.here[first]++
	}
}

// seek finds the first row before that has the key of each row of a batch; -1 for none.
func (t *hashed) seek(b *frame.Batch) []int32 {
	found := make([]int32, b.Rows)
	mask := uint64(len(t.slots) - 1)
	for row, h := range t.keysOf(b) {
		found[row] = -1
		for slot := h & mask; t.slots[slot] > 0; slot = (slot + 1) & mask {
			known := t.slots[slot] - 1
			if t.hashes[known] == h && t.m.alike(t.places[known], b, row, 0, t.m.keys) {
				found[row] = known
				break
			}
		}
	}
	return found
}

const (
	noValue = 0x9e3779b97f4a7c15 // stands for no value in a hash
	spread  = 0xff51afd7ed558ccd // an odd number that spreads bits; of MurmurHash3
)

// keysOf hashes the keys of a batch's rows.
func (t *hashed) keysOf(b *frame.Batch) []uint64 {
	hashes := make([]uint64, b.Rows)
	mix := func(row int, x uint64) {
		h := (bits.RotateLeft64(hashes[row], 23) ^ x) * spread
		hashes[row] = h ^ h>>32
	}
	for key := range t.m.keys {
		c := b.Column(key)
		if t.m.schema[key].Kind != frame.Text {
			for row := range hashes {
				if c.Null(row) {
					mix(row, noValue)
				} else {
					mix(row, uint64(c.Int(row)))
				}
			}
			continue
		}
		var coded []uint64
		if c.Coded {
			coded = make([]uint64, len(c.Texts))
			for i, text := range c.Texts {
				coded[i] = maphash.String(t.seed, text)
			}
		}
		for row := range hashes {
			switch {
			case c.Null(row):
				mix(row, noValue)
			case coded != nil:
				mix(row, coded[c.Int(row)])
			default:
				mix(row, maphash.String(t.seed, c.Text(row)))
			}
		}
	}
	return hashes
}

// alike tells whether a row before has the cells of another in the columns from one to
// another.
func (m *Match) alike(at place, b *frame.Batch, row, from, to int) bool {
	other := m.before[at.batch]
	for col := from; col < to; col++ {
		if !same(m.schema[col].Kind, other.Column(col), int(at.row), b.Column(col), row) {
			return false
		}
	}
	return true
}

// same tells whether two cells are the same.
func same(kind frame.Kind, a *frame.Column, i int, b *frame.Column, j int) bool {
	if a.Null(i) || b.Null(j) {
		return a.Null(i) && b.Null(j)
	}
	if kind == frame.Text {
		return a.Text(i) == b.Text(j)
	}
	return a.Int(i) == b.Int(j)
}

// pair makes pairs: at once where a key stands once in both sides, else first of rows that are
// the same, then of what is left.
func (m *Match) pair(t *hashed, sought [][]int32) {
	used := make([]bool, len(t.places))
	take := func(after place, before int32) {
		used[before] = true
		m.pairs[after.batch][after.row] = t.places[before]
	}
	for _, firsts := range sought {
		for _, first := range firsts {
			if first >= 0 {
				t.there[first]++
			}
		}
	}
	var again []place // rows after whose key is repeated, and which are in no pair yet
	m.pairs = make([][]place, len(m.after))
	for i, firsts := range sought {
		m.pairs[i] = make([]place, len(firsts))
		for row, first := range firsts {
			at := place{int32(i), int32(row)}
			m.pairs[i][row] = nowhere
			switch {
			case first < 0:
			case t.here[first] == 1 && t.there[first] == 1:
				take(at, first)
			default:
				again = append(again, at)
			}
		}
	}
	for first := range t.here {
		if t.there[first] > 0 && (t.here[first] > 1 || t.there[first] > 1) {
			m.Repeated++
		}
	}
	for _, whole := range []bool{true, false} {
		var left []place
		for _, at := range again {
			found := t.free(sought[at.batch][at.row], used, at, whole)
			if found < 0 {
				left = append(left, at)
				continue
			}
			take(at, found)
		}
		again = left
	}
	for g, done := range used {
		if !done {
			m.gone = append(m.gone, t.places[g])
		}
	}
}

// free is a row before of a key that is in no pair yet, and where that is wanted the same as
// one after in all columns; -1 for none.
func (t *hashed) free(first int32, used []bool, at place, whole bool) int32 {
	for g := first; g >= 0; g = t.next[g] - 1 {
		if !used[g] && (!whole || t.m.alike(t.places[g], t.m.after[at.batch], int(at.row), t.m.keys, len(t.m.schema))) {
			return g
		}
	}
	return -1
}
