// Package frametest makes frames of a few rows for tests and examples.
package frametest

import (
	"errors"
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
)

// Rows makes a frame of batches of so many rows. A cell is a string, an int as
// [frame.Builder.Int] takes it, or nil for no value; cells at the end may be left out.
// It panics where a cell does not fit its column.
func Rows(schema frame.Schema, batch int, rows ...[]any) *frame.Frame {
	var records []arrow.RecordBatch
	b := frame.NewBuilder(schema, batch, func(r arrow.RecordBatch) error {
		records = append(records, r)
		return nil
	})
	var wrong error
	for _, row := range rows {
		for col, cell := range row {
			switch v := cell.(type) {
			case nil:
			case string:
				b.Text(col, []byte(v))
			case int:
				wrong = errors.Join(wrong, b.Int(col, int64(v)))
			case int64:
				wrong = errors.Join(wrong, b.Int(col, v))
			default:
				wrong = errors.Join(wrong, fmt.Errorf("a %T is no cell", cell))
			}
		}
		wrong = errors.Join(wrong, b.EndRow())
	}
	if err := errors.Join(wrong, b.Close()); err != nil {
		panic(err)
	}
	f, err := frame.New(schema, records...)
	if err != nil {
		panic(err)
	}
	return f
}
