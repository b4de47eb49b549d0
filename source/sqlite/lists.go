package sqlite

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/source"
)

// List reads all entries of a declared list.
func (f *File) List(ctx context.Context, id string) ([]source.Item, error) {
	return source.ReadList(ctx, f.config, dialect{}, id, f.entries)
}

// Find returns the entries of a declared list that are sought.
func (f *File) Find(ctx context.Context, id string, w source.Sought) ([]source.Item, error) {
	return source.FindIn(ctx, f.config, dialect{}, id, w, f.entries)
}

func (f *File) entries(ctx context.Context, text string, args []any, row func(cell func(int) string)) error {
	return f.conn(ctx, func(c *sqlite3.Conn) error {
		stmt, err := prepare(c, text)
		if err != nil {
			return err
		}
		defer stmt.Close()
		if err := bind(stmt, args); err != nil {
			return err
		}
		for stmt.Step() {
			row(stmt.ColumnText)
		}
		return stmt.Err()
	})
}

// Examine looks whether the file is there and can be read, and reads its lists.
func (f *File) Examine(ctx context.Context) (found source.Findings) {
	reached := found.Add("reached", func() (string, error) {
		version := ""
		err := f.conn(ctx, func(c *sqlite3.Conn) error {
			stmt, err := prepare(c, "select sqlite_version()")
			if err != nil {
				return err
			}
			defer stmt.Close()
			stmt.Step()
			version = stmt.ColumnText(0)
			return stmt.Err()
		})
		return fmt.Sprintf("the file %s is read by SQLite %s", filepath.Base(f.path), version), err
	})
	if !reached {
		return found
	}
	found.Add("only read", func() (string, error) {
		err := f.conn(ctx, func(c *sqlite3.Conn) error {
			if c.Exec("create table probe (x)") == nil {
				return errors.New("a table could be made in it")
			}
			return nil
		})
		return "the file is open for reading, and statements may do nothing else", err
	})
	found.Lists(ctx, f.config, f)
	return found
}

// Rest is none: a file tells at once whether it changed.
func (f *File) Rest() time.Duration { return 0 }
