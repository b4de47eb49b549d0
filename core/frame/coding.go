package frame

import (
	"math"
	"runtime"
	"slices"
	"sync"

	"mantilla/core/rescue"
)

// coding numbers the distinct values of a column in their order: codes holds
// for every row of the frame the place of its value in keys. What has no value
// is the last key.
type coding struct {
	codes []uint32
	keys  Vector
	n     int // how many keys
}

// widest is how far apart the numbers of a column may lie for a table by value
// to be used; it takes four bytes for each.
const widest = 1 << 22

// coded numbers the values of a column.
func (f *Frame) coded(col int) (*coding, error) {
	if f.schema[col].Kind == Text {
		return f.codedTexts(col)
	}
	return f.codedInts(col)
}

func (f *Frame) codedTexts(col int) (*coding, error) {
	known := newDictionary()
	local := make([][]uint64, f.Batches())
	nulls := false
	var mu sync.Mutex
	err := f.parallel(func(i int, b *Batch) error {
		v := &b.columns[col]
		mu.Lock()
		defer mu.Unlock()
		if v.Codes == nil { // every row is a text of its own
			local[i] = make([]uint64, b.Rows)
			known.codes(v, local[i])
		} else {
			local[i] = make([]uint64, len(v.Texts))
			for at, t := range v.Texts {
				local[i][at] = known.code(t)
			}
		}
		nulls = nulls || v.Nulls != nil
		return nil
	})
	if err != nil {
		return nil, err
	}
	ranks := known.places()
	c := &coding{codes: make([]uint32, f.rows), n: len(known.texts)}
	c.keys.Texts = make([]string, c.n, c.n+1)
	for code, t := range known.texts {
		c.keys.Texts[ranks[code]] = t
	}
	last := uint32(c.n)
	err = f.parallel(func(i int, b *Batch) error {
		v, to := &b.columns[col], c.codes[i*f.size:i*f.size+b.Rows]
		places := make([]uint32, len(local[i]))
		for at, code := range local[i] {
			places[at] = uint32(ranks[code])
		}
		if v.Codes == nil {
			copy(to, places)
		} else {
			for r, code := range v.Codes {
				if int(code) < len(places) {
					to[r] = places[code]
				}
			}
		}
		for r, null := range v.Nulls {
			if null {
				to[r] = last
			}
		}
		return nil
	})
	return c.settle(nulls), err
}

func (f *Frame) codedInts(col int) (*coding, error) {
	low, high, nulls := int64(math.MaxInt64), int64(math.MinInt64), false
	var mu sync.Mutex
	err := f.parallel(func(_ int, b *Batch) error {
		v := &b.columns[col]
		least, most := int64(math.MaxInt64), int64(math.MinInt64)
		for r, x := range v.Ints {
			if v.Nulls == nil || !v.Nulls[r] {
				least, most = min(least, x), max(most, x)
			}
		}
		mu.Lock()
		defer mu.Unlock()
		low, high, nulls = min(low, least), max(high, most), nulls || v.Nulls != nil
		return nil
	})
	if err != nil {
		return nil, err
	}
	c := &coding{codes: make([]uint32, f.rows)}
	if low > high {
		return c.settle(nulls), nil
	}
	if uint64(high-low) < widest {
		if err := c.byTable(f, col, low, high); err != nil {
			return nil, err
		}
		return c.settle(nulls), nil
	}
	if err := c.byMap(f, col); err != nil {
		return nil, err
	}
	return c.settle(nulls), nil
}

// byTable numbers values that lie close together.
func (c *coding) byTable(f *Frame, col int, low, high int64) error {
	table := make([]uint32, high-low+1)
	for i := range f.Batches() {
		b, err := f.load(i)
		if err != nil {
			return err
		}
		v := &b.columns[col]
		for r, x := range v.Ints {
			if v.Nulls == nil || !v.Nulls[r] {
				table[x-low] = 1
			}
		}
	}
	for x, present := range table {
		if present != 0 {
			table[x] = uint32(len(c.keys.Ints))
			c.keys.Ints = append(c.keys.Ints, int64(x)+low)
		}
	}
	c.n = len(c.keys.Ints)
	last := uint32(c.n)
	return f.parallel(func(i int, b *Batch) error {
		v, to := &b.columns[col], c.codes[i*f.size:]
		if v.Nulls == nil {
			for r, x := range v.Ints {
				to[r] = table[x-low]
			}
			return nil
		}
		for r, x := range v.Ints {
			if v.Nulls[r] {
				to[r] = last
			} else {
				to[r] = table[x-low]
			}
		}
		return nil
	})
}

// byMap numbers values that lie far apart.
func (c *coding) byMap(f *Frame, col int) error {
	known := map[int64]uint32{}
	for i := range f.Batches() {
		b, err := f.load(i)
		if err != nil {
			return err
		}
		v := &b.columns[col]
		for r, x := range v.Ints {
			if v.Nulls != nil && v.Nulls[r] {
				c.codes[i*f.size+r] = math.MaxUint32
				continue
			}
			code, ok := known[x]
			if !ok {
				code = uint32(len(c.keys.Ints))
				known[x] = code
				c.keys.Ints = append(c.keys.Ints, x)
			}
			c.codes[i*f.size+r] = code
		}
	}
	firsts := slices.Clone(c.keys.Ints)
	slices.Sort(c.keys.Ints)
	c.n = len(c.keys.Ints)
	for place, x := range c.keys.Ints {
		known[x] = uint32(place)
	}
	places := make([]uint32, c.n)
	for code, x := range firsts {
		places[code] = known[x]
	}
	for r, code := range c.codes {
		if code == math.MaxUint32 {
			c.codes[r] = uint32(c.n)
		} else {
			c.codes[r] = places[code]
		}
	}
	return nil
}

// settle adds the key of what has no value.
func (c *coding) settle(nulls bool) *coding {
	if !nulls {
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

// parallel loads every batch and hands it to visit, as many at a time as there
// are processors.
func (f *Frame) parallel(visit func(batch int, b *Batch) error) error {
	return spread(f.Batches(), func(_, i int) error {
		b, err := f.load(i)
		if err != nil {
			return err
		}
		return visit(i, b)
	})
}

// workers is how many pieces of work go on at a time.
var workers = max(runtime.GOMAXPROCS(0), 1)

// spread calls work for every number below n from several goroutines and
// returns the first error. A worker's numbers rise.
func spread(n int, work func(worker, i int) error) error {
	if n < 2 || workers == 1 {
		for i := range n {
			if err := work(0, i); err != nil {
				return err
			}
		}
		return nil
	}
	errs := make([]error, min(workers, n))
	var all sync.WaitGroup
	for w := range errs {
		all.Go(func() {
			for i := w * n / len(errs); i < (w+1)*n/len(errs) && errs[w] == nil; i++ {
				errs[w] = rescue.Call(func() error { return work(w, i) })
			}
		})
	}
	all.Wait()
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// mustSpread is spread of work that cannot fail; a panic of a piece goes on in
// the caller.
func mustSpread(n int, work func(worker, i int) error) {
	if err := spread(n, work); err != nil {
		panic(err)
	}
}

// numberedByMap is the numbering of combinations that are too many for a table.
func (g *Groups) numberedByMap(code func(at int) uint64, keys uint64) (combined []uint64, number func(uint32)) {
	known := map[uint64]uint32{}
	for at, leaf := range g.leaves {
		of := uint64(leaf)*keys + code(at)
		if _, ok := known[of]; !ok {
			known[of] = 0
			combined = append(combined, of)
		}
	}
	slices.Sort(combined)
	for place, of := range combined {
		known[of] = uint32(place)
	}
	return combined, func(uint32) {
		for at, leaf := range g.leaves {
			g.leaves[at] = known[uint64(leaf)*keys+code(at)]
		}
	}
}
