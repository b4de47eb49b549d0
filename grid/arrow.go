package grid

import (
	"bytes"
	"fmt"
	"strconv"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/ipc"
)

// arrowFile is a file in Arrow's format of files.
type arrowFile struct{ in *ipc.FileReader }

func openArrow(data []byte) (columnar, error) {
	in, err := ipc.NewFileReader(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	for _, f := range in.Schema().Fields() {
		if _, nested := f.Type.(arrow.NestedType); nested {
			return nil, fmt.Errorf("the column %s holds %s, and a cell has one value", f.Name, f.Type)
		}
	}
	return &arrowFile{in}, nil
}

func (a *arrowFile) columns() (out []Column) {
	for _, f := range a.in.Schema().Fields() {
		out = append(out, arrowColumn(f.Name, f.Type))
	}
	return out
}

func arrowColumn(name string, of arrow.DataType) Column {
	c := Column{Heading: name, Type: "text"}
	switch t := of.(type) {
	case *arrow.DictionaryType:
		return arrowColumn(name, t.ValueType)
	case arrow.DecimalType:
		c.Type, c.Scale = "decimal", t.GetScale()
	case *arrow.Date32Type, *arrow.Date64Type:
		c.Type = "date"
	case *arrow.TimestampType:
		c.Type = "timestamp"
	case *arrow.BooleanType:
		c.Type = "flag"
	case *arrow.Float16Type, *arrow.Float32Type, *arrow.Float64Type:
		c.Type = "" // how many places they have is seen from the cells
	default:
		if arrow.IsInteger(of.ID()) {
			c.Type = "integer"
		}
	}
	return c
}

func (a *arrowFile) each(visit func(place Place, row []string) error) error {
	row := make([]string, a.in.Schema().NumFields())
	n := 0
	for i := range a.in.NumRecords() {
		batch, err := a.in.RecordBatch(i)
		if err != nil {
			return err
		}
		for r := range int(batch.NumRows()) {
			n++
			for c := range row {
				row[c] = arrowCell(batch.Column(c), r)
			}
			if err := visit(Place{Word: "row", N: n}, row); err != nil {
				batch.Release()
				return err
			}
		}
		batch.Release()
	}
	return nil
}

func arrowCell(of arrow.Array, at int) string {
	if of.IsNull(at) {
		return ""
	}
	switch a := of.(type) {
	case *array.Float64:
		return strconv.FormatFloat(a.Value(at), 'f', -1, 64)
	case *array.Float32:
		return strconv.FormatFloat(float64(a.Value(at)), 'f', -1, 32)
	case *array.Date32:
		return a.Value(at).ToTime().Format(time.DateOnly)
	case *array.Date64:
		return a.Value(at).ToTime().Format(time.DateOnly)
	case *array.Timestamp:
		unit := a.DataType().(*arrow.TimestampType).Unit
		return a.Value(at).ToTime(unit).UTC().Format(time.RFC3339Nano)
	case *array.Dictionary:
		return arrowCell(a.Dictionary(), a.GetValueIndex(at))
	}
	return of.ValueStr(at)
}
