package sheet

import (
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// rowsOf builds frames of a schema.
type rowsOf struct {
	t      testing.TB
	schema frame.Schema
}

// frame makes rows of texts and numbers; nil is no value.
func (b *rowsOf) frame(rows [][]any) *table.Kept {
	b.t.Helper()
	var records []arrow.RecordBatch
	builder := frame.NewBuilder(b.schema, 1000,
		func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	for _, row := range rows {
		for col, cell := range row {
			switch v := cell.(type) {
			case string:
				builder.Text(col, []byte(v))
			case int:
				if err := builder.Int(col, int64(v)); err != nil {
					b.t.Fatal(err)
				}
			}
		}
		if err := builder.EndRow(); err != nil {
			b.t.Fatal(err)
		}
	}
	if err := builder.Close(); err != nil {
		b.t.Fatal(err)
	}
	f, err := frame.New(b.schema, records...)
	if err != nil {
		b.t.Fatal(err)
	}
	return table.Of(f, table.Fresh{})
}
