// Package files makes tables of the files that people bring: each file is read
// once into typed columns, in a SQLite file that is then read like any other source.
package files

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"

	"github.com/ncruces/go-sqlite3"

	"mantilla/grid"
	"mantilla/source"
	"mantilla/source/sqlite"
)

func init() {
	source.Register(source.Kind{Name: "files", Dialect: sqlite.Dialect, Check: check,
		Open: func(c *source.Config, at source.Place) (source.Source, error) {
			return sqlite.Open(c, Path(at.Dir, c.ID))
		}})
}

func check(c *source.Config) error {
	if err := source.CheckFiles(c); err != nil {
		return err
	}
	for _, id := range slices.Sorted(maps.Keys(c.Tables)) {
		if err := formOf(c.Tables[id]).Check(); err != nil {
			return fmt.Errorf("has the table %s with %w", id, err)
		}
	}
	return nil
}

func formOf(t source.FileTable) grid.Form {
	return grid.Form{Separator: t.Separator, Encoding: t.Encoding, Decimal: t.Decimal, Dates: t.Dates}
}

// Path is where the tables of a source lie, below the data directory.
func Path(dir, id string) string { return filepath.Join(dir, "files", id+".db") }

// Fault is something in a file that does not fit its column.
type Fault struct {
	Place  string // line 12, or a row of a sheet
	Column string // its heading
	Says   string
}

// Told is how a file was read.
type Told struct {
	Rows   int
	Left   int     // lines with faults, which are left out
	Faults []Fault // the first of them
	More   int     // further ones
}

// mostFaults is how many faults are told one by one.
const mostFaults = 100

// ErrFaults says that a file has lines that do not fit, and its table takes none of them.
var ErrFaults = errors.New("has lines that do not fit, and none is taken")

// Build makes all tables of a source anew; see [Prepare].
func Build(ctx context.Context, dir string, c *source.Config, of map[string][]byte) (map[string]Told, error) {
	told, stand, err := Prepare(ctx, dir, c, of)
	if err == nil {
		err = stand()
	}
	return told, err
}

// Prepare writes all tables of a source anew from their files, beside those that there are; a
// table without a file is empty. It tells how each file was read; stand puts the new tables
// in the place of the others at once. The error is [ErrFaults] where a file was refused for
// its lines.
func Prepare(ctx context.Context, dir string, c *source.Config, of map[string][]byte) (told map[string]Told,
	stand func() error, err error) {
	path := Path(dir, c.ID)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return nil, nil, err
	}
	part := path + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, nil, err
	}
	db, err := sqlite3.OpenContext(ctx, part)
	if err != nil {
		return nil, nil, err
	}
	told, err = fill(ctx, db, c, of)
	if err = errors.Join(err, db.Close()); err != nil {
		return told, nil, errors.Join(err, os.Remove(part))
	}
	return told, func() error { return os.Rename(part, path) }, nil
}

func fill(ctx context.Context, db *sqlite3.Conn, c *source.Config, of map[string][]byte) (map[string]Told, error) {
	defer db.SetInterrupt(db.SetInterrupt(ctx))
	if err := db.Exec("pragma journal_mode = off; pragma synchronous = off; begin"); err != nil {
		return nil, err
	}
	told := map[string]Told{}
	var refused error
	for _, id := range slices.Sorted(maps.Keys(c.Tables)) {
		t := c.Tables[id]
		if err := db.Exec(createOf(id, t)); err != nil {
			return nil, fmt.Errorf("making the table %s: %w", id, err)
		}
		data, ok := of[id]
		if !ok {
			continue
		}
		w := &writer{db: db, table: id, of: t}
		if err := w.write(ctx, data); err != nil {
			return nil, fmt.Errorf("the file of %s: %w", id, err)
		}
		told[id] = w.told
		if w.told.Left > 0 && t.Faults != "skip" {
			refused = fmt.Errorf("the file of %s %w", id, ErrFaults)
		}
	}
	if refused != nil {
		return told, refused
	}
	return told, db.Exec("commit")
}

var declared = map[string]string{"text": "text", "integer": "integer", "date": "text", "timestamp": "text",
	"flag": "boolean"}

func createOf(id string, t source.FileTable) string {
	text, keys := "create table "+quoted(id)+" (", ""
	for i, c := range t.Columns {
		if i > 0 {
			text += ", "
		}
		kind := declared[c.Type]
		if c.Type == "decimal" {
			kind = fmt.Sprintf("numeric(15,%d)", c.Scale)
		}
		text += quoted(c.Name) + " " + kind
		if c.Required || c.Key {
			text += " not null"
		}
		if c.Key {
			keys += ", " + quoted(c.Name)
		}
	}
	if keys != "" {
		text += ", primary key (" + keys[2:] + ")"
	}
	return text + ")"
}

// quoted writes a plain name.
func quoted(name string) string { return `"` + name + `"` }
