package frame

import (
	"slices"
	"sync"
)

// Key is one column to sort by. Rows without a value stand last, or first when
// NullsFirst is set, whichever way the others run.
type Key struct {
	Column     string
	Descending bool
	NullsFirst bool
}

// Sort returns the selected rows ordered by the keys, the first key weighing
// most. Rows that are equal in all keys keep their order. Texts are ordered
// without case and accents first. It fails when a column does not exist or a
// batch cannot be loaded.
//
// The method is a radix sort, least significant digit first, of one key after
// the other from the last to the first (Knuth, The Art of Computer Programming
// 3, section 5.2.5): every pass is stable, so keys need not be combined.
func (f *Frame) Sort(within Selection, keys []Key) (Selection, error) {
	places := make([]int, len(keys))
	for i, k := range keys {
		at, err := f.column(k.Column)
		if err != nil {
			return nil, err
		}
		places[i] = at
	}
	if within == nil {
		within = make(Selection, f.rows)
		for i := range within {
			within[i] = uint32(i)
		}
	}
	order := slices.Clone(within)
	for i := len(keys) - 1; i >= 0; i-- {
		ranks, nulls, err := f.ranks(places[i])
		if err != nil {
			return nil, err
		}
		order = sortBy(order, ranks, nulls, keys[i])
	}
	return order, nil
}

// ranks returns for every row of a column a number that orders as its values
// do, and which rows have no value (nil when all have one).
func (f *Frame) ranks(col int) (ranks []uint64, nulls []bool, err error) {
	ranks = make([]uint64, f.rows)
	var known *dictionary
	if f.schema[col].Kind == Text {
		known = newDictionary()
	}
	var mu sync.Mutex
	err = f.parallel(func(i int, b *Batch) error {
		c, start := &b.columns[col], i*f.size
		if c.Nulls != nil {
			mu.Lock()
			if nulls == nil {
				nulls = make([]bool, f.rows)
			}
			mu.Unlock()
			copy(nulls[start:], c.Nulls)
		}
		if known != nil {
			mu.Lock()
			defer mu.Unlock()
			known.codes(c, ranks[start:start+b.Rows])
			return nil
		}
		for r, v := range c.Ints {
			ranks[start+r] = uint64(v) ^ 1<<63
		}
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	if known != nil {
		places := known.places()
		for r, code := range ranks {
			ranks[r] = places[code]
		}
	}
	return ranks, nulls, nil
}

// dictionary numbers the distinct texts of several batches.
type dictionary struct {
	known map[string]uint64
	texts []string
}

func newDictionary() *dictionary { return &dictionary{known: map[string]uint64{}} }

func (d *dictionary) code(t string) uint64 {
	code, ok := d.known[t]
	if !ok {
		code = uint64(len(d.texts))
		d.known[t] = code
		d.texts = append(d.texts, t)
	}
	return code
}

// codes writes the code of every row of c; rows without a value get code 0.
func (d *dictionary) codes(c *Vector, to []uint64) {
	if c.Codes == nil {
		for r, t := range c.Texts {
			to[r] = d.code(t)
		}
		return
	}
	local := make([]uint64, max(len(c.Texts), 1))
	for i, t := range c.Texts {
		local[i] = d.code(t)
	}
	for r, code := range c.Codes {
		to[r] = local[code]
	}
}

// places returns for every code its place in the order of the texts.
func (d *dictionary) places() []uint64 {
	type entry struct {
		folded, text string
		code         int
	}
	entries := make([]entry, len(d.texts))
	for i, t := range d.texts {
		entries[i] = entry{Fold(t), t, i}
	}
	slices.SortFunc(entries, func(a, b entry) int { return compareTexts(a.folded, a.text, b.folded, b.text) })
	places := make([]uint64, max(len(entries), 1))
	for place, e := range entries {
		places[e.code] = uint64(place)
	}
	return places
}

// sortBy orders rows by one key and keeps the order of equal rows.
func sortBy(order Selection, ranks []uint64, nulls []bool, key Key) Selection {
	type item struct {
		rank uint64
		row  uint32
	}
	var without Selection
	items := make([]item, 0, len(order))
	low, high := ^uint64(0), uint64(0)
	for _, row := range order {
		if nulls != nil && nulls[row] {
			without = append(without, row)
			continue
		}
		rank := ranks[row]
		if key.Descending {
			rank = ^rank
		}
		low, high = min(low, rank), max(high, rank)
		items = append(items, item{rank, row})
	}
	const digit = 11
	spare := make([]item, len(items))
	for shift := 0; len(items) > 0 && (high-low)>>shift > 0; shift += digit {
		var starts [1 << digit]int
		for _, it := range items {
			starts[(it.rank-low)>>shift&(1<<digit-1)]++
		}
		at := 0
		for d, n := range starts {
			starts[d], at = at, at+n
		}
		for _, it := range items {
			d := (it.rank - low) >> shift & (1<<digit - 1)
			spare[starts[d]] = it
			starts[d]++
		}
		items, spare = spare, items
	}
	out := make(Selection, 0, len(order))
	if key.NullsFirst {
		out = append(out, without...)
	}
	for _, it := range items {
		out = append(out, it.row)
	}
	if !key.NullsFirst {
		out = append(out, without...)
	}
	return out
}
