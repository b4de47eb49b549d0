package kept

import (
	"context"
	"math"
	"slices"
	"sync"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/rescue"
)

// coding numbers the distinct values of a column in their order: keys holds them,
// what has no value last. The rows' numbers are not kept but made batch by batch.
type coding struct {
	keys  frame.Vector
	n     int // how many keys
	nulls bool
	local [][]uint32       // of texts: by batch and place of the text there, its key
	low   int64            // of numbers: the one that stands first in the table
	table []uint32         // by number less low, its key
	known map[int64]uint32 // of numbers too far apart for a table
}

// widest is how far apart the numbers of a column may lie for a table by value
// to be used; it takes four bytes for each.
const widest = 1 << 22

// runs are the rows of each batch that are meant: places in the selection, or where
// all are meant row numbers.
type runs struct {
	rows   *frame.Frame
	within Selection
	each   []run
}

// run is rows of one batch that follow one another in the selection.
type run struct{ batch, from, to int }

func (k *Table) runs(within Selection) *runs {
	out := &runs{rows: k.rows, within: within}
	if within == nil {
		for i := range k.rows.Batches() {
			from, to := k.rows.Span(i)
			out.each = append(out.each, run{i, from, to})
		}
		return out
	}
	for from := 0; from < len(within); {
		batch := k.rows.BatchOf(int(within[from]))
		first, end := k.rows.Span(batch)
		to := from + 1
		for to < len(within) && int(within[to]) >= first && int(within[to]) < end {
			to++
		}
		out.each = append(out.each, run{batch, from, to})
		from = to
	}
	return out
}

// len is how many rows are meant.
func (s *runs) len() int {
	if s.within == nil {
		return s.rows.Rows()
	}
	return len(s.within)
}

// number is the row number of a place.
func (s *runs) number(at int) uint32 {
	if s.within == nil {
		return uint32(at)
	}
	return s.within[at]
}

// places returns which rows of its batch a run has; nil for all.
func (s *runs) places(r run, scratch []uint32) []uint32 {
	if s.within == nil {
		return nil
	}
	start, _ := s.rows.Span(r.batch)
	scratch = scratch[:0]
	for _, row := range s.within[r.from:r.to] {
		scratch = append(scratch, row-uint32(start))
	}
	return scratch
}

// coded numbers the values of a column in the batches of the runs.
func (k *Table) coded(ctx context.Context, s *runs, col int) (*coding, error) {
	if k.rows.Schema()[col].Kind == frame.Text {
		return k.codedTexts(ctx, s, col)
	}
	return k.codedInts(ctx, s, col)
}

func (k *Table) codedTexts(ctx context.Context, s *runs, col int) (*coding, error) {
	known := newDictionary()
	c := &coding{local: make([][]uint32, k.rows.Batches())}
	var mu sync.Mutex // over known, and c while it is filled
	err := rescue.Spread(ctx, len(s.each), func(_, i int) error {
		batch := s.each[i].batch
		v, err := k.rows.Column(ctx, batch, col)
		if err != nil {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		c.nulls = c.nulls || v.Nulls != nil
		if c.local[batch] != nil {
			return nil
		}
		c.local[batch] = make([]uint32, len(v.Texts))
		for at, t := range v.Texts {
			if v.Coded || !v.Null(at) {
				c.local[batch][at] = known.code(t)
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	ranks := known.places()
	c.n = len(known.texts)
	c.keys.Texts = make([]string, c.n, c.n+1)
	for code, t := range known.texts {
		c.keys.Texts[ranks[code]] = t
	}
	err = rescue.Spread(ctx, len(c.local), func(_, i int) error {
		for at, code := range c.local[i] {
			c.local[i][at] = ranks[code]
		}
		return nil
	})
	return c.settled(), err
}

func (k *Table) codedInts(ctx context.Context, s *runs, col int) (*coding, error) {
	e, err := k.extent(ctx, s, col)
	if err != nil {
		return nil, err
	}
	c := &coding{nulls: e.nulls}
	switch {
	case e.low > e.high: // no cell has a value
	case uint64(e.high-e.low) < widest:
		err = c.byTable(ctx, k, s, col, e)
	default:
		err = c.byMap(ctx, k, s, col)
	}
	return c.settled(), err
}

// extent is how far the values of a column reach; low is above high where no cell
// has one.
type extent struct {
	low, high int64
	nulls     bool // some cells have no value
}

// extent finds how far the values of a column reach in the batches of the runs.
func (k *Table) extent(ctx context.Context, s *runs, col int) (extent, error) {
	e := extent{low: math.MaxInt64, high: math.MinInt64}
	var mu sync.Mutex // over e
	err := rescue.Spread(ctx, len(s.each), func(_, i int) error {
		batch := s.each[i].batch
		from, to := k.rows.Span(batch)
		stats, ok := k.rows.Stats(batch, col)
		if !ok {
			v, err := k.rows.Column(ctx, batch, col)
			if err != nil {
				return err
			}
			stats = v.Stats
		}
		mu.Lock()
		defer mu.Unlock()
		e.nulls = e.nulls || stats.Nulls > 0
		if stats.Nulls < to-from {
			e.low, e.high = min(e.low, stats.Least), max(e.high, stats.Greatest)
		}
		return nil
	})
	return e, err
}

// byTable numbers values that lie close together.
func (c *coding) byTable(ctx context.Context, k *Table, s *runs, col int, e extent) error {
	low, high := e.low, e.high
	c.low = low
	present, all := make([][]bool, rescue.Workers), make([]scratch, rescue.Workers)
	err := rescue.Spread(ctx, len(s.each), func(w, i int) error {
		v, err := k.rows.Column(ctx, s.each[i].batch, col)
		if err != nil {
			return err
		}
		if present[w] == nil {
			present[w] = make([]bool, high-low+1)
		}
		mine := present[w]
		ints := v.Ints(&all[w].ints)
		for r, x := range ints {
			if v.Nulls == nil || !v.Nulls[r] {
				mine[x-low] = true
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	c.table = make([]uint32, high-low+1)
	for x := range c.table {
		for _, mine := range present {
			if mine != nil && mine[x] {
				c.table[x] = uint32(len(c.keys.Ints))
				c.keys.Ints = append(c.keys.Ints, int64(x)+low)
				break
			}
		}
	}
	c.n = len(c.keys.Ints)
	return nil
}

// byMap numbers values that lie far apart.
func (c *coding) byMap(ctx context.Context, k *Table, s *runs, col int) error {
	found := make([]map[int64]struct{}, rescue.Workers)
	err := rescue.Spread(ctx, len(s.each), func(w, i int) error {
		v, err := k.rows.Column(ctx, s.each[i].batch, col)
		if err != nil {
			return err
		}
		if found[w] == nil {
			found[w] = map[int64]struct{}{}
		}
		for r, x := range v.Ints(nil) {
			if !v.Null(r) {
				found[w][x] = struct{}{}
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	c.known = map[int64]uint32{}
	for _, mine := range found {
		for x := range mine {
			if _, ok := c.known[x]; !ok {
				c.known[x] = 0
				c.keys.Ints = append(c.keys.Ints, x)
			}
		}
	}
	slices.Sort(c.keys.Ints)
	for place, x := range c.keys.Ints {
		c.known[x] = uint32(place)
	}
	c.n = len(c.keys.Ints)
	return nil
}

// settled adds the key of what has no value.
func (c *coding) settled() *coding {
	if !c.nulls {
		return c
	}
	c.keys.Nulls = make([]bool, c.n+1)
	c.keys.Nulls[c.n] = true
	if c.keys.Texts != nil {
		c.keys.Texts = append(c.keys.Texts, "")
	} else {
		c.keys.Ints = append(c.keys.Ints, 0)
	}
	c.n++
	return c
}

// scratch is memory for the cells of one batch, used again for the next.
type scratch struct {
	codes  []int32
	ints   []int64
	places []uint32
	leaves []uint32
	wide   []uint32
}

// fill writes the key of every row of a batch; at are the rows that are meant, nil
// for all.
func (c *coding) fill(v *frame.Column, batch int, at, to []uint32, s *scratch) {
	last := uint32(c.n - 1) // of what has no value
	switch {
	case v.Texts != nil && v.Coded:
		codes := v.Codes(&s.codes)
		mapped(to, at, codes, c.local[batch], 0, v.Nulls, last)
	case v.Texts != nil:
		for i := range to {
			r := rowAt(at, i)
			if to[i] = last; !v.Null(r) {
				to[i] = c.local[batch][r]
			}
		}
	case c.table != nil:
		ints := v.Ints(&s.ints)
		mapped(to, at, ints, c.table, c.low, v.Nulls, last)
	default:
		ints := v.Ints(&s.ints)
		for i := range to {
			r := rowAt(at, i)
			if to[i] = last; !v.Null(r) {
				to[i] = c.known[ints[r]]
			}
		}
	}
}

func rowAt(at []uint32, i int) int {
	if at == nil {
		return i
	}
	return int(at[i])
}

// mapped writes what a table has for the cells, which begin with low there.
func mapped[T int32 | int64](to, at []uint32, cells []T, table []uint32, low T, nulls []bool, last uint32) {
	switch {
	case at == nil && nulls == nil:
		for i, x := range cells[:len(to)] {
			to[i] = table[x-low]
		}
	case nulls == nil:
		for i, r := range at {
			to[i] = table[cells[r]-low]
		}
	default:
		for i := range to {
			r := rowAt(at, i)
			if to[i] = last; !nulls[r] {
				to[i] = table[cells[r]-low]
			}
		}
	}
}

// dictionary numbers the distinct texts of several batches.
type dictionary struct {
	known map[string]uint32
	texts []string
}

func newDictionary() *dictionary { return &dictionary{known: map[string]uint32{}} }

func (d *dictionary) code(t string) uint32 {
	code, ok := d.known[t]
	if !ok {
		code = uint32(len(d.texts))
		d.known[t] = code
		d.texts = append(d.texts, t)
	}
	return code
}

// places returns for every code its place in the order of the texts.
func (d *dictionary) places() []uint32 {
	type entry struct {
		folded, text string
		code         int
	}
	entries := make([]entry, len(d.texts))
	for i, t := range d.texts {
		entries[i] = entry{fold.Text(t), t, i}
	}
	slices.SortFunc(entries, func(a, b entry) int { return fold.Compare(a.folded, a.text, b.folded, b.text) })
	places := make([]uint32, max(len(entries), 1))
	for place, e := range entries {
		places[e.code] = uint32(place)
	}
	return places
}
