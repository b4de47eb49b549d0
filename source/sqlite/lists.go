package sqlite

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/source"
)

// selected writes the query that gives every entry of a list: the parts of an
// entry, its scope, and then the fields to find and to narrow by.
func selected(l source.List, narrowing []string) string {
	or := func(sql, otherwise string) string {
		if sql == "" {
			return otherwise
		}
		return sql
	}
	pieces := []string{l.Code, l.Label, or(l.Kind, "''"), or(l.Parent, "null"), or(l.Detail, "''"), or(l.Current, "1"),
		or(l.Scope, "null")}
	pieces = append(pieces, l.Find...)
	for _, name := range narrowing {
		pieces = append(pieces, l.Fields[name])
	}
	return fmt.Sprintf("select %s from %s order by %s, %s limit %d", strings.Join(pieces, ", "), l.From,
		or(l.Order, l.Label), l.Label, source.MostItems+1)
}

// List reads all entries of a declared list.
func (f *File) List(ctx context.Context, id string) (items []source.Item, err error) {
	l, ok := f.config.Lists[id]
	if !ok {
		return nil, fmt.Errorf("source %s has no list %q; it has %s", f.config.ID, id, nearest.And(f.config.ListNames()))
	}
	narrowing := slices.Sorted(maps.Keys(l.Fields))
	err = f.conn(ctx, func(c *sqlite3.Conn) error {
		stmt, err := prepare(c, selected(l, narrowing))
		if err != nil {
			return fmt.Errorf("list %s: %w", id, err)
		}
		defer stmt.Close()
		for stmt.Step() {
			items = append(items, item(stmt, len(l.Find), narrowing))
		}
		return stmt.Err()
	})
	if err == nil && len(items) > source.MostItems {
		err = fmt.Errorf("source %s, list %s: it has more than %d entries; narrow its from", f.config.ID, id,
			source.MostItems)
	}
	return items, err
}

func item(s *sqlite3.Stmt, find int, narrowing []string) source.Item {
	const fixed = 7
	i := source.Item{Scope: s.ColumnText(6),
		Entry: param.Entry{Code: s.ColumnText(0), Label: s.ColumnText(1), Kind: s.ColumnText(2),
			Parent: s.ColumnText(3), Detail: s.ColumnText(4), Current: s.ColumnBool(5)}}
	for n := range find {
		i.Find = append(i.Find, s.ColumnText(fixed+n))
	}
	if len(narrowing) > 0 {
		i.Fields = make(map[string]string, len(narrowing))
		for n, name := range narrowing {
			i.Fields[name] = s.ColumnText(fixed + find + n)
		}
	}
	return i
}
