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

// item is a row with the rank that it is sorted by.
type item struct {
	rank uint64
	row  uint32
}

// sortBy orders rows by one key and keeps the order of equal rows.
func sortBy(order Selection, ranks []uint64, nulls []bool, key Key) Selection {
	var without Selection
	with := order
	if nulls != nil {
		with = make(Selection, 0, len(order))
		for _, row := range order {
			if nulls[row] {
				without = append(without, row)
			} else {
				with = append(with, row)
			}
		}
	}
	flip := uint64(0)
	if key.Descending {
		flip = ^uint64(0)
	}
	low, high := ^uint64(0), uint64(0)
	for _, row := range with {
		rank := ranks[row] ^ flip
		low, high = min(low, rank), max(high, rank)
	}
	var sorted Selection
	if len(with) == 0 || high-low < 1<<32 {
		sorted = sortNarrow(with, ranks, flip, low, high-low)
	} else {
		sorted = sortWide(with, ranks, flip, low, high-low)
	}
	if key.NullsFirst {
		return append(without, sorted...)
	}
	return append(sorted, without...)
}

const (
	digit   = 10 // bits that are sorted by at a time
	buckets = 1 << digit
)

// sortNarrow sorts ranks that lie within 32 bits, each in one word with its
// row: there is half as much to move.
//
// Both halves of the rows are sorted at the same time and merged.
func sortNarrow(rows Selection, ranks []uint64, flip, low, span uint64) Selection {
	items, spare := make([]uint64, len(rows)), make([]uint64, len(rows))
	middle := len(rows)
	if len(rows) > manyRows && workers > 1 {
		middle = len(rows) / 2
	}
	ends := []int{0, middle, len(rows)}
	mustSpread(2, func(_, half int) error {
		from, to := ends[half], ends[half+1]
		for i := from; i < to; i++ {
			items[i] = (ranks[rows[i]]^flip-low)<<32 | uint64(rows[i])
		}
		sortWords(items[from:to], spare[from:to], span)
		return nil
	})
	out := make(Selection, 0, len(items))
	left, right := items[:middle], items[middle:]
	for len(left) > 0 && len(right) > 0 {
		if right[0]>>32 < left[0]>>32 {
			out, right = append(out, uint32(right[0])), right[1:]
		} else {
			out, left = append(out, uint32(left[0])), left[1:]
		}
	}
	for _, rest := range [][]uint64{left, right} {
		for _, it := range rest {
			out = append(out, uint32(it))
		}
	}
	return out
}

// sortWords sorts words by their upper half, which is at most span.
func sortWords(items, spare []uint64, span uint64) {
	sorted := items
	for shift := 0; len(items) > 0 && span>>shift > 0; shift += digit {
		var starts [buckets]uint32
		for _, it := range items {
			starts[it>>(32+shift)&(buckets-1)]++
		}
		at := uint32(0)
		for d, n := range starts {
			starts[d], at = at, at+n
		}
		for _, it := range items {
			d := it >> (32 + shift) & (buckets - 1)
			spare[starts[d]] = it
			starts[d]++
		}
		items, spare = spare, items
	}
	if len(items) > 0 && &items[0] != &sorted[0] {
		copy(sorted, items)
	}
}

func sortWide(rows Selection, ranks []uint64, flip, low, span uint64) Selection {
	items, spare := make([]item, len(rows)), make([]item, len(rows))
	for i, row := range rows {
		items[i] = item{ranks[row] ^ flip - low, row}
	}
	for shift := 0; len(items) > 0 && span>>shift > 0; shift += digit {
		var starts [buckets]uint32
		for _, it := range items {
			starts[it.rank>>shift&(buckets-1)]++
		}
		at := uint32(0)
		for d, n := range starts {
			starts[d], at = at, at+n
		}
		for _, it := range items {
			d := it.rank >> shift & (buckets - 1)
			spare[starts[d]] = it
			starts[d]++
		}
		items, spare = spare, items
	}
	out := make(Selection, len(items))
	for i, it := range items {
		out[i] = it.row
	}
	return out
}
