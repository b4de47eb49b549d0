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
	out := &Batch{
		Rows:    b.Rows,
		schema:  slices.Concat(b.schema, fields),
		columns: slices.Concat(b.columns, vectors),
		bytes:   b.bytes,
	}
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
	if len(numbers) < manyRows {
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
			for i, c := range columns {
				out.columns[i].set(row, &b.columns[c], int(number)%f.size)
			}
		}
		return out, nil
	}
	return out, f.takeMany(out, numbers, columns)
}

// manyRows is from how many rows on rows are gathered batch by batch.
const manyRows = 4096

// takeMany gathers rows so that every batch is loaded once and not held on to:
// the rows of a frame that is larger than memory may stand in any order.
func (f *Frame) takeMany(out *Batch, numbers []uint32, columns []int) error {
	of := make([]uint32, len(numbers))
	for i, number := range numbers {
		of[i] = number / uint32(f.size)
	}
	starts := offsets(of, f.Batches())
	next, rows := slices.Clone(starts), make([]uint32, len(numbers))
	for row, batch := range of {
		rows[next[batch]] = uint32(row)
		next[batch]++
	}
	for i := range out.columns {
		out.columns[i].Nulls = make([]bool, len(numbers))
	}
	err := spread(f.Batches(), func(_, batch int) error {
		own := rows[starts[batch]:starts[batch+1]]
		if len(own) == 0 {
			return nil
		}
		b, err := f.load(batch)
		if err != nil {
			return err
		}
		for i, c := range columns {
			from, to := &b.columns[c], &out.columns[i]
			for _, row := range own {
				to.set(int(row), from, int(numbers[row])%f.size)
			}
		}
		return nil
	})
	for i := range out.columns {
		if !slices.Contains(out.columns[i].Nulls, true) {
			out.columns[i].Nulls = nil
		}
	}
	return err
}

// set copies a cell of another vector of the same kind.
func (v *Vector) set(row int, from *Vector, at int) {
	switch {
	case from.Nulls != nil && from.Nulls[at]:
		if v.Nulls == nil {
			v.Nulls = make([]bool, max(len(v.Ints), len(v.Texts)))
		}
		v.Nulls[row] = true
	case v.Ints != nil:
		v.Ints[row] = from.Ints[at]
	case from.Codes != nil:
		v.Texts[row] = from.Texts[from.Codes[at]]
	default:
		v.Texts[row] = from.Texts[at]
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
