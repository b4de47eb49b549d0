package flightsql

import (
	"fmt"
	"math"
	"math/big"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/cells"
)

// stride is how many rows of a batch are poured at once, column by column.
const stride = 4096

// pour pours the rows of a batch, whose columns are those of a dataset in order.
func pour(batch arrow.RecordBatch, columns []report.Column, to *source.Sink) error {
	if int(batch.NumCols()) != len(columns) {
		return fmt.Errorf("the server gives %d columns of %d", batch.NumCols(), len(columns))
	}
	fills := make([]fill, len(columns))
	for i := range columns {
		fills[i] = filling(batch.Column(i), &columns[i])
	}
	for from, rows := 0, int(batch.NumRows()); from < rows; {
		n := min(rows-from, stride, to.Rows.Room())
		for i, of := range fills {
			if at, err := of(to.Rows, i, from, n); err != nil {
				return fmt.Errorf("row %d, column %s: %w", to.Count()+int64(at)+1, columns[i].ID, err)
			}
		}
		if err := to.Rows.EndRows(n); err != nil {
			return err
		}
		from += n
		if err := to.Tick(); err != nil {
			return err
		}
	}
	return nil
}

// fill sets n cells of column i of a builder from those of an array that begin at from. Where one
// cannot be read it tells at which of them it ended.
type fill func(b *frame.Builder, i, from, n int) (at int, err error)

// filling is how an array fills a column.
func filling(a arrow.Array, c *report.Column) fill {
	if c.Kind == frame.Text {
		return texts(a)
	}
	if same := plainly(a, c); same != nil {
		return same
	}
	read := numberOf(a, c)
	return func(b *frame.Builder, i, from, n int) (int, error) {
		for k := range n {
			if empty(a, from+k) {
				continue
			}
			v, err := read(from + k)
			if err == nil {
				err = b.IntAt(i, k, v)
			}
			if err != nil {
				return k, err
			}
		}
		return n, nil
	}
}

// empty tells whether a cell has no value; those of unions say so in their own arrays.
func empty(a arrow.Array, row int) bool {
	if u, ok := a.(array.Union); ok {
		child, at := chosen(u, row)
		return empty(child, at)
	}
	return a.IsNull(row)
}

// chosen is where the value of a row of a union stands.
func chosen(u array.Union, row int) (child arrow.Array, at int) {
	if dense, ok := u.(*array.DenseUnion); ok {
		return u.Field(u.ChildID(row)), int(dense.ValueOffset(row))
	}
	return u.Field(u.ChildID(row)), row + u.Data().Offset()
}

// plainly fills a column whose cells are those of the array as they are; nil for others.
func plainly(a arrow.Array, c *report.Column) fill {
	switch a := a.(type) {
	case *array.Int64:
		if c.Kind != frame.Date && c.Kind != frame.Timestamp && c.Kind != frame.Flag && c.Stored != "decimal" {
			return wholes(a, a.Int64Values())
		}
	case *array.Int32:
		if c.Kind != frame.Date && c.Kind != frame.Timestamp && c.Kind != frame.Flag && c.Stored != "decimal" {
			return wholes(a, a.Int32Values())
		}
	case *array.Date32:
		if c.Kind == frame.Date {
			return wholes(a, a.Date32Values())
		}
	case *array.Timestamp:
		if c.Kind == frame.Timestamp && a.DataType().(*arrow.TimestampType).Unit == arrow.Microsecond {
			return wholes(a, a.TimestampValues())
		}
	}
	return nil
}

func wholes[T ~int32 | ~int64](a arrow.Array, values []T) fill {
	return func(b *frame.Builder, i, from, n int) (int, error) {
		for k := range n {
			if a.IsNull(from + k) {
				continue
			}
			if err := b.IntAt(i, k, int64(values[from+k])); err != nil {
				return k, err
			}
		}
		return n, nil
	}
}

// texts fills a column of texts from any array, as Arrow writes its cells where they are none.
func texts(a arrow.Array) fill {
	return func(b *frame.Builder, i, from, n int) (int, error) {
		for k := range n {
			if text, ok := textOf(a, from+k); ok {
				b.StringAt(i, k, text)
			}
		}
		return n, nil
	}
}

// textOf is a cell as a text; not ok where it has no value.
func textOf(a arrow.Array, row int) (text string, ok bool) {
	if u, ok := a.(array.Union); ok {
		child, at := chosen(u, row)
		return textOf(child, at)
	}
	if a.IsNull(row) {
		return "", false
	}
	switch a := a.(type) {
	case *array.String:
		return a.Value(row), true
	case *array.Binary:
		return string(a.Value(row)), true
	case *array.Dictionary:
		return textOf(a.Dictionary(), a.GetValueIndex(row))
	case *array.Timestamp:
		at := a.Value(row).ToTime(a.DataType().(*arrow.TimestampType).Unit)
		return at.UTC().Format(time.RFC3339Nano), true
	}
	return a.ValueStr(row), true
}

// numberOf reads the cells of an array as those of a column that is not of texts.
func numberOf(a arrow.Array, c *report.Column) func(row int) (int64, error) {
	switch a := a.(type) {
	case array.Union:
		return func(row int) (int64, error) {
			child, at := chosen(a, row)
			return numberOf(child, c)(at)
		}
	case *array.Dictionary:
		of := numberOf(a.Dictionary(), c)
		return func(row int) (int64, error) { return of(a.GetValueIndex(row)) }
	}
	switch c.Kind {
	case frame.Date, frame.Timestamp:
		return instantOf(a, c.Kind)
	case frame.Flag:
		return func(row int) (int64, error) {
			text, _ := textOf(a, row)
			return cells.Flag([]byte(text))
		}
	}
	if c.Stored != "decimal" {
		return func(row int) (int64, error) {
			text, _ := textOf(a, row)
			return cells.Whole([]byte(text))
		}
	}
	switch a := a.(type) {
	case *array.Decimal128:
		scale := a.DataType().(*arrow.Decimal128Type).Scale
		return func(row int) (int64, error) { return scaled(a.Value(row), scale, c) }
	case *array.Float64:
		return func(row int) (int64, error) { return cells.Real(a.Value(row), 64, c) }
	case *array.Float32:
		return func(row int) (int64, error) { return cells.Real(float64(a.Value(row)), 32, c) }
	}
	return func(row int) (int64, error) {
		text, _ := textOf(a, row)
		return cells.Decimal(text, c)
	}
}

// scaled is a decimal to the places of a column.
func scaled(n decimal.Decimal128, scale int32, c *report.Column) (int64, error) {
	if small := int64(n.LowBits()); n.HighBits() == small>>63 {
		if v, ok := moved(small, c.Scale-scale); ok {
			return v, nil
		}
	}
	return cells.Decimal(new(big.Rat).SetFrac(n.BigInt(), tens(scale)).FloatString(int(max(scale, 0))), c)
}

// moved is a count of places as one of so many more, or fewer; not ok where that is none, or too large.
func moved(n int64, places int32) (int64, bool) {
	for ; places < 0; places++ {
		if n%10 != 0 {
			return 0, false
		}
		n /= 10
	}
	for ; places > 0; places-- {
		if n > math.MaxInt64/10 || n < math.MinInt64/10 {
			return 0, false
		}
		n *= 10
	}
	return n, true
}

func tens(scale int32) *big.Int {
	return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(max(scale, 0))), nil)
}

// instantOf reads days since 1970, or microseconds since then in UTC.
func instantOf(a arrow.Array, kind frame.Kind) func(row int) (int64, error) {
	const day = 24 * 60 * 60 * 1_000_000
	var micros func(row int) int64
	switch a := a.(type) {
	case *array.Date32:
		micros = func(row int) int64 { return int64(a.Value(row)) * day }
	case *array.Date64:
		micros = func(row int) int64 { return int64(a.Value(row)) * 1000 }
	case *array.Timestamp:
		unit := a.DataType().(*arrow.TimestampType).Unit
		micros = func(row int) int64 { return a.Value(row).ToTime(unit).UnixMicro() }
	default:
		read := cells.Day
		if kind == frame.Timestamp {
			read = cells.Moment
		}
		return func(row int) (int64, error) {
			text, _ := textOf(a, row)
			return read([]byte(strings.TrimSpace(text)))
		}
	}
	if kind == frame.Timestamp {
		return func(row int) (int64, error) { return micros(row), nil }
	}
	return func(row int) (int64, error) {
		at := micros(row)
		if at%day != 0 {
			return 0, cells.NotDay(time.UnixMicro(at).UTC().Format(time.RFC3339Nano))
		}
		return at / day, nil
	}
}
