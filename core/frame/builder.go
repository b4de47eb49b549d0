package frame

import (
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
	arrow   *arrow.Schema
	size    int
	rows    int
	total   int64
	emit    func(arrow.RecordBatch) error
	columns []columnBuilder
}

type columnBuilder struct {
	field Field
	nulls bool
	valid []bool
	ints  []int64
	codes []int32
	known map[string]int32
	texts []string
}

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
		} else {
			c.ints = make([]int64, size)
		}
	}
	clear(c.valid)
	c.nulls, c.texts = false, c.texts[:0:0]
	c.known = make(map[string]int32, min(2*len(c.known), size))
}

// Text sets a text cell of the row under way; the bytes are copied.
func (b *Builder) Text(col int, text []byte) {
	c := &b.columns[col]
	code, ok := c.known[string(text)]
	if !ok {
		code = int32(len(c.texts))
		s := string(text)
		c.texts = append(c.texts, s)
		c.known[s] = code
	}
	c.codes[b.rows], c.valid[b.rows] = code, true
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

// build makes the Arrow array of the first rows cells.
func (c *columnBuilder) build(rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	switch c.field.Kind {
	case Text:
		return c.buildText(rows)
	case Decimal, Money:
		a := array.NewDecimal64Builder(mem, &arrow.Decimal64Type{Precision: MaxDigits, Scale: c.field.Scale})
		values := make([]decimal.Decimal64, rows)
		for i := range values {
			values[i] = decimal.Decimal64(c.ints[i])
		}
		a.AppendValues(values, valid)
		return a.NewArray()
	case Date:
		a := array.NewDate32Builder(mem)
		values := make([]arrow.Date32, rows)
		for i := range values {
			values[i] = arrow.Date32(c.ints[i])
		}
		a.AppendValues(values, valid)
		return a.NewArray()
	case Timestamp:
		a := array.NewTimestampBuilder(mem, &arrow.TimestampType{Unit: arrow.Microsecond, TimeZone: "UTC"})
		values := make([]arrow.Timestamp, rows)
		for i := range values {
			values[i] = arrow.Timestamp(c.ints[i])
		}
		a.AppendValues(values, valid)
		return a.NewArray()
	case Flag:
		a := array.NewBooleanBuilder(mem)
		values := make([]bool, rows)
		for i := range values {
			values[i] = c.ints[i] != 0
		}
		a.AppendValues(values, valid)
		return a.NewArray()
	}
	a := array.NewInt64Builder(mem)
	a.AppendValues(c.ints[:rows], valid)
	return a.NewArray()
}

// buildText keeps repeating texts by code and others as they are.
func (c *columnBuilder) buildText(rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	texts := array.NewStringBuilder(mem)
	if len(c.texts)*2 <= rows {
		texts.AppendStringValues(c.texts, nil)
		for i := range valid {
			if !valid[i] {
				c.codes[i] = 0
			}
		}
		codes := c.buildCodes(rows)
		return array.NewDictionaryArray(&arrow.DictionaryType{IndexType: codes.DataType(), ValueType: arrow.BinaryTypes.String}, codes, texts.NewArray())
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

// buildCodes makes the array of codes as narrow as they are: there is less to
// compress and to keep.
func (c *columnBuilder) buildCodes(rows int) arrow.Array {
	mem, valid := memory.DefaultAllocator, c.valid[:rows]
	switch {
	case len(c.texts) <= math.MaxInt8:
		a := array.NewInt8Builder(mem)
		a.AppendValues(narrow[int8](c.codes[:rows]), valid)
		return a.NewArray()
	case len(c.texts) <= math.MaxInt16:
		a := array.NewInt16Builder(mem)
		a.AppendValues(narrow[int16](c.codes[:rows]), valid)
		return a.NewArray()
	}
	a := array.NewInt32Builder(mem)
	a.AppendValues(c.codes[:rows], valid)
	return a.NewArray()
}

func narrow[T int8 | int16](codes []int32) []T {
	out := make([]T, len(codes))
	for i, c := range codes {
		out[i] = T(c)
	}
	return out
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
