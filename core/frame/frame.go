// Package frame holds tables of typed columns on Arrow arrays and computes on
// them: filter, sort, take and totals. A frame is a sequence of batches of
// equal length which may be loaded when needed, so a frame of millions of rows
// need not be in memory at once.
package frame

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/apache/arrow-go/v18/arrow"
)

// Kind is the type of a column.
type Kind uint8

// The kinds of columns. A decimal holds at most 18 digits; a money column has
// one currency for all its rows; timestamps are in UTC with microseconds.
const (
	Text Kind = iota
	Integer
	Decimal
	Money
	Date
	Timestamp
	Flag
)

var kindNames = [...]string{"text", "integer", "decimal", "money", "date", "timestamp", "flag"}

func (k Kind) String() string { return kindNames[k] }

// KindNamed returns the kind with that name.
func KindNamed(name string) (Kind, error) {
	for k, n := range kindNames {
		if n == name {
			return Kind(k), nil
		}
	}
	return 0, fmt.Errorf("%q is not a column type; use %s", name, strings.Join(kindNames[:], ", "))
}

// MarshalText writes a kind by its name, so that what is kept does not depend on
// the order of the kinds.
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// UnmarshalText reads a kind by its name.
func (k *Kind) UnmarshalText(text []byte) (err error) {
	*k, err = KindNamed(string(text))
	return err
}

// Numeric tells whether values of the kind can be added up.
func (k Kind) Numeric() bool { return k == Integer || k == Decimal || k == Money }

// Field describes one column. Scale is the number of decimal places of a
// decimal or money column; Currency is the ISO 4217 code of a money column.
// Grain tells that the dates of a column are first days of periods: week,
// month, quarter, year, fiscal year. Names are what the numbers of an integer
// column stand for, from 0.
type Field struct {
	Name     string
	Kind     Kind
	Scale    int32
	Currency string
	Grain    string
	Names    []string
}

// Schema is the ordered list of a frame's columns.
type Schema []Field

// Index returns the place of the column with that name, or -1.
func (s Schema) Index(name string) int {
	for i := range s {
		if s[i].Name == name {
			return i
		}
	}
	return -1
}

// Frame is a table of rows numbered from 0. All batches but the last have the
// same number of rows, which makes a row's place a division away.
type Frame struct {
	schema Schema
	rows   int
	size   int
	load   func(batch int) (*Batch, error)
}

// New makes a frame of record batches that are in memory. Every record but the
// last must have the same number of rows.
func New(schema Schema, records ...arrow.RecordBatch) (*Frame, error) {
	batches := make([]*Batch, len(records))
	rows, size := 0, 1
	for i, r := range records {
		b, err := NewBatch(schema, r)
		if err != nil {
			return nil, err
		}
		if i == 0 {
			size = max(b.Rows, 1)
		} else if batches[i-1].Rows != size {
			return nil, fmt.Errorf("frame: batch %d has %d rows, the first has %d; only the last may be shorter", i-1,
				batches[i-1].Rows, size)
		}
		batches[i], rows = b, rows+b.Rows
	}
	return Lazy(schema, rows, size, func(i int) (*Batch, error) { return batches[i], nil }), nil
}

// Lazy makes a frame whose batches are fetched by load when they are needed.
// Rows is the number of all rows and size the number of rows of each batch but
// the last; load may be called from several goroutines.
func Lazy(schema Schema, rows, size int, load func(batch int) (*Batch, error)) *Frame {
	return &Frame{schema: schema, rows: rows, size: size, load: load}
}

// Within returns the frame bound to a context: as soon as that is done, no more
// batches are loaded and whatever is computed of the frame fails with the
// context's error.
func (f *Frame) Within(ctx context.Context) *Frame {
	return Lazy(f.schema, f.rows, f.size, func(i int) (*Batch, error) {
		if err := ctx.Err(); err != nil {
			return nil, context.Cause(ctx)
		}
		return f.load(i)
	})
}

// With returns the frame with further columns, which compute makes of each
// batch when it is loaded. It may be called from several goroutines.
func (f *Frame) With(fields Schema, compute func(batch int, b *Batch) ([]Vector, error)) *Frame {
	return Lazy(slices.Concat(f.schema, fields), f.rows, f.size, func(i int) (*Batch, error) {
		b, err := f.load(i)
		if err != nil {
			return nil, err
		}
		vectors, err := compute(i, b)
		if err != nil {
			return nil, err
		}
		return b.With(fields, vectors), nil
	})
}

// Schema returns the frame's columns.
func (f *Frame) Schema() Schema { return f.schema }

// Rows returns the number of rows.
func (f *Frame) Rows() int { return f.rows }

// Batches returns the number of batches.
func (f *Frame) Batches() int { return (f.rows + f.size - 1) / f.size }

// Batch returns batch i, loading it if need be.
func (f *Frame) Batch(i int) (*Batch, error) { return f.load(i) }

// column returns the place of a column, or an error that names those there are.
func (f *Frame) column(name string) (int, error) {
	if c := f.schema.Index(name); c >= 0 {
		return c, nil
	}
	names := make([]string, len(f.schema))
	for i := range f.schema {
		names[i] = f.schema[i].Name
	}
	return 0, fmt.Errorf("there is no column %q; there are %s", name, strings.Join(names, ", "))
}
