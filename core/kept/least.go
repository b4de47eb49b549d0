package kept

import (
	"container/heap"
	"context"
	"math"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/rescue"
)

// least returns the first rows of an order by keys, at most so many, without
// ordering the others. Every key leaves those rows that are less than the last one
// wanted, and those that are equal to it for the next key to part.
func (k *Table) least(ctx context.Context, within Selection, keys []frame.Key, most int) (Selection, error) {
	sure, open := Selection{}, within
	for i, key := range keys {
		col, err := k.column(key.Column)
		if err != nil {
			return nil, err
		}
		if k.atEnds(col) {
			all, err := k.sort(ctx, within, keys)
			return all[:min(most, len(all))], err
		}
		before, equal, err := k.leastBy(ctx, open, col, key, most-len(sure), i+1 == len(keys))
		if err != nil {
			return nil, err
		}
		sure, open = append(sure, before...), equal
		if len(sure)+len(open) <= most {
			break
		}
	}
	sure = append(sure, open[:min(len(open), most-len(sure))]...)
	slices.Sort(sure)
	return k.sort(ctx, sure, keys)
}

// atEnds tells whether a column has the least or the greatest number of 64 bits,
// which here stand for cells without a value.
func (k *Table) atEnds(col int) bool {
	for i := range k.rows.Batches() {
		if s, ok := k.rows.Stats(i, col); ok && (s.Least == math.MinInt64 || s.Greatest == math.MaxInt64) {
			return true
		}
	}
	return false
}

// leastBy finds which rows are, by one key, before the row that is the most-th of
// them, and which are equal to it; of these the first only, where they are not to be
// parted further. Both are in their order.
func (k *Table) leastBy(ctx context.Context, within Selection, col int, key frame.Key, most int, final bool) (before,
	equal Selection, err error) {
	s := k.runs(within)
	rank, err := k.ranking(ctx, s, col, key)
	if err != nil {
		return nil, nil, err
	}
	last, err := s.lastOf(ctx, rank, most)
	if err != nil {
		return nil, nil, err
	}
	type found struct{ before, equal Selection }
	parts := make([]found, len(s.each))
	all := make([]ranked, rescue.Workers)
	err = rescue.Spread(ctx, len(s.each), func(w, i int) error {
		own, err := rank(ctx, s.each[i], &all[w])
		if err != nil {
			return err
		}
		for at, x := range own {
			switch {
			case x < last:
				parts[i].before = append(parts[i].before, s.number(s.each[i].from+at))
			case x == last && (!final || len(parts[i].equal) < most):
				parts[i].equal = append(parts[i].equal, s.number(s.each[i].from+at))
			}
		}
		return nil
	})
	for _, p := range parts {
		before, equal = append(before, p.before...), append(equal, p.equal...)
	}
	return before, equal, err
}

// ranked is memory for the ranks of one run.
type ranked struct {
	scratch
	ranks []uint64
}

// ranking returns what ranks the rows of a run by a key, the first the least.
func (k *Table) ranking(ctx context.Context, s *runs, col int, key frame.Key) (
	func(context.Context, run, *ranked) ([]uint64, error), error) {
	var c *coding
	if k.rows.Schema()[col].Kind == frame.Text {
		var err error
		if c, err = k.codedTexts(ctx, s, col); err != nil {
			return nil, err
		}
	}
	none := ^uint64(0)
	if key.NullsFirst {
		none = 0
	}
	return func(ctx context.Context, r run, room *ranked) ([]uint64, error) {
		v, err := k.rows.Column(ctx, r.batch, col)
		if err != nil {
			return nil, err
		}
		n := r.to - r.from
		room.places = s.places(r, room.places)
		room.ranks = slices.Grow(room.ranks[:0], n)[:n]
		if c != nil {
			room.wide = slices.Grow(room.wide[:0], n)[:n]
			c.fill(v, r.batch, room.places, room.wide, &room.scratch)
			for i, code := range room.wide {
				room.ranks[i] = uint64(code) + 1
			}
		} else {
			ints := v.Ints(&room.ints)
			for i := range room.ranks {
				room.ranks[i] = uint64(ints[rowAt(room.places, i)]) ^ 1<<63
			}
		}
		if key.Descending {
			for i, x := range room.ranks {
				room.ranks[i] = ^x
			}
		}
		if v.Nulls != nil {
			for i := range room.ranks {
				if v.Nulls[rowAt(room.places, i)] {
					room.ranks[i] = none
				}
			}
		}
		return room.ranks, nil
	}, nil
}

// lastOf returns the rank of the most-th row, or of the last where there are fewer.
func (s *runs) lastOf(ctx context.Context, rank func(context.Context, run, *ranked) ([]uint64, error),
	most int) (uint64,
	error) {
	heaps, all := make([]largest, rescue.Workers), make([]ranked, rescue.Workers)
	err := rescue.Spread(ctx, len(s.each), func(w, i int) error {
		own, err := rank(ctx, s.each[i], &all[w])
		if err != nil {
			return err
		}
		h := &heaps[w]
		for _, x := range own {
			switch {
			case len(*h) < most:
				heap.Push(h, x)
			case x < (*h)[0]:
				(*h)[0] = x
				heap.Fix(h, 0)
			}
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	found := slices.Sorted(slices.Values(slices.Concat(heaps...)))
	if len(found) == 0 {
		return 0, nil
	}
	return found[min(most, len(found))-1], nil
}

// largest is a heap of ranks, of which the largest is the first.
type largest []uint64

func (h largest) Len() int           { return len(h) }
func (h largest) Less(i, j int) bool { return h[i] > h[j] }
func (h largest) Swap(i, j int)      { h[i], h[j] = h[j], h[i] }

// Push adds a rank.
func (h *largest) Push(x any) { *h = append(*h, x.(uint64)) }

// Pop takes the last away.
func (h *largest) Pop() any {
	last := (*h)[len(*h)-1]
	*h = (*h)[:len(*h)-1]
	return last
}
