package grid

import (
	"bytes"
	"fmt"
	"io"
	"math/big"
	"strconv"
	"strings"
	"time"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/format"
)

// parquetFile is a Parquet file without columns within columns.
type parquetFile struct {
	of     *parquet.File
	fields []Column
	cells  []func(parquet.Value) string
}

func openParquet(data []byte) (columnar, error) {
	of, err := parquet.OpenFile(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, err
	}
	p := &parquetFile{of: of}
	for _, f := range of.Schema().Fields() {
		if !f.Leaf() || f.Repeated() {
			return nil, fmt.Errorf("the column %s holds several values, and a cell has one", f.Name())
		}
		column, cell := parquetColumn(f)
		p.fields, p.cells = append(p.fields, column), append(p.cells, cell)
	}
	return p, nil
}

func (p *parquetFile) columns() []Column { return p.fields }

func (p *parquetFile) each(visit func(place Place, row []string) error) error {
	n, rows, cells := 0, make([]parquet.Row, 512), make([]string, len(p.fields))
	for _, group := range p.of.RowGroups() {
		in := group.Rows()
		for {
			got, err := in.ReadRows(rows)
			for _, row := range rows[:got] {
				n++
				clear(cells)
				for _, v := range row {
					if !v.IsNull() {
						cells[v.Column()] = p.cells[v.Column()](v)
					}
				}
				if err := visit(Place{Word: "row", N: n}, cells); err != nil {
					return closing(in, err)
				}
			}
			if err == io.EOF {
				break
			}
			if err != nil {
				return closing(in, err)
			}
		}
		if err := in.Close(); err != nil {
			return err
		}
	}
	return nil
}

// closing closes what is not read to its end.
func closing(in io.Closer, err error) error {
	_ = in.Close() // what went wrong before counts
	return err
}

// parquetColumn says what a column holds, and how a value of it is written as a cell.
func parquetColumn(f parquet.Field) (Column, func(parquet.Value) string) {
	c := Column{Heading: f.Name(), Type: "text"}
	if logical := f.Type().LogicalType(); logical != nil {
		switch t := logical.Value.(type) {
		case *format.DecimalType:
			c.Type, c.Scale = "decimal", t.Scale
			return c, func(v parquet.Value) string { return pointed(unscaled(v), int(t.Scale)) }
		case *format.DateType:
			c.Type = "date"
			return c, func(v parquet.Value) string {
				return time.Unix(int64(v.Int32())*86_400, 0).UTC().Format(time.DateOnly)
			}
		case *format.TimestampType:
			c.Type = "timestamp"
			return c, func(v parquet.Value) string { return moment(v.Int64(), t.Unit) }
		}
	}
	switch f.Type().Kind() {
	case parquet.Boolean:
		c.Type = "flag"
	case parquet.Int32, parquet.Int64:
		c.Type = "integer"
	case parquet.Int96:
		c.Type = "timestamp"
		return c, func(v parquet.Value) string { return julian(v) }
	case parquet.Float:
		c.Type = "" // how many places they have is seen from the cells
		return c, func(v parquet.Value) string { return strconv.FormatFloat(float64(v.Float()), 'f', -1, 32) }
	case parquet.Double:
		c.Type = ""
		return c, func(v parquet.Value) string { return strconv.FormatFloat(v.Double(), 'f', -1, 64) }
	}
	return c, parquet.Value.String
}

// unscaled is the number that a decimal is written as: bytes are in two's complement, the
// greatest first.
func unscaled(v parquet.Value) *big.Int {
	switch v.Kind() {
	case parquet.Int32:
		return big.NewInt(int64(v.Int32()))
	case parquet.Int64:
		return big.NewInt(v.Int64())
	}
	raw := v.ByteArray()
	n := new(big.Int).SetBytes(raw)
	if len(raw) > 0 && raw[0]&0x80 != 0 {
		n.Sub(n, new(big.Int).Lsh(big.NewInt(1), uint(8*len(raw))))
	}
	return n
}

// pointed writes a number of the smallest places with its decimal point.
func pointed(n *big.Int, scale int) string {
	if scale <= 0 {
		return n.String()
	}
	digits, sign := new(big.Int).Abs(n).String(), ""
	if n.Sign() < 0 {
		sign = "-"
	}
	digits = strings.Repeat("0", max(scale+1-len(digits), 0)) + digits
	return sign + digits[:len(digits)-scale] + "." + digits[len(digits)-scale:]
}

func moment(n int64, unit format.TimeUnit) string {
	at := time.UnixMicro(n)
	switch unit.Value.(type) {
	case *format.MilliSeconds:
		at = time.UnixMilli(n)
	case *format.NanoSeconds:
		at = time.Unix(0, n)
	}
	return at.UTC().Format(time.RFC3339Nano)
}

// julian is a moment as older programs write it: nanoseconds of a Julian day.
func julian(v parquet.Value) string {
	const unixEpoch = 2_440_588 // 1970-01-01 as a Julian day
	raw := v.Int96()
	nanos, day := int64(raw[0])|int64(raw[1])<<32, int64(raw[2])
	return time.Unix((day-unixEpoch)*86_400, nanos).UTC().Format(time.RFC3339Nano)
}
