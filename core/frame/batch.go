package frame

import (
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
)

// Batch is a run of rows, decoded for reading.
type Batch struct {
	Rows    int
	schema  Schema
	columns []column
	bytes   int
}

// column is one decoded column. Everything but text is an int64: an integer,
// the unscaled digits of a decimal, days or microseconds since 1970, or 0 and 1.
// Text is held by code where values repeat; codes is nil where they do not.
type column struct {
	nulls []bool // nil when there is none
	ints  []int64
	codes []int32
	texts []string
}

// NewBatch decodes an Arrow record of the given schema.
func NewBatch(schema Schema, record arrow.RecordBatch) (*Batch, error) {
	if int(record.NumCols()) != len(schema) {
		return nil, fmt.Errorf("frame: record has %d columns, the schema %d", record.NumCols(), len(schema))
	}
	b := &Batch{Rows: int(record.NumRows()), schema: schema, columns: make([]column, len(schema))}
	for i, field := range schema {
		if err := b.columns[i].decode(record.Column(i)); err != nil {
			return nil, fmt.Errorf("frame: column %s: %w", field.Name, err)
		}
		b.bytes += b.columns[i].size()
	}
	return b, nil
}

func (c *column) decode(a arrow.Array) error {
	if a.NullN() > 0 {
		c.nulls = make([]bool, a.Len())
		for i := range c.nulls {
			c.nulls[i] = a.IsNull(i)
		}
	}
	switch a := a.(type) {
	case *array.String:
		c.texts = textsOf(a)
	case *array.Dictionary:
		texts, ok := a.Dictionary().(*array.String)
		if !ok {
			return fmt.Errorf("dictionary of %s is not one of text", a.DataType())
		}
		c.texts = textsOf(texts)
		switch codes := a.Indices().(type) {
		case *array.Int8:
			c.codes = widen[int32](codes.Int8Values())
		case *array.Int16:
			c.codes = widen[int32](codes.Int16Values())
		case *array.Int32:
			c.codes = codes.Int32Values()
		default:
			return fmt.Errorf("dictionary codes of %s are not known", a.DataType())
		}
	case *array.Int8:
		c.ints = widen[int64](a.Int8Values())
	case *array.Int16:
		c.ints = widen[int64](a.Int16Values())
	case *array.Int32:
		c.ints = widen[int64](a.Int32Values())
	case *array.Int64:
		c.ints = a.Int64Values()
	case *array.Decimal32:
		c.ints = widen[int64](a.Values())
	case *array.Decimal64:
		c.ints = widen[int64](a.Values())
	case *array.Date32:
		c.ints = widen[int64](a.Date32Values())
	case *array.Timestamp:
		c.ints = widen[int64](a.TimestampValues())
	case *array.Boolean:
		c.ints = make([]int64, a.Len())
		for i := range c.ints {
			if a.Value(i) {
				c.ints[i] = 1
			}
		}
	default:
		return fmt.Errorf("an Arrow array of %s has no column type", a.DataType())
	}
	return nil
}

func widen[T int32 | int64, F ~int8 | ~int16 | ~int32 | ~int64](cells []F) []T {
	out := make([]T, len(cells))
	for i, c := range cells {
		out[i] = T(c)
	}
	return out
}

func textsOf(a *array.String) []string {
	texts := make([]string, a.Len())
	for i := range texts {
		texts[i] = a.Value(i)
	}
	return texts
}

func (c *column) size() int {
	n := len(c.nulls) + 8*len(c.ints) + 4*len(c.codes) + 16*len(c.texts)
	for _, t := range c.texts {
		n += len(t)
	}
	return n
}

// Bytes returns about how much memory the batch takes.
func (b *Batch) Bytes() int { return b.bytes }

// Schema returns the batch's columns.
func (b *Batch) Schema() Schema { return b.schema }

// Null tells whether the cell has no value.
func (b *Batch) Null(col, row int) bool {
	return b.columns[col].nulls != nil && b.columns[col].nulls[row]
}

// Text returns the cell of a text column; "" where there is no value.
func (b *Batch) Text(col, row int) string {
	c := &b.columns[col]
	if c.codes == nil {
		return c.texts[row]
	}
	if c.nulls != nil && c.nulls[row] {
		return ""
	}
	return c.texts[c.codes[row]]
}

// Int returns the cell of a column that is not text as an int64: an integer,
// the unscaled digits of a decimal, days or microseconds since 1970-01-01, or
// 1 for yes.
func (b *Batch) Int(col, row int) int64 { return b.columns[col].ints[row] }

// Value returns any cell with its type.
func (b *Batch) Value(col, row int) Value {
	field := b.schema[col]
	if b.Null(col, row) {
		return Value{Kind: field.Kind, Null: true}
	}
	if field.Kind == Text {
		return Value{Kind: Text, Text: b.Text(col, row)}
	}
	return Value{Kind: field.Kind, Number: Exact(b.Int(col, row), field.Scale)}
}

// Take gathers the rows with these numbers, in this order, into one batch.
// Columns are places in the frame's schema; nil takes all of them. It returns
// an error when a batch cannot be loaded.
func (f *Frame) Take(numbers []uint32, columns []int) (*Batch, error) {
	if columns == nil {
		columns = make([]int, len(f.schema))
		for i := range columns {
			columns[i] = i
		}
	}
	out := &Batch{Rows: len(numbers), schema: make(Schema, len(columns)), columns: make([]column, len(columns))}
	for i, c := range columns {
		out.schema[i] = f.schema[c]
		if f.schema[c].Kind == Text {
			out.columns[i].texts = make([]string, len(numbers))
		} else {
			out.columns[i].ints = make([]int64, len(numbers))
		}
	}
	loaded := map[int]*Batch{}
	for row, number := range numbers {
		at := int(number) / f.size
		b := loaded[at]
		if b == nil {
			var err error
			if b, err = f.load(at); err != nil {
				return nil, err
			}
			loaded[at] = b
		}
		out.copyRow(row, b, int(number)%f.size, columns)
	}
	return out, nil
}

func (b *Batch) copyRow(row int, from *Batch, at int, columns []int) {
	for i, c := range columns {
		to := &b.columns[i]
		switch {
		case from.Null(c, at):
			if to.nulls == nil {
				to.nulls = make([]bool, b.Rows)
			}
			to.nulls[row] = true
		case to.texts != nil:
			to.texts[row] = from.Text(c, at)
		default:
			to.ints[row] = from.columns[c].ints[at]
		}
	}
}

// Columns returns a batch of only these columns that shares the memory of b.
func (b *Batch) Columns(columns []int) *Batch {
	out := &Batch{Rows: b.Rows}
	for _, c := range columns {
		out.schema = append(out.schema, b.schema[c])
		out.columns = append(out.columns, b.columns[c])
	}
	return out
}
