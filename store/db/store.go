// Package db is the file of the records, which all parts of them share: its connections,
// transactions, and how it writes times and names its failures.
package db

import (
	"context"
	"database/sql"
	sqldriver "database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"github.com/gofrs/flock"
	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/driver"
	"github.com/pressly/goose/v3"

	"mantilla/model"
	"mantilla/store/cache"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Why records cannot be opened.
var (
	ErrInUse = errors.New("is in use by another service; stop that one or choose another directory")
	ErrNewer = errors.New("was written by a newer version of the program; use that one, or a copy made before")
)

// DB is what all parts of the records share.
type DB struct {
	Write *sql.DB // one connection: SQLite has one writer at a time
	Read  *sql.DB
	Lock  *flock.Flock // of the directory
	Cache *cache.Cache // of results; see [Results.Cache]
}

// Open opens the file at a path, on a disk that SQLite knows by a name, and brings it up
// to date.
func (s *DB) Open(ctx context.Context, path, disk string) (err error) {
	dsn := func(options string) string {
		if disk != "" {
			options += "&vfs=" + url.QueryEscape(disk)
		}
		return (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(),
			RawQuery: "_pragma=busy_timeout(10000)&_pragma=journal_mode(wal)&_pragma=synchronous(full)" +
				"&_pragma=foreign_keys(1)&_pragma=journal_size_limit(67108864)" + options}).String()
	}
	if err := fresh(path); err != nil {
		return fmt.Errorf("making the records: %w", err)
	}
	if s.Write, err = driver.Open(dsn("")); err != nil {
		return fmt.Errorf("opening the records: %w", err)
	}
	s.Write.SetMaxOpenConns(1)
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, s.Write, steps)
	if err != nil {
		return fmt.Errorf("reading the migrations: %w", err)
	}
	known := int64(0)
	for _, step := range provider.ListSources() {
		known = max(known, step.Version)
	}
	present, err := provider.GetDBVersion(ctx)
	switch {
	case err != nil:
		return fmt.Errorf("reading the version of the records: %w", err)
	case present > known:
		return fmt.Errorf("the data directory %s %w", filepath.Dir(path), ErrNewer)
	case present > 0 && present < known:
		if err := s.copyBefore(ctx, path, present); err != nil {
			return err
		}
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the records up to date: %w", err)
	}
	if s.Read, err = driver.Open(dsn("&_pragma=query_only(1)")); err != nil {
		return fmt.Errorf("opening the records: %w", err)
	}
	s.Read.SetMaxOpenConns(8)
	s.Read.SetMaxIdleConns(8)
	return nil
}

// fresh makes a file that gives back what is free in it, which can be said of an empty one alone.
func fresh(path string) error {
	if info, err := os.Stat(path); err == nil && info.Size() > 0 {
		return nil
	}
	conn, err := sqlite3.Open("file:" + (&url.URL{Path: path}).EscapedPath())
	if err != nil {
		return err
	}
	return errors.Join(conn.Exec(`pragma auto_vacuum = incremental; vacuum`), conn.Close())
}

// copyBefore copies records of an earlier version before they are brought up to date, so that there is
// a way back. The copy of an earlier time goes: it is of a version that nobody came back to.
func (s *DB) copyBefore(ctx context.Context, path string, version int64) error {
	earlier, err := filepath.Glob(path + ".of-version-*")
	if err != nil {
		return err
	}
	for _, old := range earlier {
		if err := os.Remove(old); err != nil {
			return fmt.Errorf("removing the copy of earlier records: %w", err)
		}
	}
	to := fmt.Sprintf("%s.of-version-%d", path, version)
	if _, err := s.Write.ExecContext(ctx, `vacuum into ?`, to); err != nil {
		return errors.Join(fmt.Errorf("copying the records before they are brought up to date; make room, or move %s away: "+
			"%w",
			path, Explain(err)), os.Remove(to))
	}
	return nil
}

// Change runs a transaction that is taken back when do fails.
func (s *DB) Change(ctx context.Context, do func(*sql.Tx) error) error {
	tx, err := s.Write.BeginTx(ctx, nil)
	if err != nil {
		return Explain(err)
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return Explain(err)
	}
	return Explain(tx.Commit())
}

// Lightly carries out a transaction without waiting for the disk. A later
// change that waits brings it there too, as both stand in the same log; until
// then a power cut may undo it.
func (s *DB) Lightly(ctx context.Context, do func(*sql.Tx) error) (err error) {
	conn, err := s.Write.Conn(ctx) // there is one: nothing else is written meanwhile
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, conn.Close()) }()
	if _, err := conn.ExecContext(ctx, `pragma synchronous = normal`); err != nil {
		return err
	}
	defer func() {
		if _, back := conn.ExecContext(context.WithoutCancel(ctx), `pragma synchronous = full`); back != nil {
			// A connection that stays light must not be used again.
			err = errors.Join(err, back, conn.Raw(func(any) error { return sqldriver.ErrBadConn }))
		}
	}()
	tx, err := conn.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// Statements are those of one transaction, each read once however often it is
// carried out.
type Statements struct {
	tx    *sql.Tx
	known map[string]*sql.Stmt
}

// Prepared returns the statements of a transaction.
func Prepared(tx *sql.Tx) *Statements { return &Statements{tx, map[string]*sql.Stmt{}} }

// QueryRowContext carries out a statement that gives one row.
func (s *Statements) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	if stmt := s.read(ctx, query); stmt != nil {
		return stmt.QueryRowContext(ctx, args...)
	}
	return s.tx.QueryRowContext(ctx, query, args...) // it tells what is wrong
}

// ExecContext carries out a statement that gives none.
func (s *Statements) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	if stmt := s.read(ctx, query); stmt != nil {
		return stmt.ExecContext(ctx, args...)
	}
	return s.tx.ExecContext(ctx, query, args...)
}

func (s *Statements) read(ctx context.Context, query string) *sql.Stmt {
	stmt, ok := s.known[query]
	if !ok {
		if read, err := s.tx.PrepareContext(ctx, query); err == nil {
			stmt = read // the transaction closes it
		}
		s.known[query] = stmt
	}
	return stmt
}

// Carrying is what carries out statements: a transaction, or its statements.
type Carrying interface {
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// Explain names the failures of SQLite that callers tell apart.
func Explain(err error) error {
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return model.ErrNotFound
	case errors.Is(err, model.ErrFull):
		return err
	case errors.Is(err, sqlite3.FULL), errors.Is(err, sqlite3.IOERR), errors.Is(err, sqlite3.READONLY):
		return fmt.Errorf("%w (%w)", model.ErrFull, err)
	}
	return err
}

// Stamp writes a time as the records keep it: UTC, to the millisecond, so that
// text order is time order.
func Stamp(t time.Time) string { return t.UTC().Format("2006-01-02T15:04:05.000Z") }

// Unstamp reads a time as Stamp writes it; the zero time where there is none.
func Unstamp(text sql.NullString) time.Time {
	t, _ := time.Parse("2006-01-02T15:04:05.000Z", text.String)
	return t
}

// Collect scans every row of a query.
func Collect[T any](rows *sql.Rows, err error, scan func(*sql.Rows) (T, error)) ([]T, error) {
	if err != nil {
		return nil, Explain(err)
	}
	defer rows.Close()
	out := []T{}
	for rows.Next() {
		item, err := scan(rows)
		if err != nil {
			return nil, err
		}
		out = append(out, item)
	}
	return out, Explain(rows.Err())
}

// All carries out changes of one transaction, each with the same argument; the
// first must change something.
func (s *DB) All(ctx context.Context, arg string, changes ...string) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		for i, text := range changes {
			done, err := tx.ExecContext(ctx, text, arg)
			if i == 0 {
				err = OnlyIf(done, err, model.ErrNotFound)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}
