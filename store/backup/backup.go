// Package backup copies the records while the service goes on, into one file that can be kept
// elsewhere, and brings them back from it.
package backup

import (
	"archive/zip"
	"compress/flate"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/ncruces/go-sqlite3"
	"github.com/ncruces/go-sqlite3/driver"

	"mantilla/store/db"
)

// The parts of a back-up: a zip file of these two.
const (
	aboutName   = "backup.json"
	recordsName = "mantilla.db"
)

// Form is that of back-ups that are written now.
const Form = 1

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

// Write writes a back-up of records that were copied to a file.
func Write(w io.Writer, a About, records string) (About, error) {
	in, err := os.Open(records)
	if err != nil {
		return a, err
	}
	defer in.Close()
	z := zip.NewWriter(w)
	z.RegisterCompressor(zip.Deflate, func(out io.Writer) (io.WriteCloser, error) {
		return flate.NewWriter(out, flate.BestSpeed) // most of the records are compressed already
	})
	to, err := z.CreateHeader(&zip.FileHeader{Name: recordsName, Method: zip.Deflate, Modified: a.At})
	if err != nil {
		return a, err
	}
	sum := sha256.New()
	if a.Bytes, err = io.Copy(io.MultiWriter(to, sum), in); err != nil {
		return a, fmt.Errorf("writing the records: %w", err)
	}
	a.SHA256 = hex.EncodeToString(sum.Sum(nil))
	text, err := json.MarshalIndent(a, "", "  ")
	if err != nil {
		return a, err
	}
	if to, err = z.CreateHeader(&zip.FileHeader{Name: aboutName, Method: zip.Deflate, Modified: a.At}); err == nil {
		_, err = to.Write(text)
	}
	return a, errors.Join(err, z.Close())
}

// ErrNone says that a file is no back-up, or not a whole one.
var ErrNone = errors.New("is no back-up, or not a whole one")

// read says what a back-up is, without reading its records.
func read(path string) (a About, err error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return a, fmt.Errorf("%s %w: %w", path, ErrNone, err)
	}
	defer z.Close()
	in, err := z.Open(aboutName)
	if err != nil {
		return a, fmt.Errorf("%s %w: it says nothing of itself", path, ErrNone)
	}
	defer in.Close()
	if err := json.NewDecoder(in).Decode(&a); err != nil {
		return a, fmt.Errorf("%s %w: %w", path, ErrNone, err)
	}
	if a.Form > Form {
		return a, fmt.Errorf("%s was written by a newer version of the program, %s; use that one", path, a.Program)
	}
	return a, nil
}

// Restore brings the records of a back-up into a data directory that has none. They are there whole
// and unchanged, or not at all. Key is the file of the key that opens it, where it is encrypted.
func Restore(path, key, dir string) (a About, err error) {
	path, done, err := opened(path, key)
	if err != nil {
		return a, err
	}
	defer done()
	if a, err = read(path); err != nil {
		return a, err
	}
	to := filepath.Join(dir, recordsName)
	if _, err := os.Stat(to); err == nil {
		return a, fmt.Errorf("the data directory %s has records already; move them away, or choose another directory", dir)
	}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return a, err
	}
	part := to + ".part"
	err = unpacked(path, a, part)
	if err == nil {
		err = renamed(part)
	}
	if err != nil {
		return a, errors.Join(err, os.Remove(part))
	}
	return a, os.Rename(part, to)
}

// renamed lets restored records be those of another service for the engines in which rows of results
// stay: the one that they are a copy of may go on, and what it keeps there is not to be swept.
func renamed(records string) error {
	conn, err := sqlite3.Open("file:" + records)
	if err != nil {
		return err
	}
	return errors.Join(conn.Exec(`delete from origin where name = 'service'`), conn.Close())
}

func unpacked(path string, a About, to string) error {
	z, err := zip.OpenReader(path)
	if err != nil {
		return err
	}
	defer z.Close()
	in, err := z.Open(recordsName)
	if err != nil {
		return fmt.Errorf("%s %w: the records are missing", path, ErrNone)
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(out, sum), io.LimitReader(in, a.Bytes+1))
	if err == nil {
		err = out.Sync()
	}
	err = errors.Join(err, out.Close())
	switch {
	case err != nil:
		return fmt.Errorf("%s %w: %w", path, ErrNone, err)
	case n != a.Bytes || hex.EncodeToString(sum.Sum(nil)) != a.SHA256:
		return fmt.Errorf("%s %w: its records are not those that were written", path, ErrNone)
	}
	return nil
}
