package sheet

import (
	"testing"

	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/kept"
	"mantilla/core/table"
)

// rowsOf builds tables of a schema.
type rowsOf struct {
	t      testing.TB
	schema frame.Schema
}

// frame makes rows of texts and numbers; nil is no value.
func (b *rowsOf) frame(rows [][]any) *kept.Table {
	b.t.Helper()
	return kept.Of(frametest.Rows(b.schema, 1000, rows...), table.Fresh{})
}
