package kept

import (
	"context"

	"mantilla/core/frame"
	"mantilla/core/rescue"
)

// sort returns the selected rows ordered by the keys, the first key weighing
// most. Rows that are equal in all keys keep their order. Texts are ordered
// without case and accents first. It fails when a column does not exist or cannot
// be loaded.
//
// The method is a radix sort, least significant digit first, of one key after
// the other from the last to the first (Knuth, The Art of Computer Programming
// 3, section 5.2.5): every pass is stable, so keys need not be combined.
func (k *Table) sort(ctx context.Context, within Selection, keys []frame.Key) (Selection, error) {
	places := make([]int, len(keys))
	for i, key := range keys {
		at, err := k.column(key.Column)
		if err != nil {
			return nil, err
		}
		places[i] = at
	}
	rows := k.runs(within)
	order := within
	for i := len(keys) - 1; i >= 0; i-- {
		r, err := k.ranks(ctx, rows, places[i])
		if err != nil {
			return nil, err
		}
		if order, err = r.sort(ctx, order, keys[i]); err != nil {
			return nil, err
		}
	}
	if order == nil {
		order = make(Selection, k.Rows())
		for i := range order {
			order[i] = uint32(i)
		}
	}
	return order, nil
}

// ranks are numbers that order as the values of a column do: what they are more than
// the least of them. Those of few bits are kept in few.
type ranks struct {
	span  uint64 // no rank is more
	few   []uint32
	many  []uint64
	nulls []bool // by row, which have no value; nil where all have
}

func (r *ranks) of(row uint32) uint64 {
	if r.few != nil {
		return uint64(r.few[row])
	}
	return r.many[row]
}

// ranks ranks the values of a column of the rows that are meant.
func (k *Table) ranks(ctx context.Context, s *runs, col int) (*ranks, error) {
	if k.rows.Schema()[col].Kind == frame.Text {
		return k.ranksOfTexts(ctx, s, col)
	}
	e, err := k.extent(ctx, s, col)
	if err != nil {
		return nil, err
	}
	if e.low > e.high {
		e.low, e.high = 0, 0
	}
	out := &ranks{span: uint64(e.high) - uint64(e.low)}
	if out.span < 1<<32 {
		out.few = make([]uint32, k.Rows())
	} else {
		out.many = make([]uint64, k.Rows())
	}
	if e.nulls {
		out.nulls = make([]bool, k.Rows())
	}
	all := make([]scratch, rescue.Workers)
	err = rescue.Spread(ctx, len(s.each), func(w, i int) error {
		batch := s.each[i].batch
		v, err := k.rows.Column(ctx, batch, col)
		if err != nil {
			return err
		}
		from, to := k.rows.Span(batch)
		if out.nulls != nil {
			copy(out.nulls[from:to], v.Nulls)
		}
		ints := v.Ints(&all[w].ints)
		for r, x := range ints {
			if out.few != nil {
				out.few[from+r] = uint32(uint64(x) - uint64(e.low))
			} else {
				out.many[from+r] = uint64(x) - uint64(e.low)
			}
		}
		return nil
	})
	return out, err
}

func (k *Table) ranksOfTexts(ctx context.Context, s *runs, col int) (*ranks, error) {
	c, err := k.codedTexts(ctx, s, col)
	if err != nil {
		return nil, err
	}
	out := &ranks{span: uint64(max(c.n-1, 0)), few: make([]uint32, k.Rows())}
	if c.nulls {
		out.nulls = make([]bool, k.Rows())
	}
	all := make([]scratch, rescue.Workers)
	return out, rescue.Spread(ctx, len(s.each), func(w, i int) error {
		batch := s.each[i].batch
		v, err := k.rows.Column(ctx, batch, col)
		if err != nil {
			return err
		}
		from, to := k.rows.Span(batch)
		if v.Nulls != nil {
			copy(out.nulls[from:to], v.Nulls)
		}
		c.fill(v, batch, nil, out.few[from:to], &all[w])
		return nil
	})
}

// sort orders rows, nil for all, by ranks and keeps the order of equal rows.
func (r *ranks) sort(ctx context.Context, rows Selection, key frame.Key) (Selection, error) {
	with, without := r.parted(rows)
	words := (r.bits() + 31) / 32
	for word := range max(words, 1) {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		var err error
		if with, err = r.sortWord(ctx, with, 32*word, key.Descending); err != nil {
			return nil, err
		}
	}
	if without == nil {
		return with, nil
	}
	if key.NullsFirst {
		return append(without, with...), nil
	}
	return append(with, without...), nil
}

func (r *ranks) bits() (n int) {
	for span := r.span; span > 0; span >>= 1 {
		n++
	}
	return n
}

// parted parts rows that have a value from those that have none.
func (r *ranks) parted(rows Selection) (with, without Selection) {
	if r.nulls == nil {
		return rows, nil
	}
	with = make(Selection, 0, max(len(rows), len(r.nulls)))
	visit := func(row uint32) {
		if r.nulls[row] {
			without = append(without, row)
		} else {
			with = append(with, row)
		}
	}
	if rows == nil {
		for row := range r.nulls {
			visit(uint32(row))
		}
	}
	for _, row := range rows {
		visit(row)
	}
	return with, without
}

const (
	digit   = 10 // bits that are sorted by at a time
	buckets = 1 << digit
)

// sortWord sorts by 32 bits of the ranks, each in one word with its row: so there is
// little to move. Both halves of the rows are sorted at the same time and merged.
func (r *ranks) sortWord(ctx context.Context, rows Selection, shift int, descending bool) (Selection, error) {
	n := len(rows)
	if rows == nil {
		n = max(len(r.few), len(r.many))
	}
	span := uint32(min(r.span>>shift, 1<<32-1))
	flip := uint32(0)
	if descending {
		flip = ^flip
	}
	items, spare := make([]uint64, n), make([]uint64, n)
	middle := n
	if n > manyRows && rescue.Workers > 1 {
		middle = n / 2
	}
	ends := []int{0, middle, n}
	err := rescue.Spread(ctx, 2, func(_, half int) error {
		from, to := ends[half], ends[half+1]
		for i := from; i < to; i++ {
			row := uint32(i)
			if rows != nil {
				row = rows[i]
			}
			rank := uint32(r.of(row)>>shift) ^ flip
			if descending {
				rank -= ^span // so that the ranks begin at 0 again
			}
			items[i] = uint64(rank)<<32 | uint64(row)
		}
		return sortWords(ctx, items[from:to], spare[from:to], span)
	})
	if err != nil {
		return nil, err
	}
	return merged(items[:middle], items[middle:]), nil
}

func merged(left, right []uint64) Selection {
	out := make(Selection, 0, len(left)+len(right))
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
func sortWords(ctx context.Context, items, spare []uint64, span uint32) error {
	sorted := items
	for shift := 0; len(items) > 0 && uint64(span)>>shift > 0; shift += digit {
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
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
	return nil
}
