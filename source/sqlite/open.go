// Package sqlite reads rows and lists from SQLite files. Files are opened so
// that no definition, whatever its SQL, can write to them or reach other files.
package sqlite

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"

	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/driver"

	"mantilla/core/fold"
	"mantilla/core/query"
	"mantilla/source"
)

// File is a SQLite file as a source.
type File struct {
	config *source.Config
	path   string

	mu   sync.Mutex  // guards db and info
	db   *sql.DB     // nil until it is first used
	info os.FileInfo // of the file that db has open
}

var _ source.Source = (*File)(nil)

// Open opens the file of a source read-only. A file that does not exist now
// may be there later: the error comes with the first reading. A file that is
// put in the place of the one that is open is opened instead of it.
func Open(config *source.Config, path string) (*File, error) {
	return &File{config: config, path: path}, nil
}

// Close closes the file.
func (f *File) Close() error {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.db == nil {
		return nil
	}
	return f.db.Close()
}

// present returns the connections to the file that now has the name.
func (f *File) present() (*sql.DB, os.FileInfo, error) {
	info, err := os.Stat(f.path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil, fmt.Errorf("source %s: its file %s %w", f.config.ID, filepath.Base(f.path), source.ErrMissing)
	}
	if err != nil {
		return nil, nil, fmt.Errorf("source %s: %w", f.config.ID, err)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.db != nil && os.SameFile(f.info, info) {
		return f.db, f.info, nil
	}
	dsn := (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: f.path}).EscapedPath(),
		RawQuery: "mode=ro&_pragma=busy_timeout(3000)&_pragma=query_only(1)"}).String()
	db, err := driver.Open(dsn, confine)
	if err != nil {
		return nil, nil, fmt.Errorf("source %s: %w", f.config.ID, err)
	}
	if f.db != nil {
		go f.db.Close() // when those who read the old file are done
	}
	f.db, f.info = db, info
	return db, info, nil
}

// Bounds of a query, in bytes: of one value, and of what it holds in memory.
const (
	longestValue = 8 << 20
	mostMemory   = 256 << 20
)

// confine leaves a connection nothing but reading: it may select, read, call
// functions other than the one that loads code, and recurse. Attaching files,
// pragmas and every kind of change are refused when a statement is prepared.
func confine(c *sqlite3.Conn) error {
	for config, on := range map[sqlite3.DBConfig]bool{
		sqlite3.DBCONFIG_DEFENSIVE:             true,
		sqlite3.DBCONFIG_TRUSTED_SCHEMA:        false,
		sqlite3.DBCONFIG_ENABLE_TRIGGER:        false,
		sqlite3.DBCONFIG_ENABLE_LOAD_EXTENSION: false,
		sqlite3.DBCONFIG_DQS_DML:               false,
	} {
		if _, err := c.Config(config, on); err != nil {
			return fmt.Errorf("confining the connection: %w", err)
		}
	}
	// What a definition's SQL may take: a connection has memory of its own.
	c.Limit(sqlite3.LIMIT_LENGTH, longestValue)
	if err := c.Exec(fmt.Sprintf("pragma hard_heap_limit=%d", mostMemory)); err != nil {
		return fmt.Errorf("confining the connection: %w", err)
	}
	if err := readable(c); err != nil {
		return fmt.Errorf("confining the connection: %w", err)
	}
	// Definitions may compare texts without case and accents.
	err := c.CreateFunction("fold", 1, sqlite3.DETERMINISTIC, func(ctx sqlite3.Context, arg ...sqlite3.Value) {
		ctx.ResultText(fold.Text(arg[0].Text()))
	})
	if err != nil {
		return fmt.Errorf("confining the connection: %w", err)
	}
	return c.SetAuthorizer(func(action sqlite3.AuthorizerActionCode, third, fourth, _,
		_ string) sqlite3.AuthorizerReturnCode {
		switch action {
		case sqlite3.AUTH_SELECT, sqlite3.AUTH_READ, sqlite3.AUTH_RECURSIVE, sqlite3.AUTH_TRANSACTION:
			return sqlite3.AUTH_OK
		case sqlite3.AUTH_FUNCTION:
			if !strings.EqualFold(fourth, "load_extension") {
				return sqlite3.AUTH_OK
			}
		case sqlite3.AUTH_PRAGMA: // the driver asks this once for each connection
			if third == "query_only" && fourth == "" {
				return sqlite3.AUTH_OK
			}
		}
		return sqlite3.AUTH_DENY
	})
}

// conn runs use with a connection that the end of the context interrupts.
func (f *File) conn(ctx context.Context, use func(*sqlite3.Conn) error) error {
	db, _, err := f.present()
	if err != nil {
		return err
	}
	pooled, err := db.Conn(ctx)
	if err != nil {
		return f.explain(ctx, err)
	}
	defer pooled.Close()
	err = pooled.Raw(func(c any) error {
		raw := c.(driver.Conn).Raw()
		defer raw.SetInterrupt(raw.SetInterrupt(ctx))
		return use(raw)
	})
	return f.explain(ctx, err)
}

// explain turns what SQLite says into what is wrong with the source.
func (f *File) explain(ctx context.Context, err error) error {
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil && errors.Is(err, sqlite3.INTERRUPT):
		return context.Cause(ctx)
	case errors.Is(err, sqlite3.BUSY), errors.Is(err, sqlite3.LOCKED):
		return fmt.Errorf("source %s %w", f.config.ID, source.ErrLocked)
	case errors.Is(err, sqlite3.NOTADB), errors.Is(err, sqlite3.CANTOPEN):
		return fmt.Errorf("source %s: its file %s cannot be read as a SQLite database: %w", f.config.ID,
			filepath.Base(f.path), err)
	case errors.Is(err, sqlite3.NOMEM), errors.Is(err, sqlite3.TOOBIG):
		return fmt.Errorf("source %s: the query takes more memory than a run may have (%d MiB, and %d MiB for one value); "+
			"let it give fewer or smaller rows: %w",
			f.config.ID, mostMemory>>20, longestValue>>20, err)
	case errors.Is(err, sqlite3.AUTH):
		return fmt.Errorf("source %s may only be read: %w", f.config.ID, err)
	}
	return fmt.Errorf("source %s: %w", f.config.ID, err)
}

// prepare compiles one statement and refuses a text that holds several, or one
// that gives no columns: the authorizer is not asked about a few of those.
func prepare(c *sqlite3.Conn, text string) (*sqlite3.Stmt, error) {
	stmt, tail, err := c.Prepare(text)
	if err != nil {
		return nil, err
	}
	if stmt == nil || strings.TrimSpace(tail) != "" {
		if stmt != nil {
			stmt.Close()
		}
		return nil, errors.New("a query must be one statement; remove the semicolon")
	}
	if stmt.ColumnCount() == 0 || !stmt.ReadOnly() {
		stmt.Close()
		return nil, errors.New("a query must be a select")
	}
	return stmt, nil
}

// Prepare checks that SQLite understands the query. What it does not understand is
// told in its words, with the name that was probably meant.
func (f *File) Prepare(ctx context.Context, q query.Query) error {
	statement := source.Write(q, dialect{})
	err := f.prepare(ctx, statement)
	if errors.Is(err, sqlite3.ERROR) {
		return f.misnamed(ctx, statement.Text, err)
	}
	return err
}

func (f *File) prepare(ctx context.Context, of source.Statement) error {
	return f.conn(ctx, func(c *sqlite3.Conn) error {
		stmt, err := prepare(c, of.Text)
		if err != nil {
			return err
		}
		return stmt.Close()
	})
}

// Fingerprint is the SHA-256 over size, time of change and first page of the
// file and of its write-ahead log: SQLite counts changes in the one and appends
// them to the other.
func (f *File) Fingerprint(context.Context) (string, error) {
	sum := sha256.New()
	for _, path := range []string{f.path, f.path + "-wal"} {
		file, err := os.Open(path)
		if errors.Is(err, fs.ErrNotExist) {
			if path == f.path {
				return "", fmt.Errorf("source %s: its file %s %w", f.config.ID, filepath.Base(f.path), source.ErrMissing)
			}
			continue
		}
		if err != nil {
			return "", fmt.Errorf("source %s: %w", f.config.ID, err)
		}
		info, err := file.Stat()
		if err == nil {
			fmt.Fprintln(sum, info.Size(), info.ModTime().UnixNano())
			_, err = io.Copy(sum, io.LimitReader(file, 4096))
		}
		file.Close()
		if err != nil {
			return "", fmt.Errorf("source %s: %w", f.config.ID, err)
		}
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}
