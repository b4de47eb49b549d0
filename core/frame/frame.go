// Package frame holds rows as typed columns, and makes them of rows that come in
// one by one and of Arrow arrays. A frame is a sequence of batches whose columns
// are loaded each for itself when they are needed, so that a frame of millions of
// rows need not be in memory at once. What is asked of rows is in [mantilla/core/table].
package frame

import (
	"context"
	"fmt"
	"slices"
	"sort"
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

// nameOf returns what a number of the field stands for; "" where it is a number.
func (f *Field) nameOf(n int64) string {
	if n < 0 || n >= int64(len(f.Names)) {
		return ""
	}
	return f.Names[n]
}

// Frame is a table of rows numbered from 0, in batches of any length. Its columns
// are fetched batch by batch when they are needed.
type Frame struct {
	schema Schema
	starts []int // the first row of each batch, and the number of all rows
	load   Load
	stats  func(batch, col int) (Stats, bool)
}

// Load fetches a column of a batch. It may be called from several goroutines, and
// returns soon after the context ends.
type Load func(ctx context.Context, batch, col int) (*Column, error)

// New makes a frame of record batches that are in memory.
func New(schema Schema, records ...arrow.RecordBatch) (*Frame, error) {
	lengths, columns := make([]int, len(records)), make([][]*Column, len(records))
	for i, r := range records {
		if int(r.NumCols()) != len(schema) {
			return nil, fmt.Errorf("frame: record has %d columns, the schema %d", r.NumCols(), len(schema))
		}
		lengths[i], columns[i] = int(r.NumRows()), make([]*Column, len(schema))
		for col, field := range schema {
			var err error
			if columns[i][col], err = Decode(r.Column(col), nil); err != nil {
				return nil, fmt.Errorf("frame: column %s: %w", field.Name, err)
			}
		}
	}
	load := func(_ context.Context, batch, col int) (*Column, error) { return columns[batch][col], nil }
	stats := func(batch, col int) (Stats, bool) { return columns[batch][col].Stats, true }
	return Lazy(schema, lengths, load, stats), nil
}

// Lazy makes a frame of batches with so many rows each. Stats tells what is known
// of a column before it is loaded; it is nil where nothing is.
func Lazy(schema Schema, lengths []int, load Load, stats func(batch, col int) (Stats, bool)) *Frame {
	starts := make([]int, len(lengths)+1)
	for i, n := range lengths {
		starts[i+1] = starts[i] + n
	}
	if stats == nil {
		stats = func(int, int) (Stats, bool) { return Stats{}, false }
	}
	return &Frame{schema: schema, starts: starts, load: load, stats: stats}
}

// With returns the frame with further columns. Compute makes one of them, counted
// from 0, of the rows of a batch; it is called when the column is loaded.
func (f *Frame) With(fields Schema, compute Load) *Frame {
	own := len(f.schema)
	return &Frame{
		schema: slices.Concat(f.schema, fields),
		starts: f.starts,
		load: func(ctx context.Context, batch, col int) (*Column, error) {
			if col < own {
				return f.load(ctx, batch, col)
			}
			return compute(ctx, batch, col-own)
		},
		stats: func(batch, col int) (Stats, bool) {
			if col < own {
				return f.stats(batch, col)
			}
			return Stats{}, false
		},
	}
}

// Schema returns the frame's columns.
func (f *Frame) Schema() Schema { return f.schema }

// Rows returns the number of rows.
func (f *Frame) Rows() int { return f.starts[len(f.starts)-1] }

// Batches returns the number of batches.
func (f *Frame) Batches() int { return len(f.starts) - 1 }

// Span returns the rows of batch i: from the first up to the one after the last.
func (f *Frame) Span(i int) (from, to int) { return f.starts[i], f.starts[i+1] }

// BatchOf returns the batch that has a row.
func (f *Frame) BatchOf(row int) int {
	// all batches but the last have the same length, mostly
	if i := row / max(f.starts[1], 1); i < f.Batches() && f.starts[i] <= row && row < f.starts[i+1] {
		return i
	}
	return sort.SearchInts(f.starts, row+1) - 1
}

// Column fetches a column of batch i.
func (f *Frame) Column(ctx context.Context, i, col int) (*Column, error) {
	if ctx.Err() != nil {
		return nil, context.Cause(ctx)
	}
	return f.load(ctx, i, col)
}

// Stats tells what is known of a column of batch i without fetching it.
func (f *Frame) Stats(i, col int) (Stats, bool) { return f.stats(i, col) }

// Batch fetches columns of batch i, by their places in the schema; nil fetches all.
// The others have no cells.
func (f *Frame) Batch(ctx context.Context, i int, columns []int) (*Batch, error) {
	b := &Batch{Rows: f.starts[i+1] - f.starts[i], schema: f.schema, columns: make([]*Column, len(f.schema))}
	if columns == nil {
		columns = f.all()
	}
	for _, col := range columns {
		var err error
		if b.columns[col], err = f.Column(ctx, i, col); err != nil {
			return nil, err
		}
	}
	return b, nil
}

func (f *Frame) all() []int {
	columns := make([]int, len(f.schema))
	for i := range columns {
		columns[i] = i
	}
	return columns
}
