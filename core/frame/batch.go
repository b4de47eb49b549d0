package frame

import (
	"fmt"
	"slices"

	"github.com/apache/arrow-go/v18/arrow"
)

// Batch is a run of rows, decoded for reading.
type Batch struct {
	Rows    int
	schema  Schema
	columns []Vector
	bytes   int
}

// NewBatch decodes an Arrow record of the given schema.
func NewBatch(schema Schema, record arrow.RecordBatch) (*Batch, error) {
	if int(record.NumCols()) != len(schema) {
		return nil, fmt.Errorf("frame: record has %d columns, the schema %d", record.NumCols(), len(schema))
	}
	b := &Batch{Rows: int(record.NumRows()), schema: schema, columns: make([]Vector, len(schema))}
	for i, field := range schema {
		if err := b.columns[i].decode(record.Column(i)); err != nil {
			return nil, fmt.Errorf("frame: column %s: %w", field.Name, err)
		}
		b.bytes += b.columns[i].size()
	}
	return b, nil
}

// Bytes returns about how much memory the batch takes.
func (b *Batch) Bytes() int { return b.bytes }

// Schema returns the batch's columns.
func (b *Batch) Schema() Schema { return b.schema }

// Null tells whether the cell has no value.
func (b *Batch) Null(col, row int) bool {
	return b.columns[col].Null(row)
}

// Text returns the cell of a text column; "" where there is no value.
func (b *Batch) Text(col, row int) string { return b.columns[col].Text(row) }

// Int returns the cell of a column that is not text as an int64: an integer,
// the unscaled digits of a decimal, days or microseconds since 1970-01-01, or
// 1 for yes.
func (b *Batch) Int(col, row int) int64 { return b.columns[col].Ints[row] }

// Value returns any cell with its type.
func (b *Batch) Value(col, row int) Value { return b.columns[col].Value(b.schema[col], row) }

// Vector returns a column of the batch. Its cells may be shared and are not to
// be changed.
func (b *Batch) Vector(col int) *Vector { return &b.columns[col] }

// With returns a batch that has further columns; the cells are shared.
func (b *Batch) With(fields Schema, vectors []Vector) *Batch {
	out := &Batch{Rows: b.Rows, schema: slices.Concat(b.schema, fields), columns: slices.Concat(b.columns, vectors), bytes: b.bytes}
	for i := range vectors {
		out.bytes += vectors[i].size()
	}
	return out
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
	out := &Batch{Rows: len(numbers), schema: make(Schema, len(columns)), columns: make([]Vector, len(columns))}
	for i, c := range columns {
		out.schema[i] = f.schema[c]
		if f.schema[c].Kind == Text {
			out.columns[i].Texts = make([]string, len(numbers))
		} else {
			out.columns[i].Ints = make([]int64, len(numbers))
		}
	}
	loaded := make([]*Batch, f.Batches())
	for _, number := range numbers {
		at := int(number) / f.size
		if loaded[at] == nil {
			var err error
			if loaded[at], err = f.load(at); err != nil {
				return nil, err
			}
		}
	}
	gather := func(_, i int) error {
		out.columns[i].gather(loaded, columns[i], numbers, f.size)
		return nil
	}
	if len(numbers) >= manyRows {
		return out, spread(len(columns), gather)
	}
	for i := range columns {
		_ = gather(0, i)
	}
	return out, nil
}

// manyRows is from how many rows on columns are gathered at the same time.
const manyRows = 4096

// gather copies the cells of rows out of batches of so many rows.
func (v *Vector) gather(from []*Batch, col int, numbers []uint32, size int) {
	for row, number := range numbers {
		c, at := &from[int(number)/size].columns[col], int(number)%size
		switch {
		case c.Nulls != nil && c.Nulls[at]:
			if v.Nulls == nil {
				v.Nulls = make([]bool, len(numbers))
			}
			v.Nulls[row] = true
		case v.Ints != nil:
			v.Ints[row] = c.Ints[at]
		case c.Codes != nil:
			v.Texts[row] = c.Texts[c.Codes[at]]
		default:
			v.Texts[row] = c.Texts[at]
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

// Spread returns a batch of a wider schema in which column places[i] is the
// i-th column of b; the others have no cells.
func (b *Batch) Spread(places []int, schema Schema) *Batch {
	out := &Batch{Rows: b.Rows, schema: schema, columns: make([]Vector, len(schema)), bytes: b.bytes}
	for i, at := range places {
		out.columns[at] = b.columns[i]
	}
	return out
}

// Columns makes a batch of vectors with so many cells each.
func Columns(schema Schema, vectors []Vector, rows int) *Batch {
	return &Batch{Rows: rows, schema: schema, columns: vectors}
}
