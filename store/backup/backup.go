// Package backup copies the records while the service goes on, into one file that can be kept
// elsewhere, and brings them back from it.
package backup

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/driver"

	"mantilla/store/db"
)

// The parts of a back-up: a zip file of what is told of it, and of all records or the pages of them
// that changed.
const (
	aboutName   = "backup.json"
	recordsName = "mantilla.db"
	pagesName   = "mantilla.pages"
)

// Form is that of back-ups that are written now: the second, which may have pages alone.
const Form = 2

// About says what a back-up is.
type About struct {
	Form    int       `json:"form"`
	At      time.Time `json:"at"`
	Of      string    `json:"of"`      // the organisation
	Program string    `json:"program"` // the version that wrote it
	Schema  int64     `json:"schema"`  // of the records; a program of an older one does not open them
	Results int64     `json:"results"`
	Bytes   int64     `json:"bytes"`  // of the records
	SHA256  string    `json:"sha256"` // of the records, in hex

	// Where it has only what changed: the file name of the whole one that it leans on, the digest of
	// that one's records, and how many pages of 4096 bytes are others.
	After       string `json:"after,omitempty"`
	AfterSHA256 string `json:"afterSHA256,omitempty"`
	Pages       int64  `json:"pages,omitempty"`
}

// Backup copies records.
type Backup struct{ *db.DB }

// pages is how many are copied between two looks at whether anybody still waits.
const pages = 2000

// CopyTo copies the records as they are now to a file that is not there yet. Nobody who reads or
// writes meanwhile waits for it, and nothing that is written meanwhile is in it.
func (s Backup) CopyTo(ctx context.Context, path string) error {
	conn, err := s.Read.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	tx, err := conn.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return db.Explain(err)
	}
	defer func() { _ = tx.Rollback() }() // it only read
	var n int
	if err := tx.QueryRowContext(ctx, `select count(*) from origin`).Scan(&n); err != nil { // from here on one state
		return db.Explain(err)
	}
	return conn.Raw(func(c any) error { return copied(ctx, c.(driver.Conn).Raw(), path) })
}

func copied(ctx context.Context, from *sqlite3.Conn, path string) error {
	b, err := from.BackupInit("main", "file:"+path)
	if err != nil {
		return err
	}
	for done := false; !done && err == nil; {
		if done, err = b.Step(pages); err == nil && ctx.Err() != nil {
			err = context.Cause(ctx)
		}
	}
	return errors.Join(err, b.Close())
}

// About says what the records are; what is written says the rest.
func (s Backup) About(ctx context.Context) (a About, err error) {
	err = s.Read.QueryRowContext(ctx, `select (select coalesce(max(version_id), 0) from goose_db_version),
		(select count(*) from result)`).Scan(&a.Schema, &a.Results)
	a.Form = Form
	return a, db.Explain(err)
}
