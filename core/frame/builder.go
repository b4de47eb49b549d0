package frame

import (
	"fmt"
	"strconv"
	"sync"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
)

// BatchRows is how many rows a kept batch has: large enough for columns to be
// quick to scan, small enough that one page needs little to be decoded.
const BatchRows = 1 << 16

// mostText is how many bytes of texts a column holds before a batch is handed on with
// fewer rows.
const mostText = 1 << 26

// Builder collects rows and hands them on as batches of so many rows, or of fewer where
// their texts are long. Set cells of a row, then call [Builder.EndRow].
type Builder struct {
	schema Schema
	size   int
	rows   int
	total  int64
	full   bool // the batch is handed on after this row
	emit   func(*Rows) error
	cells  []cells
	spare  sync.Pool // of cells whose batch was built
}

// Rows are the rows of one batch as they came in.
type Rows struct {
	builder *Builder
	cells   []cells
	rows    int
}

// Len returns how many rows there are.
func (r *Rows) Len() int { return r.rows }

// NewBuilder makes a builder that calls emit with each record of size rows,
// and with the rest on [Builder.Close].
func NewBuilder(schema Schema, size int, emit func(arrow.RecordBatch) error) *Builder {
	return NewRawBuilder(schema, size, func(r *Rows) error { return emit(r.Record()) })
}

// NewRawBuilder makes a builder that leaves it to emit when and where a record is made of
// the rows. Each of them must become one, once.
func NewRawBuilder(schema Schema, size int, emit func(*Rows) error) *Builder {
	b := &Builder{schema: schema, size: size, emit: emit}
	b.spare.New = func() any { made := newCells(schema, size); return &made }
	b.cells = *b.spare.Get().(*[]cells)
	return b
}

// Text sets a text cell of the row under way; the bytes are copied.
func (b *Builder) Text(col int, text []byte) { setText(b, col, 0, text) }

// String sets a text cell of the row under way.
func (b *Builder) String(col int, text string) { setText(b, col, 0, text) }

// StringAt sets a text cell of a row so many behind the one under way, less than [Builder.Room].
func (b *Builder) StringAt(col, behind int, text string) { setText(b, col, behind, text) }

func setText[T []byte | string](b *Builder, col, behind int, text T) {
	c, row := &b.cells[col], b.rows+behind
	c.valid[row], c.starts[row] = true, uint32(len(c.texts))
	c.texts = append(c.texts, text...)
	c.ends[row] = uint32(len(c.texts))
	b.full = b.full || len(c.texts) > mostText
}

// Int sets a cell of any other kind of the row under way; see [Batch.Int] for
// what the number means. It returns an error when a decimal has too many
// digits.
func (b *Builder) Int(col int, v int64) error { return b.IntAt(col, 0, v) }

// IntAt sets such a cell of a row so many behind the one under way, less than [Builder.Room].
func (b *Builder) IntAt(col, behind int, v int64) error {
	if kind := b.schema[col].Kind; (kind == Decimal || kind == Money) && !FitsDigits(v) {
		return fmt.Errorf("column %s: %d has more than %d digits", b.schema[col].Name, v, MaxDigits)
	}
	c := &b.cells[col]
	c.ints[b.rows+behind], c.valid[b.rows+behind] = v, true
	return nil
}

// Room is how many rows can be set, column by column, before [Builder.EndRows].
func (b *Builder) Room() int { return b.size - b.rows }

// EndRow completes the row under way; cells that were not set have no value.
func (b *Builder) EndRow() error { return b.EndRows(1) }

// EndRows completes so many rows, at most [Builder.Room].
func (b *Builder) EndRows(n int) error {
	b.rows += n
	b.total += int64(n)
	if b.rows == b.size || b.full {
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
	r := &Rows{b, b.cells, b.rows}
	b.cells, b.rows, b.full = *b.spare.Get().(*[]cells), 0, false
	return b.emit(r)
}

// Record makes an Arrow record of the rows, whose memory is used for others then.
func (r *Rows) Record() arrow.RecordBatch {
	arrays := make([]arrow.Array, len(r.cells))
	fields := make([]arrow.Field, len(r.cells))
	for i := range r.cells {
		arrays[i] = r.cells[i].build(r.builder.schema[i], r.rows)
		fields[i] = arrowField(r.builder.schema[i], arrays[i].DataType())
		clear(r.cells[i].valid)
		r.cells[i].texts = r.cells[i].texts[:0]
	}
	record := array.NewRecordBatch(arrow.NewSchema(fields, nil), arrays, int64(r.rows))
	r.builder.spare.Put(&r.cells)
	return record
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
