// Package store keeps the service's records in SQLite: sources, the catalog
// with its versions, runs, and results with their rows. Every change that
// belongs together is one transaction.
package store

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

// RecordsFile is the file of the records within the data directory.
const RecordsFile = "mantilla.db"

// Store is the records of one data directory. Each room of the library has its own
// part of them. It is safe for several goroutines.
type Store struct{ *base }

// base is what all parts of the records share.
type base struct {
	write *sql.DB // one connection: SQLite has one writer at a time
	read  *sql.DB
	lock  *flock.Flock // of the directory
	cache *cache.Cache // of results; see [Results.Cache]
}

// Open opens the data directory, creating it and bringing its records up to
// date if need be. CacheBytes bounds the memory for decoded rows. It fails with
// [ErrInUse] when another process has the directory open.
func Open(ctx context.Context, dir string, cacheBytes int) (*Store, error) {
	return OpenOn(ctx, dir, cacheBytes, "")
}

// OpenOn is Open on a disk that SQLite knows by a name, see [storetest.Disk]; ""
// is the machine's own.
func OpenOn(ctx context.Context, dir string, cacheBytes int, disk string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return nil, fmt.Errorf("making the data directory: %w", err)
	}
	lock := flock.New(filepath.Join(dir, "lock"))
	if locked, err := lock.TryLock(); err != nil {
		return nil, fmt.Errorf("locking the data directory: %w", err)
	} else if !locked {
		return nil, fmt.Errorf("the data directory %s %w", dir, ErrInUse)
	}
	s := &Store{&base{lock: lock, cache: cache.New(cacheBytes)}}
	if err := s.open(ctx, filepath.Join(dir, RecordsFile), disk); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

func (s *base) open(ctx context.Context, path, disk string) (err error) {
	dsn := func(options string) string {
		if disk != "" {
			options += "&vfs=" + url.QueryEscape(disk)
		}
		return (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(),
			RawQuery: "_pragma=busy_timeout(10000)&_pragma=journal_mode(wal)&_pragma=synchronous(full)" +
				"&_pragma=foreign_keys(1)&_pragma=journal_size_limit(67108864)" + options}).String()
	}
	if s.write, err = driver.Open(dsn("")); err != nil {
		return fmt.Errorf("opening the records: %w", err)
	}
	s.write.SetMaxOpenConns(1)
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, s.write, steps)
	if err != nil {
		return fmt.Errorf("reading the migrations: %w", err)
	}
	known := int64(0)
	for _, step := range provider.ListSources() {
		known = max(known, step.Version)
	}
	if present, err := provider.GetDBVersion(ctx); err != nil {
		return fmt.Errorf("reading the version of the records: %w", err)
	} else if present > known {
		return fmt.Errorf("the data directory %s %w", filepath.Dir(path), ErrNewer)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the records up to date: %w", err)
	}
	if s.read, err = driver.Open(dsn("&_pragma=query_only(1)")); err != nil {
		return fmt.Errorf("opening the records: %w", err)
	}
	s.read.SetMaxOpenConns(8)
	s.read.SetMaxIdleConns(8)
	return nil
}

// Close closes the records and gives the data directory free.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*sql.DB{s.read, s.write} {
		if db != nil {
			errs = append(errs, db.Close())
		}
	}
	return errors.Join(append(errs, s.lock.Unlock())...)
}

// change runs a transaction that is taken back when do fails.
func (s *base) change(ctx context.Context, do func(*sql.Tx) error) error {
	tx, err := s.write.BeginTx(ctx, nil)
	if err != nil {
		return explain(err)
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return explain(err)
	}
	return explain(tx.Commit())
}

// lightly carries out a transaction without waiting for the disk. A later
// change that waits brings it there too, as both stand in the same log; until
// then a power cut may undo it.
func (s *base) lightly(ctx context.Context, do func(*sql.Tx) error) (err error) {
	conn, err := s.write.Conn(ctx) // there is one: nothing else is written meanwhile
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

// statements are those of one transaction, each read once however often it is
// carried out.
type statements struct {
	tx    *sql.Tx
	known map[string]*sql.Stmt
}

// QueryRowContext carries out a statement that gives one row.
func (s *statements) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	if stmt := s.read(ctx, query); stmt != nil {
		return stmt.QueryRowContext(ctx, args...)
	}
	return s.tx.QueryRowContext(ctx, query, args...) // it tells what is wrong
}

// ExecContext carries out a statement that gives none.
func (s *statements) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	if stmt := s.read(ctx, query); stmt != nil {
		return stmt.ExecContext(ctx, args...)
	}
	return s.tx.ExecContext(ctx, query, args...)
}

func (s *statements) read(ctx context.Context, query string) *sql.Stmt {
	stmt, ok := s.known[query]
	if !ok {
		if read, err := s.tx.PrepareContext(ctx, query); err == nil {
			stmt = read // the transaction closes it
		}
		s.known[query] = stmt
	}
	return stmt
}

// carrying is what carries out statements: a transaction, or its statements.
type carrying interface {
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// explain names the failures of SQLite that callers tell apart.
func explain(err error) error {
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

// stamp writes a time as the records keep it: UTC, to the millisecond, so that
// text order is time order.
func stamp(t time.Time) string { return t.UTC().Format("2006-01-02T15:04:05.000Z") }

func unstamp(text sql.NullString) time.Time {
	t, _ := time.Parse("2006-01-02T15:04:05.000Z", text.String)
	return t
}

// collect scans every row of a query.
func collect[T any](rows *sql.Rows, err error, scan func(*sql.Rows) (T, error)) ([]T, error) {
	if err != nil {
		return nil, explain(err)
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
	return out, explain(rows.Err())
}

// all carries out changes of one transaction, each with the same argument; the
// first must change something.
func (s *base) all(ctx context.Context, arg string, changes ...string) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		for i, text := range changes {
			done, err := tx.ExecContext(ctx, text, arg)
			if i == 0 {
				err = onlyIf(done, err, model.ErrNotFound)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// onlyIf turns a change of no row into an error.
func onlyIf(done sql.Result, err error, otherwise error) error {
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return otherwise
	}
	return nil
}
