package render

import (
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/apache/arrow-go/v18/arrow/memory"

	"mantilla/core/frame"
	"mantilla/core/sheet"
)

// recordWriter is a file of Arrow records.
type recordWriter interface {
	Write(arrow.RecordBatch) error
	Close() error
}

// unclosed keeps a library from closing what it writes to.
type unclosed struct{ *counted }

func writeArrow(j *job) error {
	schema := j.arrowSchema()
	w, err := ipc.NewFileWriter(unclosed{j.to}, ipc.WithSchema(schema))
	if err != nil {
		return err
	}
	return j.records(schema, w)
}

// arrowSchema describes the lines of a sheet. The decimals of rows have 18
// digits, those of groups 38 as totals may need them.
func (j *job) arrowSchema() *arrow.Schema {
	s := j.document.Sheets[0]
	digits := int32(38)
	if s.Flat() {
		digits = frame.MaxDigits
	}
	var fields []arrow.Field
	taken := map[string]int{}
	columns := s.Grid().Columns
	for i, c := range columns {
		name := c.ID
		if at := i - (len(columns) - len(s.Columns)); at >= 0 && s.Chart == nil && finer(s.Columns[at].Total) && !s.Flat() {
			c.Field.Scale += finerPlaces
		}
		if taken[c.ID]++; taken[c.ID] > 1 {
			name = fmt.Sprintf("%s %d", c.ID, taken[c.ID])
		}
		about := arrow.MetadataFrom(map[string]string{"heading": c.Heading, "kind": c.Field.Kind.String(),
			"currency": c.Field.Currency})
		fields = append(fields, arrow.Field{Name: name, Type: arrowType(c.Field, digits), Nullable: true, Metadata: about})
	}
	about := arrow.MetadataFrom(map[string]string{"result": j.document.Number, "report": j.document.Title,
		"values": j.document.Says(), "seal": j.document.SealSays()})
	return arrow.NewSchema(fields, &about)
}

// finer tells that a figure of groups has more places than its column.
func finer(op frame.Op) bool {
	return op == frame.Avg || op == frame.Median || op == frame.Percentile || op == frame.Stddev
}

// finerPlaces are enough for what such figures are rounded to.
const finerPlaces = 6

func arrowType(f frame.Field, digits int32) arrow.DataType {
	switch f.Kind {
	case frame.Integer:
		if f.Names == nil {
			return arrow.PrimitiveTypes.Int64
		}
	case frame.Decimal, frame.Money:
		return &arrow.Decimal128Type{Precision: digits, Scale: f.Scale}
	case frame.Date:
		return arrow.FixedWidthTypes.Date32
	case frame.Timestamp:
		return &arrow.TimestampType{Unit: arrow.Microsecond, TimeZone: "UTC"}
	case frame.Flag:
		return arrow.FixedWidthTypes.Boolean
	}
	return arrow.BinaryTypes.String
}

// records writes the lines of the sheet, rows straight from their columns.
func (j *job) records(schema *arrow.Schema, w recordWriter) error {
	s := j.document.Sheets[0]
	use := func(record arrow.RecordBatch) error {
		defer record.Release()
		if err := w.Write(record); err != nil {
			return err
		}
		return j.lines(int(record.NumRows()))
	}
	var err error
	if s.Flat() && plainNames(s) {
		err = inOrder(j.ctx, s.Each, func(batch *frame.Batch) (arrow.RecordBatch, error) {
			b := array.NewRecordBuilder(memory.DefaultAllocator, schema)
			defer b.Release()
			for col := range batch.Schema() {
				appendColumn(b.Field(col), batch, col)
			}
			return b.NewRecordBatch(), nil
		}, use)
	} else {
		b := array.NewRecordBuilder(memory.DefaultAllocator, schema)
		defer b.Release()
		held := 0
		err = s.Grid().Each(j.ctx, func(cells []frame.Value) error {
			for col, v := range cells {
				appendValue(b.Field(col), v)
			}
			if held++; held < frame.BatchRows {
				return nil
			}
			held = 0
			return use(b.NewRecordBatch())
		})
		if err == nil && held > 0 {
			err = use(b.NewRecordBatch())
		}
	}
	if closed := w.Close(); err == nil {
		err = closed
	}
	return err
}

// plainNames tells that no column has numbers that stand for names.
func plainNames(s *sheet.Sheet) bool {
	for _, c := range s.Columns {
		if c.Field.Names != nil {
			return false
		}
	}
	return true
}

func appendColumn(to array.Builder, b *frame.Batch, col int) {
	to.Reserve(b.Rows)
	kind := b.Schema()[col].Kind
	for row := range b.Rows {
		switch {
		case b.Null(col, row):
			to.AppendNull()
		case kind == frame.Text:
			to.(*array.StringBuilder).Append(b.Text(col, row))
		default:
			appendInt(to, b, col, row)
		}
	}
}

func appendInt(to array.Builder, b *frame.Batch, col, row int) {
	switch to := to.(type) {
	case *array.Int64Builder:
		to.Append(b.Int(col, row))
	case *array.Decimal128Builder:
		to.Append(b.Column(col).Digits(row))
	case *array.Date32Builder:
		to.Append(arrow.Date32(b.Int(col, row)))
	case *array.TimestampBuilder:
		to.Append(arrow.Timestamp(b.Int(col, row)))
	case *array.BooleanBuilder:
		to.Append(b.Int(col, row) != 0)
	}
}

func appendValue(to array.Builder, v frame.Value) {
	if v.Null {
		to.AppendNull()
		return
	}
	switch to := to.(type) {
	case *array.StringBuilder:
		to.Append(v.Text)
	case *array.Int64Builder:
		to.Append(v.Int())
	case *array.Decimal128Builder:
		to.Append(v.Number.To(to.Type().(*arrow.Decimal128Type).Scale).Digits)
	case *array.Date32Builder:
		to.Append(arrow.Date32(v.Int()))
	case *array.TimestampBuilder:
		to.Append(arrow.Timestamp(v.Int()))
	case *array.BooleanBuilder:
		to.Append(v.Int() != 0)
	}
}
