package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"strconv"
	"time"

	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/driver"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/cells"
)

func bind(s *sqlite3.Stmt, args []any) error {
	for i, arg := range args {
		var err error
		switch v := arg.(type) {
		case nil:
			err = s.BindNull(i + 1)
		case string:
			err = s.BindText(i+1, v)
		case bool:
			err = s.BindBool(i+1, v)
		case period.Day:
			err = s.BindText(i+1, v.String())
		case time.Time:
			err = s.BindText(i+1, v.UTC().Format("2006-01-02T15:04:05.999999Z"))
		case frame.Number:
			err = bindNumber(s, i+1, v)
		default:
			err = fmt.Errorf("a %T cannot be bound", arg)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// bindNumber binds a whole number as an integer and any other as the nearest
// real: SQLite has no exact decimals to compare with.
func bindNumber(s *sqlite3.Stmt, at int, n frame.Number) error {
	if n.Scale == 0 {
		return s.BindInt64(at, int64(n.Digits.LowBits()))
	}
	real, err := strconv.ParseFloat(n.String(), 64)
	if err != nil {
		return err
	}
	return s.BindFloat(at, real)
}

// session holds one read transaction on one connection.
type session struct {
	file        *File
	conn        *sql.Conn
	fingerprint string
}

// mostBegins is how often a view of a file that changes just then is begun anew.
const mostBegins = 20

// Begin opens a read transaction on the file that has the name, and takes the
// fingerprint of the state that it reads: the file was the same before and after
// the transaction began.
func (f *File) Begin(ctx context.Context) (source.Session, error) {
	for range mostBegins {
		s, err := f.begin(ctx)
		if s != nil || err != nil {
			return s, err
		}
		select {
		case <-ctx.Done():
			return nil, context.Cause(ctx)
		case <-time.After(20 * time.Millisecond):
		}
	}
	return nil, fmt.Errorf("source %s changes without pause, so no unchanging view of it can be read; try again later",
		f.config.ID)
}

// begin is one try; it gives nothing where the file changed meanwhile.
func (f *File) begin(ctx context.Context) (source.Session, error) {
	db, info, err := f.present()
	if err != nil {
		return nil, err
	}
	before, err := f.Fingerprint(ctx)
	if err != nil {
		return nil, err
	}
	conn, err := db.Conn(ctx)
	if err != nil {
		return nil, f.explain(ctx, err)
	}
	s := &session{f, conn, before}
	err = s.raw(func(c *sqlite3.Conn) error {
		defer c.SetInterrupt(c.SetInterrupt(ctx))
		// the view begins with the first reading
		return errors.Join(c.Exec("begin"), c.Exec("select 1 from sqlite_schema limit 1"))
	})
	if err != nil {
		return nil, errors.Join(f.explain(ctx, err), s.Close())
	}
	after, err := f.Fingerprint(ctx)
	now, statErr := os.Stat(f.path)
	switch {
	case err != nil || statErr != nil:
		return nil, errors.Join(err, statErr, s.Close())
	case after != before || !os.SameFile(now, info):
		return nil, s.Close()
	}
	return s, nil
}

// Fingerprint identifies the state that the session reads.
func (s *session) Fingerprint() string { return s.fingerprint }

func (s *session) raw(use func(*sqlite3.Conn) error) error {
	return s.conn.Raw(func(c any) error { return use(c.(driver.Conn).Raw()) })
}

// Close ends the transaction and gives the connection back.
func (s *session) Close() error {
	return errors.Join(s.raw(func(c *sqlite3.Conn) error { return c.Exec("rollback") }), s.conn.Close())
}

// tickRows is how many rows are read between two ticks.
const tickRows = 1024

// Read pours the rows of one query.
func (s *session) Read(ctx context.Context, q query.Query, to *source.Sink) error {
	return s.pour(ctx, source.Write(q, dialect{}), to)
}

// pour uses the driver's own statements: going through database/sql would make a
// Go value of every cell.
func (s *session) pour(ctx context.Context, from source.Statement, to *source.Sink) error {
	rows := to.Rows
	err := s.raw(func(c *sqlite3.Conn) error {
		defer c.SetInterrupt(c.SetInterrupt(ctx))
		stmt, err := prepare(c, from.Text)
		if err != nil {
			return err
		}
		defer stmt.Close()
		if err := bind(stmt, from.Args); err != nil {
			return err
		}
		columns := from.Dataset.Read()
		cells := make([]cell, len(columns))
		for i := range cells {
			cells[i] = reader(i, &columns[i])
		}
		for stmt.Step() {
			for i, read := range cells {
				kind := stmt.ColumnType(i)
				if kind == sqlite3.NULL {
					continue
				}
				if err := read(stmt, kind, rows); err != nil {
					return fmt.Errorf("row %d, column %s: %w", rows.Rows()+1, columns[i].ID, err)
				}
			}
			if err := rows.EndRow(); err != nil {
				return err
			}
			if rows.Rows()%tickRows == 0 {
				if err := to.Tick(); err != nil {
					return err
				}
			}
		}
		if err := stmt.Err(); err != nil {
			return err
		}
		return to.Tick()
	})
	if err != nil {
		return fmt.Errorf("dataset %s: %w", from.Dataset.ID, s.file.explain(ctx, err))
	}
	return nil
}

// cell moves one cell that has a value, of the kind that SQLite gives it, from
// the statement to the builder.
type cell func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error

// reader returns the cell reader of a column.
func reader(i int, c *report.Column) cell {
	switch c.Kind {
	case frame.Text:
		return func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error {
			b.Text(i, s.ColumnRawText(i))
			return nil
		}
	case frame.Date:
		return func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error {
			if kind != sqlite3.TEXT {
				return cells.NotDay(s.ColumnText(i))
			}
			day, err := cells.Day(s.ColumnRawText(i))
			if err != nil {
				return err
			}
			return b.Int(i, day)
		}
	case frame.Timestamp:
		return func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error {
			at, err := momentOf(kind, func() float64 { return s.ColumnFloat(i) }, func() int64 { return s.ColumnInt64(i) },
				func() []byte { return s.ColumnRawText(i) })
			if err != nil {
				return err
			}
			return b.Int(i, at)
		}
	case frame.Flag:
		return func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error {
			v := int64(0)
			if s.ColumnBool(i) {
				v = 1
			}
			return b.Int(i, v)
		}
	}
	if c.Stored == "decimal" {
		return func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error {
			return readDecimal(s, kind, b, i, c)
		}
	}
	return func(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder) error {
		if kind != sqlite3.INTEGER {
			return fmt.Errorf("%q is not a whole number; if the source holds numbers with a point, declare stored: decimal",
				s.ColumnText(i))
		}
		return b.Int(i, s.ColumnInt64(i))
	}
}

// readDecimal reads a number or text with a point exactly. A real is taken as
// the shortest decimal that reads back to it, which is what was once written.
func readDecimal(s *sqlite3.Stmt, kind sqlite3.Datatype, b *frame.Builder, i int, c *report.Column) error {
	if kind == sqlite3.FLOAT {
		digits, err := cells.Real(s.ColumnFloat(i), 64, c)
		if err != nil {
			return err
		}
		return b.Int(i, digits)
	}
	digits, err := cells.Decimal(s.ColumnText(i), c)
	if err != nil {
		return err
	}
	return b.Int(i, digits)
}
