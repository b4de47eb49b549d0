package frame

import (
	"math"
	"math/bits"
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// Column is the cells of one column of a batch, as narrow as they are: whole
// numbers of 8 to 64 bits, or texts, by code where they repeat. It is not changed
// once it is made, and may be read by several goroutines.
type Column struct {
	Stats Stats
	Nulls []bool   // which cells have no value; nil when all have one
	Texts []string // of a text column: the different texts where it is coded, otherwise one for each row
	Coded bool     // the whole numbers are places in Texts

	rows   int
	bits8  []int8 // one of the four widths has the cells, unless texts stand one by one or cells are wide
	bits16 []int16
	bits32 []int32
	bits64 []int64
	wide   []decimal128.Num // of figures with more than 18 digits; kept rows have none
	bytes  int
	loose  bool // nobody looked through the cells: nothing is known of them
}

// Stats tell what a column of a batch holds without its cells, so that a batch
// without rows that are sought need not be read.
type Stats struct {
	Nulls    int    `json:"nulls,omitempty"`
	Least    int64  `json:"least,omitempty"` // of all but texts; 0 where no cell has a value
	Greatest int64  `json:"greatest,omitempty"`
	First    string `json:"first,omitempty"` // the least text by its bytes, and the greatest
	Last     string `json:"last,omitempty"`
	Sorted   bool   `json:"sorted,omitempty"` // every cell has a value, none less than the one before
	High     int64  `json:"high,omitempty"`   // the sum of all but texts, in two words
	Low      uint64 `json:"low,omitempty"`
}

// Sum returns the sum of the cells.
func (s Stats) Sum() decimal128.Num { return decimal128.New(s.High, s.Low) }

// Rows returns the number of cells.
func (c *Column) Rows() int { return c.rows }

// Bytes returns about how much memory the cells take.
func (c *Column) Bytes() int { return c.bytes }

// Null tells whether the cell has no value.
func (c *Column) Null(row int) bool { return c.Nulls != nil && c.Nulls[row] }

// Int returns a cell that is not text, or the code of one that is; see [Batch.Int].
func (c *Column) Int(row int) int64 {
	switch {
	case c.bits8 != nil:
		return int64(c.bits8[row])
	case c.bits32 != nil:
		return int64(c.bits32[row])
	case c.bits16 != nil:
		return int64(c.bits16[row])
	}
	return c.bits64[row]
}

// Text returns the cell of a text column; "" where there is no value.
func (c *Column) Text(row int) string {
	switch {
	case !c.Coded:
		return c.Texts[row]
	case c.Null(row):
		return ""
	}
	return c.Texts[c.Int(row)]
}

// Value returns a cell with the type that its field gives it.
func (c *Column) Value(field Field, row int) Value {
	out := Value{Kind: field.Kind, Grain: field.Grain}
	switch {
	case c.Null(row):
		out.Null = true
	case field.Kind == Text:
		out.Text = c.Text(row)
	default:
		out.Number = Number{c.Digits(row), field.Scale}
		out.Text = field.nameOf(out.Int())
	}
	return out
}

// Digits returns the cell of a column that is not text, however wide.
func (c *Column) Digits(row int) decimal128.Num {
	if c.wide != nil {
		return c.wide[row]
	}
	return decimal128.FromI64(c.Int(row))
}

// Ints returns all cells with 64 bits each. Where they are narrower they are written
// to room, which grows as is needed and may be used again; nil makes room. They are not
// to be changed. Those without a value are 0.
func (c *Column) Ints(room *[]int64) []int64 {
	switch {
	case c.bits8 != nil:
		return widened(room, c.bits8)
	case c.bits16 != nil:
		return widened(room, c.bits16)
	case c.bits32 != nil:
		return widened(room, c.bits32)
	}
	return c.bits64
}

// Codes returns the places of all cells in the texts, as [Column.Ints] does.
func (c *Column) Codes(room *[]int32) []int32 {
	switch {
	case c.bits8 != nil:
		return widened(room, c.bits8)
	case c.bits16 != nil:
		return widened(room, c.bits16)
	}
	return c.bits32
}

func widened[T int32 | int64, F int8 | int16 | int32](room *[]T, cells []F) []T {
	if room == nil {
		room = new([]T)
	}
	if cap(*room) < len(cells) {
		*room = make([]T, len(cells))
	}
	out := (*room)[:len(cells)]
	for i, x := range cells {
		out[i] = T(x)
	}
	return out
}

// Bound returns a number that no cell is farther from 0 than; it is at least 1.
func (c *Column) Bound() uint64 {
	if c.loose {
		return farthest(c.bits64)
	}
	return c.Stats.Bound()
}

// Bound returns a number that no cell is farther from 0 than; it is at least 1.
func (s Stats) Bound() uint64 {
	return max(uint64(max(s.Greatest, 0)), -uint64(min(s.Least, 0)), 1)
}

// Vector returns the cells for computing, with 64 bits each.
func (c *Column) Vector() *Vector {
	v := &Vector{Nulls: c.Nulls, Texts: c.Texts, Wide: c.wide}
	if !c.loose {
		v.bound = c.Bound()
	}
	switch {
	case c.wide != nil:
	case c.Coded:
		v.Codes = c.Codes(nil)
	case c.Texts == nil:
		v.Ints = c.Ints(nil)
	}
	return v
}

// gathered takes cells as they are, without looking through them: to be read once.
func gathered(v Vector) *Column {
	c := &Column{Nulls: v.Nulls, Texts: v.Texts, bits64: v.Ints, rows: max(len(v.Ints), len(v.Texts)), loose: true}
	if !slices.Contains(v.Nulls, true) {
		c.Nulls = nil
	}
	return c
}

// ColumnOf keeps computed cells as narrow as they are. It makes them its own.
func ColumnOf(v Vector) *Column {
	c := &Column{Nulls: v.Nulls, Texts: v.Texts}
	switch {
	case v.Wide != nil:
		c.wide, c.rows = v.Wide, len(v.Wide)
	case v.Codes != nil:
		c.Coded, c.rows = true, len(v.Codes)
		c.narrowCodes(cleared(v.Codes, v.Nulls)) // so that no code is outside the texts
	case v.Texts != nil:
		c.rows = len(v.Texts)
	default:
		c.rows = len(v.Ints)
		c.narrow(v.Ints)
	}
	c.measure()
	return c
}

// narrow takes cells in the least width that holds them.
func (c *Column) narrow(cells []int64) {
	least, greatest := extent(cells)
	switch {
	case least >= math.MinInt8 && greatest <= math.MaxInt8:
		c.bits8 = narrow[int8](cells)
	case least >= math.MinInt16 && greatest <= math.MaxInt16:
		c.bits16 = narrow[int16](cells)
	case least >= math.MinInt32 && greatest <= math.MaxInt32:
		c.bits32 = narrow[int32](cells)
	default:
		c.bits64 = cells
	}
}

func (c *Column) narrowCodes(codes []int32) {
	switch {
	case len(c.Texts) <= math.MaxInt8+1:
		c.bits8 = narrow[int8](codes)
	case len(c.Texts) <= math.MaxInt16+1:
		c.bits16 = narrow[int16](codes)
	default:
		c.bits32 = codes
	}
}

// extent returns the least and the greatest of the cells and 0.
func extent[T int8 | int16 | int32 | int64](cells []T) (least, greatest int64) {
	low, high := T(0), T(0)
	for _, x := range cells {
		low, high = min(low, x), max(high, x)
	}
	return int64(low), int64(high)
}

// measure settles the stats of the cells and how much memory they take.
func (c *Column) measure() {
	for _, null := range c.Nulls {
		if null {
			c.Stats.Nulls++
		}
	}
	if c.Stats.Nulls == 0 {
		c.Nulls = nil
	}
	c.weigh()
	if c.Stats.Nulls == c.rows && c.Texts == nil {
		return
	}
	switch {
	case c.Texts != nil:
		c.measureTexts()
	case c.bits8 != nil:
		measureInts(c, c.bits8)
	case c.bits16 != nil:
		measureInts(c, c.bits16)
	case c.bits32 != nil:
		measureInts(c, c.bits32)
	case c.bits64 != nil:
		measureInts(c, c.bits64)
	}
}

// weigh settles how much memory the cells take.
func (c *Column) weigh() {
	c.bytes = len(c.Nulls) + len(c.bits8) + 2*len(c.bits16) + 4*len(c.bits32) + 8*len(c.bits64) + 16*len(c.wide)
	for _, t := range c.Texts {
		c.bytes += 16 + len(t)
	}
}

func measureInts[T int8 | int16 | int32 | int64](c *Column, cells []T) {
	c.add(total(cells))
	if c.Nulls == nil {
		low, high, falls := cells[0], cells[0], false
		before := cells[0]
		for _, x := range cells {
			low, high = min(low, x), max(high, x)
			falls = falls || x < before
			before = x
		}
		c.Stats.Least, c.Stats.Greatest, c.Stats.Sorted = int64(low), int64(high), !falls
		return
	}
	first := true
	for r, x := range cells {
		switch {
		case c.Nulls[r]:
		case first:
			c.Stats.Least, c.Stats.Greatest, first = int64(x), int64(x), false
		default:
			c.Stats.Least, c.Stats.Greatest = min(c.Stats.Least, int64(x)), max(c.Stats.Greatest, int64(x))
		}
	}
}

// total adds up cells in two words: those without a value are 0.
func total[T int8 | int16 | int32 | int64](cells []T) (high int64, low uint64) {
	for part := range slices.Chunk(cells, 1<<16) { // of narrower cells no part leaves one word
		near, wide := int64(0), false
		for _, x := range part {
			near += int64(x)
			wide = wide || int64(x) != int64(int32(x))
		}
		if !wide {
			high, low = plus(high, low, near)
			continue
		}
		for _, x := range part {
			high, low = plus(high, low, int64(x))
		}
	}
	return high, low
}

// plus adds a number to two words.
func plus(high int64, low uint64, x int64) (int64, uint64) {
	low, carry := bits.Add64(low, uint64(x), 0)
	return high + x>>63 + int64(carry), low
}

func (c *Column) add(high int64, low uint64) { c.Stats.High, c.Stats.Low = high, low }

func (c *Column) measureTexts() {
	first := true
	for r, t := range c.Texts {
		switch {
		case !c.Coded && c.Null(r):
		case first:
			c.Stats.First, c.Stats.Last, first = t, t, false
		default:
			c.Stats.First, c.Stats.Last = min(c.Stats.First, t), max(c.Stats.Last, t)
		}
	}
	c.Stats.Sorted = c.Nulls == nil
	for r := 1; r < c.rows && c.Stats.Sorted; r++ {
		c.Stats.Sorted = c.Coded && c.Int(r) == c.Int(r-1) || c.Text(r-1) <= c.Text(r)
	}
}
