package render

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"slices"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/parquet-go/parquet-go"
	"golang.org/x/sync/errgroup"

	"mantilla/core/frame"
	"mantilla/core/rescue"
)

func writeParquet(j *job) error {
	schema := j.arrowSchema()
	w, err := newParquetWriter(schema, j.to)
	if err != nil {
		return err
	}
	return j.records(schema, w)
}

// parquetWriter writes Arrow records to a Parquet file, a row group at a time.
type parquetWriter struct {
	to   *parquet.GenericWriter[any]
	rows int // of the row group that is being written

	columns []parquetColumn
}

// parquetColumn has the values of a column of one record; the memory is used
// again for the next.
type parquetColumn struct {
	at     int
	values []parquet.Value
	wide   []byte // what wide decimals among them point to
}

// rowGroup is the number of rows from which on a row group is closed.
const rowGroup = 8 * frame.BatchRows

// newParquetWriter names the metadata of the Arrow schema a second time as
// metadata of the file, and keeps the schema whole under the key that Arrow's
// readers look for.
func newParquetWriter(schema *arrow.Schema, to *counted) (*parquetWriter, error) {
	root := orderedGroup{Group: parquet.Group{}}
	for _, f := range schema.Fields() {
		root.add(f.Name, parquetNode(f.Type))
	}
	var whole bytes.Buffer
	if err := ipc.NewWriter(&whole, ipc.WithSchema(schema)).Close(); err != nil {
		return nil, fmt.Errorf("write the schema: %w", err)
	}
	options := []parquet.WriterOption{
		parquet.NewSchema("rows", root),
		parquet.CreatedBy("Mantilla", "", ""),
		parquet.Compression(&parquet.Snappy),
		parquet.DataPageStatistics(true),
		parquet.KeyValueMetadata("ARROW:schema", base64.StdEncoding.EncodeToString(whole.Bytes())),
	}
	about := schema.Metadata()
	for i, key := range about.Keys() {
		options = append(options, parquet.KeyValueMetadata(key, about.Values()[i]))
	}
	w := &parquetWriter{
		to:      parquet.NewGenericWriter[any](to, options...),
		columns: make([]parquetColumn, schema.NumFields()),
	}
	for i := range w.columns {
		w.columns[i].at = i
	}
	return w, nil
}

// orderedGroup keeps the columns in the order of the sheet; a plain group has
// them by name.
type orderedGroup struct {
	parquet.Group
	fields []parquet.Field
}

func (g *orderedGroup) add(name string, node parquet.Node) {
	g.Group[name] = node
	one := parquet.Group{name: node}
	g.fields = append(g.fields, one.Fields()...)
}

func (g orderedGroup) Fields() []parquet.Field { return g.fields }

// parquetNode writes texts by dictionaries, which have few different ones as a
// rule, and numbers plainly, since dictionaries of these cost more than they
// save.
func parquetNode(t arrow.DataType) parquet.Node {
	switch t := t.(type) {
	case *arrow.Decimal128Type:
		if t.Precision <= frame.MaxDigits {
			return parquet.Optional(parquet.Decimal(int(t.Scale), int(t.Precision), parquet.Int64Type))
		}
		wide := parquet.FixedLenByteArrayType(wideDecimal)
		return parquet.Optional(parquet.Decimal(int(t.Scale), int(t.Precision), wide))
	case *arrow.Date32Type:
		return parquet.Optional(parquet.Date())
	case *arrow.TimestampType:
		return parquet.Optional(parquet.Timestamp(parquet.Microsecond))
	case *arrow.BooleanType:
		return parquet.Optional(parquet.Leaf(parquet.BooleanType))
	case *arrow.Int64Type:
		return parquet.Optional(parquet.Int(64))
	}
	return parquet.Optional(parquet.Encoded(parquet.String(), &parquet.RLEDictionary))
}

// wideDecimal is the number of bytes of a decimal of more than 18 digits.
const wideDecimal = 16

func (w *parquetWriter) Write(record arrow.RecordBatch) error {
	var columns errgroup.Group
	for i, column := range w.to.ColumnWriters() {
		columns.Go(func() (err error) {
			defer rescue.Into(&err)
			w.columns[i].fill(record.Column(i))
			if _, err := column.WriteRowValues(w.columns[i].values); err != nil {
				return fmt.Errorf("write column %q: %w", record.ColumnName(i), err)
			}
			return nil
		})
	}
	if err := columns.Wait(); err != nil {
		return err
	}
	if w.rows += int(record.NumRows()); w.rows >= rowGroup {
		w.rows = 0
		return w.to.Flush()
	}
	return nil
}

func (w *parquetWriter) Close() error { return w.to.Close() }

// fill makes values of what Arrow has of the column.
func (c *parquetColumn) fill(column arrow.Array) {
	c.values = slices.Grow(c.values[:0], column.Len())[:column.Len()]
	value := c.reader(column)
	for row := range c.values {
		if column.IsNull(row) {
			c.values[row] = parquet.NullValue().Level(0, 0, c.at)
			continue
		}
		c.values[row] = value(row).Level(0, 1, c.at)
	}
}

// reader tells how the values of a column are read.
func (c *parquetColumn) reader(column arrow.Array) func(row int) parquet.Value {
	switch from := column.(type) {
	case *array.Int64:
		return func(row int) parquet.Value { return parquet.Int64Value(from.Value(row)) }
	case *array.Date32:
		return func(row int) parquet.Value { return parquet.Int32Value(int32(from.Value(row))) }
	case *array.Timestamp:
		return func(row int) parquet.Value { return parquet.Int64Value(int64(from.Value(row))) }
	case *array.Boolean:
		return func(row int) parquet.Value { return parquet.BooleanValue(from.Value(row)) }
	case *array.Decimal128:
		if from.DataType().(*arrow.Decimal128Type).Precision <= frame.MaxDigits {
			return func(row int) parquet.Value { return parquet.Int64Value(int64(from.Value(row).LowBits())) }
		}
		c.wide = slices.Grow(c.wide[:0], wideDecimal*from.Len())[:wideDecimal*from.Len()]
		return func(row int) parquet.Value {
			digits := c.wide[wideDecimal*row:][:wideDecimal]
			binary.BigEndian.PutUint64(digits, uint64(from.Value(row).HighBits()))
			binary.BigEndian.PutUint64(digits[8:], from.Value(row).LowBits())
			return parquet.FixedLenByteArrayValue(digits)
		}
	case *array.String:
		return func(row int) parquet.Value { return parquet.ByteArrayValue([]byte(from.Value(row))) }
	}
	panic(fmt.Sprintf("no Parquet values for %s", column.DataType()))
}
