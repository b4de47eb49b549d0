package frame

import (
	"encoding/binary"
	"fmt"
	"math"
	"strconv"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal"
	"github.com/apache/arrow-go/v18/arrow/memory"
)

// BatchRows is how many rows a kept batch has: large enough for columns to be
// quick to scan, small enough that one page needs little to be decoded.
const BatchRows = 1 << 16

// Builder collects rows and hands them on as Arrow records of a fixed number
// of rows. Set every column of a row, then call [Builder.EndRow].
type Builder struct {
	schema  Schema
	size    int
	rows    int
	total   int64
	emit    func(arrow.RecordBatch) error
	columns []columnBuilder
}

type columnBuilder struct {
	field Field
	valid []bool
	ints  []int64
	codes []int32
	known map[string]int32
	texts []string
	memo  []int32 // by a hash of a text's end, its code and one more; see code
}

// memoSize is how many texts of a column are found again without the map.
const memoSize = 1 << 13

// NewBuilder makes a builder that calls emit with each record of size rows,
// and with the rest on [Builder.Close].
func NewBuilder(schema Schema, size int, emit func(arrow.RecordBatch) error) *Builder {
	b := &Builder{schema: schema, size: size, emit: emit, columns: make([]columnBuilder, len(schema))}
	for i, f := range schema {
		b.columns[i].field = f
		b.columns[i].reset(size)
	}
	return b
}

func (c *columnBuilder) reset(size int) {
	if c.valid == nil {
		c.valid = make([]bool, size)
		if c.field.Kind == Text {
			c.codes = make([]int32, size)
			c.memo = make([]int32, memoSize)
		} else {
			c.ints = make([]int64, size)
		}
	}
	clear(c.valid)
	clear(c.memo)
	c.texts = c.texts[:0:0]
	c.known = make(map[string]int32, min(2*len(c.known), size))
}

// Text sets a text cell of the row under way; the bytes are copied.
func (b *Builder) Text(col int, text []byte) {
	c := &b.columns[col]
	c.codes[b.rows], c.valid[b.rows] = c.code(text), true
}

// code returns the code of a text within the batch. Looking every cell up in
// the map took a quarter of a capture; most texts are found by their last
// eight bytes in a table instead.
func (c *columnBuilder) code(text []byte) int32 {
	var end [8]byte
	copy(end[:], text[max(len(text)-8, 0):])
	slot := &c.memo[(binary.LittleEndian.Uint64(end[:])+uint64(len(text)))*0x9e3779b97f4a7c15>>(64-13)]
	if *slot > 0 && c.texts[*slot-1] == string(text) {
		return *slot - 1
	}
	code, ok := c.known[string(text)]
	if !ok {
		code = int32(len(c.texts))
		s := string(text)
		c.texts = append(c.texts, s)
		c.known[s] = code
	}
	*slot = code + 1
	return code
}

// Int sets a cell of any other kind of the row under way; see [Batch.Int] for
// what the number means. It returns an error when a decimal has too many
// digits.
func (b *Builder) Int(col int, v int64) error {
	c := &b.columns[col]
	if (c.field.Kind == Decimal || c.field.Kind == Money) && !FitsDigits(v) {
		return fmt.Errorf("column %s: %d has more than %d digits", c.field.Name, v, MaxDigits)
	}
	c.ints[b.rows], c.valid[b.rows] = v, true
	return nil
}

// EndRow completes the row under way; cells that were not set have no value.
func (b *Builder) EndRow() error {
	b.rows++
	b.total++
	if b.rows == b.size {
		return b.flush()
	}
	return nil
}

// Rows returns how many rows were completed so far.
func (b *Builder) Rows() int64 { return b.total }

// Close hands on the rows that have not been handed on yet.
func (b *Builder) Close() error {
	if b.rows == 0 {
		return nil
	}
	return b.flush()
}

func (b *Builder) flush() error {
	arrays := make([]arrow.Array, len(b.columns))
	fields := make([]arrow.Field, len(b.columns))
	for i := range b.columns {
		arrays[i] = b.columns[i].build(b.rows)
		fields[i] = arrowField(b.columns[i].field, arrays[i].DataType())
	}
	record := array.NewRecordBatch(arrow.NewSchema(fields, nil), arrays, int64(b.rows))
	for i := range b.columns {
		b.columns[i].reset(b.size)
	}
	b.rows = 0
	return b.emit(record)
}

// build makes the Arrow array of the first rows cells, of the narrowest type
// that holds them: there is less to compress and to keep.
func (c *columnBuilder) build(rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	if c.field.Kind == Text {
		return c.buildText(rows)
	}
	ints := c.ints[:rows]
	low, high := settle(ints, valid)
	switch c.field.Kind {
	case Decimal, Money:
		if low > -limit32 && high < limit32 {
			a := array.NewDecimal32Builder(mem, &arrow.Decimal32Type{Precision: digits32, Scale: c.field.Scale})
			a.AppendValues(narrow[decimal.Decimal32](ints), valid)
			return a.NewArray()
		}
		a := array.NewDecimal64Builder(mem, &arrow.Decimal64Type{Precision: MaxDigits, Scale: c.field.Scale})
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
func (c *columnBuilder) buildText(rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	texts := array.NewStringBuilder(mem)
	if len(c.texts)*2 <= rows {
		texts.AppendStringValues(c.texts, nil)
		low, high := settle(c.codes[:rows], valid)
		codes := whole(c.codes[:rows], low, high, valid)
		return array.NewDictionaryArray(&arrow.DictionaryType{
			IndexType: codes.DataType(),
			ValueType: arrow.BinaryTypes.String,
		}, codes, texts.NewArray())
	}
	for i := range rows {
		if valid[i] {
			texts.Append(c.texts[c.codes[i]])
		} else {
			texts.AppendNull()
		}
	}
	return texts.NewArray()
}

// arrowField carries what Arrow's own types do not say as field metadata.
func arrowField(f Field, t arrow.DataType) arrow.Field {
	meta := arrow.NewMetadata([]string{"kind", "scale", "currency"},
		[]string{f.Kind.String(), strconv.Itoa(int(f.Scale)), f.Currency})
	return arrow.Field{Name: f.Name, Type: t, Nullable: true, Metadata: meta}
}

// SchemaOf reads a schema back from a record that a [Builder] made.
func SchemaOf(s *arrow.Schema) (Schema, error) {
	out := make(Schema, s.NumFields())
	for i, f := range s.Fields() {
		name, _ := f.Metadata.GetValue("kind")
		kind, err := KindNamed(name)
		if err != nil {
			return nil, fmt.Errorf("frame: column %s: %w", f.Name, err)
		}
		places, _ := f.Metadata.GetValue("scale")
		scale, err := strconv.Atoi(places)
		if err != nil {
			return nil, fmt.Errorf("frame: column %s: scale %q is not a number", f.Name, places)
		}
		currency, _ := f.Metadata.GetValue("currency")
		out[i] = Field{Name: f.Name, Kind: kind, Scale: int32(scale), Currency: currency}
	}
	return out, nil
}
