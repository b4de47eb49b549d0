package frame

// Batch is a run of rows with the columns that were asked for; the others have no
// cells.
type Batch struct {
	Rows    int
	schema  Schema
	columns []*Column
}

// Columns makes a batch of computed cells.
func Columns(schema Schema, vectors []Vector, rows int) *Batch {
	b := &Batch{Rows: rows, schema: schema}
	for _, v := range vectors {
		b.columns = append(b.columns, ColumnOf(v))
	}
	return b
}

// Gathered makes a batch of cells that are read once, each a text or a number of 64
// bits, without finding out what [Stats] tell.
func Gathered(schema Schema, vectors []Vector, rows int) *Batch {
	b := &Batch{Rows: rows, schema: schema}
	for _, v := range vectors {
		b.columns = append(b.columns, gathered(v))
	}
	return b
}

// Schema returns the batch's columns.
func (b *Batch) Schema() Schema { return b.schema }

// Null tells whether the cell has no value.
func (b *Batch) Null(col, row int) bool { return b.columns[col].Null(row) }

// Text returns the cell of a text column; "" where there is no value.
func (b *Batch) Text(col, row int) string { return b.columns[col].Text(row) }

// Int returns the cell of a column that is not text as an int64: an integer,
// the unscaled digits of a decimal, days or microseconds since 1970-01-01, or
// 1 for yes.
func (b *Batch) Int(col, row int) int64 { return b.columns[col].Int(row) }

// Value returns any cell with its type.
func (b *Batch) Value(col, row int) Value { return b.columns[col].Value(b.schema[col], row) }

// Column returns a column of the batch.
func (b *Batch) Column(col int) *Column { return b.columns[col] }

// Vector returns the cells of a column for computing. They may be shared and are
// not to be changed.
func (b *Batch) Vector(col int) *Vector { return b.columns[col].Vector() }

// Columns returns a batch of only these columns.
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
	out := &Batch{Rows: b.Rows, schema: schema, columns: make([]*Column, len(schema))}
	for i, at := range places {
		out.columns[at] = b.columns[i]
	}
	return out
}
