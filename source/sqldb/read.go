package sqldb

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strconv"

	"mantilla/core/frame"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/cells"
)

// Prepare checks that the server understands the query.
func (s *Server) Prepare(ctx context.Context, q query.Query) error {
	v, err := s.begin(ctx)
	if err != nil {
		return err
	}
	err = s.engine.Check(ctx, v.conn, source.Write(q, s.engine.Dialect()))
	return joined(s.explain(ctx, err), v.Close())
}

// joined is the first of two errors, or the second where there is no first.
func joined(err, other error) error {
	if err != nil {
		return err
	}
	return other
}

// tickRows is how many rows are read between two ticks.
const tickRows = 1024

// Read pours the rows of one query.
func (v *session) Read(ctx context.Context, q query.Query, to *source.Sink) error {
	of := source.Write(q, v.server.engine.Dialect())
	if err := v.pour(ctx, of, to); err != nil {
		return fmt.Errorf("dataset %s: %w", of.Dataset.ID, v.server.explain(ctx, err))
	}
	return nil
}

func (v *session) pour(ctx context.Context, of source.Statement, to *source.Sink) (err error) {
	ending, leave := context.WithCancel(ctx)
	defer leave()
	within, done := v.within(ending)
	defer done()
	rows, err := v.conn.QueryContext(within, of.Text, of.Args...)
	if err != nil {
		return cause(within, err)
	}
	defer func() {
		if err != nil {
			leave() // else all rows that are left would come first
		}
		rows.Close()
	}()
	columns := of.Dataset.Read()
	readers, err := v.readers(rows, columns)
	if err != nil {
		return err
	}
	row, into := make([]sql.RawBytes, len(columns)), make([]any, len(columns))
	for i := range columns {
		into[i] = &row[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
		for i, value := range row {
			if value == nil {
				continue
			}
			if err := readers[i](value, to.Rows, i); err != nil {
				return fmt.Errorf("row %d, column %s: %w", to.Rows.Rows()+1, columns[i].ID, err)
			}
		}
		if err := to.Rows.EndRow(); err != nil {
			return err
		}
		if to.Rows.Rows()%tickRows == 0 {
			if err := to.Tick(); err != nil {
				return err
			}
		}
	}
	if err := rows.Err(); err != nil {
		return cause(within, err)
	}
	if ctx.Err() != nil { // some functions only end sooner when their query is given up
		return context.Cause(ctx)
	}
	return to.Tick()
}

// cell moves one cell that has a value from its text to the builder.
type cell func(value []byte, b *frame.Builder, i int) error

// readers are those of the cells of rows.
func (v *session) readers(rows *sql.Rows, columns []report.Column) ([]cell, error) {
	by, ok := v.server.engine.(Zoneless)
	types, err := rows.ColumnTypes()
	if err != nil {
		return nil, err
	}
	readers := make([]cell, len(columns))
	for i := range columns {
		readers[i] = readerOf(&columns[i])
		if kind := columns[i].Kind; ok && (kind == frame.Date || kind == frame.Timestamp) &&
			by.Zoneless(types[i].DatabaseTypeName()) {
			readers[i] = zoneless(readers[i])
		}
	}
	return readers, nil
}

// zoneless takes from moments the zone that a driver put on them.
func zoneless(read cell) cell {
	return func(value []byte, b *frame.Builder, i int) error {
		if at := bytes.LastIndexAny(value, "Z+-"); at > len("2006-01-02T") {
			value = value[:at]
		}
		return read(value, b, i)
	}
}

// cause is why a query ended: an error, or that its own time was over.
func cause(within context.Context, err error) error {
	if long := context.Cause(within); err != nil && errors.Is(long, errLong) {
		return long
	}
	return err
}

func readerOf(c *report.Column) cell {
	number := func(read func([]byte) (int64, error)) cell {
		return func(value []byte, b *frame.Builder, i int) error {
			n, err := read(value)
			if err != nil {
				return err
			}
			return b.Int(i, n)
		}
	}
	switch c.Kind {
	case frame.Text:
		return func(value []byte, b *frame.Builder, i int) error { b.Text(i, value); return nil }
	case frame.Date:
		return number(cells.Day)
	case frame.Timestamp:
		return number(cells.Moment)
	case frame.Flag:
		return number(cells.Flag)
	}
	if c.Stored == "decimal" {
		return number(func(value []byte) (int64, error) {
			if n, ok := cells.Digits(value, '.', c.Scale); ok {
				return n, nil
			}
			if bytes.ContainsAny(value, "eE") { // floating point
				if v, err := strconv.ParseFloat(string(value), 64); err == nil {
					return cells.Real(v, 64, c)
				}
			}
			return cells.Decimal(string(value), c)
		})
	}
	return number(cells.Whole)
}

// within is the context of a query that is to end with ctx.
func (v *session) within(ctx context.Context) (within context.Context, done func()) {
	return v.server.engine.Within(ctx, v.Begun)
}

// List reads all entries of a declared list.
func (s *Server) List(ctx context.Context, id string) ([]source.Item, error) {
	return source.ReadList(ctx, s.config, s.engine.Dialect(), id, s.entries)
}

// Find returns the entries of a declared list that are sought.
func (s *Server) Find(ctx context.Context, id string, w source.Sought) ([]source.Item, error) {
	return source.FindIn(ctx, s.config, s.engine.Dialect(), id, w, s.entries)
}

func (s *Server) entries(ctx context.Context, text string, args []any, row func(cell func(int) string)) error {
	return s.texts(ctx, text, args, func(_ []string, cells []sql.RawBytes) error {
		row(func(i int) string { return string(cells[i]) })
		return nil
	})
}

// texts runs a select in a transaction of its own and hands on its rows as texts.
func (s *Server) texts(ctx context.Context, text string, args []any,
	visit func(columns []string, row []sql.RawBytes) error) error {
	v, err := s.begin(ctx)
	if err != nil {
		return err
	}
	return joined(s.explain(ctx, v.each(ctx, text, args, visit)), v.Close())
}

func (v *session) each(ctx context.Context, text string, args []any,
	visit func(columns []string, row []sql.RawBytes) error) error {
	within, done := v.within(ctx)
	defer done()
	rows, err := v.conn.QueryContext(within, text, args...)
	if err != nil {
		return cause(within, err)
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	row, into := make([]sql.RawBytes, len(columns)), make([]any, len(columns))
	for i := range row {
		into[i] = &row[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
		if err := visit(columns, row); err != nil {
			return err
		}
	}
	return cause(within, rows.Err())
}
