package frame

import (
	"encoding/binary"
	"math"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal"
	"github.com/apache/arrow-go/v18/arrow/memory"
)

// cells are what came in for a column of one batch, to be made an Arrow array: that
// costs more than taking them in, and may go on elsewhere meanwhile.
type cells struct {
	valid        []bool
	ints         []int64
	texts        []byte   // one after the other
	starts, ends []uint32 // by row, where its text stands
}

func newCells(schema Schema, size int) []cells {
	out := make([]cells, len(schema))
	for i, f := range schema {
		out[i].valid = make([]bool, size)
		if f.Kind == Text {
			out[i].starts, out[i].ends = make([]uint32, size), make([]uint32, size)
		} else {
			out[i].ints = make([]int64, size)
		}
	}
	return out
}

// build makes the Arrow array of the first rows cells, of the narrowest type
// that holds them: there is less to compress and to keep.
func (c *cells) build(field Field, rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	if field.Kind == Text {
		return c.buildText(rows)
	}
	ints := c.ints[:rows]
	low, high := settle(ints, valid)
	switch field.Kind {
	case Decimal, Money:
		if low > -limit32 && high < limit32 {
			a := array.NewDecimal32Builder(mem, &arrow.Decimal32Type{Precision: digits32, Scale: field.Scale})
			a.AppendValues(narrow[decimal.Decimal32](ints), valid)
			return a.NewArray()
		}
		a := array.NewDecimal64Builder(mem, &arrow.Decimal64Type{Precision: MaxDigits, Scale: field.Scale})
		a.AppendValues(narrow[decimal.Decimal64](ints), valid)
		return a.NewArray()
	case Date:
		a := array.NewDate32Builder(mem)
		a.AppendValues(narrow[arrow.Date32](ints), valid)
		return a.NewArray()
	case Timestamp:
		a := array.NewTimestampBuilder(mem, &arrow.TimestampType{Unit: arrow.Microsecond, TimeZone: "UTC"})
		a.AppendValues(narrow[arrow.Timestamp](ints), valid)
		return a.NewArray()
	case Flag:
		a := array.NewBooleanBuilder(mem)
		values := make([]bool, rows)
		for i := range values {
			values[i] = ints[i] != 0
		}
		a.AppendValues(values, valid)
		return a.NewArray()
	}
	return whole(ints, low, high, valid)
}

// What a 32-bit decimal holds.
const (
	digits32 = 9
	limit32  = 1_000_000_000
)

// settle clears the cells without a value and returns the smallest and the
// largest of all.
func settle[T int32 | int64](cells []T, valid []bool) (low, high T) {
	for i, ok := range valid {
		if !ok {
			cells[i] = 0
		}
		low, high = min(low, cells[i]), max(high, cells[i])
	}
	return low, high
}

// whole makes an array of whole numbers between low and high.
func whole[T int32 | int64](cells []T, low, high T, valid []bool) arrow.Array {
	mem := memory.DefaultAllocator
	switch {
	case int64(low) >= math.MinInt8 && int64(high) <= math.MaxInt8:
		a := array.NewInt8Builder(mem)
		a.AppendValues(narrow[int8](cells), valid)
		return a.NewArray()
	case int64(low) >= math.MinInt16 && int64(high) <= math.MaxInt16:
		a := array.NewInt16Builder(mem)
		a.AppendValues(narrow[int16](cells), valid)
		return a.NewArray()
	case int64(low) >= math.MinInt32 && int64(high) <= math.MaxInt32:
		a := array.NewInt32Builder(mem)
		a.AppendValues(narrow[int32](cells), valid)
		return a.NewArray()
	}
	a := array.NewInt64Builder(mem)
	a.AppendValues(narrow[int64](cells), valid)
	return a.NewArray()
}

func narrow[T ~int8 | ~int16 | ~int32 | ~int64, F int32 | int64](cells []F) []T {
	out := make([]T, len(cells))
	for i, c := range cells {
		out[i] = T(c)
	}
	return out
}

// buildText keeps repeating texts by code and others as they are.
func (c *cells) buildText(rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	d := newCoder()
	codes := make([]int32, rows)
	for i, ok := range valid {
		if ok {
			codes[i] = d.code(c.texts[c.starts[i]:c.ends[i]])
		}
	}
	texts := array.NewStringBuilder(mem)
	if len(d.texts)*2 <= rows {
		texts.AppendStringValues(d.texts, nil)
		low, high := settle(codes, valid)
		coded := whole(codes, low, high, valid)
		return array.NewDictionaryArray(&arrow.DictionaryType{
			IndexType: coded.DataType(),
			ValueType: arrow.BinaryTypes.String,
		}, coded, texts.NewArray())
	}
	for i, ok := range valid {
		if ok {
			texts.Append(d.texts[codes[i]])
		} else {
			texts.AppendNull()
		}
	}
	return texts.NewArray()
}

// coder numbers the texts of a batch in the order in which they first come.
type coder struct {
	known map[string]int32
	texts []string
	memo  []int32 // by a hash of a text's end, its code and one more; see code
}

// memoSize is how many texts of a column are found again without the map.
const memoSize = 1 << 13

func newCoder() *coder {
	return &coder{known: map[string]int32{}, memo: make([]int32, memoSize)}
}

// code returns the code of a text. Looking every cell up in the map took a quarter of
// a capture; most texts are found by their last eight bytes in a table instead.
func (d *coder) code(text []byte) int32 {
	var end [8]byte
	copy(end[:], text[max(len(text)-8, 0):])
	slot := &d.memo[(binary.LittleEndian.Uint64(end[:])+uint64(len(text)))*0x9e3779b97f4a7c15>>(64-13)]
	if *slot > 0 && d.texts[*slot-1] == string(text) {
		return *slot - 1
	}
	code, ok := d.known[string(text)]
	if !ok {
		code = int32(len(d.texts))
		s := string(text)
		d.texts = append(d.texts, s)
		d.known[s] = code
	}
	*slot = code + 1
	return code
}
