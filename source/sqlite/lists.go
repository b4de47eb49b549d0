package sqlite

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/source"
)

// List reads all entries of a declared list.
func (f *File) List(ctx context.Context, id string) (items []source.Item, err error) {
	l, err := f.config.Declared(id)
	if err != nil {
		return nil, err
	}
	narrowing := slices.Sorted(maps.Keys(l.Fields))
	items, err = f.entries(ctx, id, source.SelectList(l, narrowing, "1"), nil)
	if err != nil {
		return nil, err
	}
	return items, f.config.Bounded(id, items)
}

// Find returns the entries of a declared list that are sought.
func (f *File) Find(ctx context.Context, id string, w source.Sought) ([]source.Item, error) {
	l, err := f.config.Declared(id)
	if err != nil {
		return nil, err
	}
	text, args := source.SelectSought(l, slices.Sorted(maps.Keys(l.Fields)), "1", dialect{}, w)
	return f.entries(ctx, id, text, args)
}

// entries are those that a query for entries of a list gives.
func (f *File) entries(ctx context.Context, id, text string, args []any) (items []source.Item, err error) {
	l := f.config.Lists[id]
	narrowing := slices.Sorted(maps.Keys(l.Fields))
	err = f.conn(ctx, func(c *sqlite3.Conn) error {
		stmt, err := prepare(c, text)
		if err != nil {
			return fmt.Errorf("list %s: %w", id, err)
		}
		defer stmt.Close()
		if err := bind(stmt, args); err != nil {
			return fmt.Errorf("list %s: %w", id, err)
		}
		for stmt.Step() {
			items = append(items, source.ItemOf(stmt.ColumnText, len(l.Find), narrowing))
		}
		return stmt.Err()
	})
	return items, err
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
