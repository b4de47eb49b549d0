package sqlite

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/source"
)

// list returns a declared list, or an error that names those there are.
func (f *File) list(id string) (source.List, error) {
	l, ok := f.config.Lists[id]
	if !ok {
		return l, fmt.Errorf("source %s has no list %q; it has %s", f.config.ID, id, nearest.And(f.config.ListNames()))
	}
	return l, nil
}

// selected writes the query that gives every entry of a list.
func selected(l source.List) string {
	or := func(sql, otherwise string) string {
		if sql == "" {
			return otherwise
		}
		return sql
	}
	find := make([]string, 0, len(l.Find))
	for _, field := range append([]string{l.Code, l.Label}, l.Find...) {
		find = append(find, "fold(coalesce("+field+", ''))")
	}
	return fmt.Sprintf(`select %s as code, %s as label, %s as kind, %s as parent, %s as detail, %s as current, %s as place, %s as found from %s`,
		l.Code, l.Label, or(l.Kind, "''"), or(l.Parent, "null"), or(l.Detail, "''"), or(l.Current, "1"),
		or(l.Order, l.Label), strings.Join(find, " || char(10) || "), l.From)
}

// query runs a query over a list's entries; where may hold ? marks.
func (f *File) query(ctx context.Context, id, where string, limit int, args ...any) (entries []param.Entry, err error) {
	l, err := f.list(id)
	if err != nil {
		return nil, err
	}
	err = f.conn(ctx, func(c *sqlite3.Conn) error {
		stmt, err := prepare(c, "select code, label, kind, parent, detail, current from ("+selected(l)+") "+where+
			" order by place, label limit "+fmt.Sprint(limit))
		if err != nil {
			return fmt.Errorf("list %s: %w", id, err)
		}
		defer stmt.Close()
		if err := bind(stmt, args); err != nil {
			return err
		}
		for stmt.Step() {
			entries = append(entries, param.Entry{Code: stmt.ColumnText(0), Label: stmt.ColumnText(1), Kind: stmt.ColumnText(2),
				Parent: stmt.ColumnText(3), Detail: stmt.ColumnText(4), Current: stmt.ColumnBool(5)})
		}
		return stmt.Err()
	})
	return entries, err
}

// Entries returns the entries of a list that meet the wish. A search finds
// entries that hold every word of it, whatever the case and accents.
func (f *File) Entries(ctx context.Context, list string, w source.Wish) ([]param.Entry, error) {
	if w.Codes != nil {
		codes, _ := json.Marshal(w.Codes)
		return f.query(ctx, list, "where code in (select value from json_each(?))", w.Limit, string(codes))
	}
	var tests []string
	var args []any
	for _, word := range strings.Fields(frame.Fold(w.Search)) {
		tests, args = append(tests, "instr(found, ?) > 0"), append(args, word)
	}
	where := ""
	if len(tests) > 0 {
		where = "where " + strings.Join(tests, " and ")
	}
	return f.query(ctx, list, where, w.Limit, args...)
}

// Match returns the entries whose code or label is what was typed, or whose
// path is, written with slashes: Marr/Hollin.
func (f *File) Match(ctx context.Context, list, typed string) ([]param.Entry, error) {
	found, err := f.query(ctx, list, "where code = ?", 1, typed) // the source's index finds it at once
	if err != nil || len(found) > 0 {
		return found, err
	}
	folded := frame.Fold(typed)
	found, err = f.query(ctx, list, "where fold(code) = ?1 or fold(label) = ?1", 20, folded)
	if exact := slices.IndexFunc(found, func(e param.Entry) bool { return frame.Fold(e.Code) == folded }); exact >= 0 {
		return found[exact : exact+1], err
	}
	above, name, isPath := cutLast(typed)
	if err != nil || len(found) > 0 || !isPath {
		return found, err
	}
	parents, err := f.Match(ctx, list, above)
	if err != nil {
		return nil, err
	}
	for _, p := range parents {
		below, err := f.query(ctx, list, "where parent = ? and fold(label) = ?", 20, p.Code, frame.Fold(name))
		if err != nil {
			return nil, err
		}
		found = append(found, below...)
	}
	return found, nil
}

func cutLast(path string) (above, name string, ok bool) {
	i := strings.LastIndex(path, "/")
	if i < 0 {
		return "", path, false
	}
	return strings.TrimSpace(path[:i]), strings.TrimSpace(path[i+1:]), true
}

// nearAmong is how many entries of a list are compared with what was typed.
const nearAmong = 20_000

// Near returns the entries most like what was typed.
func (f *File) Near(ctx context.Context, list, typed string) ([]param.Entry, error) {
	all, err := f.query(ctx, list, "", nearAmong)
	if err != nil {
		return nil, err
	}
	byName := map[string]param.Entry{}
	var names []string
	for _, e := range all {
		for _, name := range []string{e.Label, e.Code} {
			if _, known := byName[name]; !known {
				byName[name] = e
				names = append(names, name)
			}
		}
	}
	var out []param.Entry
	for _, name := range nearest.Names(typed, names, 3) {
		if e := byName[name]; !slices.ContainsFunc(out, func(o param.Entry) bool { return o.Code == e.Code }) {
			out = append(out, e)
		}
	}
	return out, nil
}

// Below returns the codes and those of all entries below them in the tree.
func (f *File) Below(ctx context.Context, list string, codes []string) (below []string, err error) {
	l, err := f.list(list)
	if err != nil {
		return nil, err
	}
	array, _ := json.Marshal(codes)
	err = f.conn(ctx, func(c *sqlite3.Conn) error {
		stmt, err := prepare(c, `with recursive tree as (`+selected(l)+`),
			down(code) as (select value from json_each(?) union select tree.code from tree join down on tree.parent = down.code)
			select code from down order by code`)
		if err != nil {
			return fmt.Errorf("list %s: %w", list, err)
		}
		defer stmt.Close()
		if err := bind(stmt, []any{string(array)}); err != nil {
			return err
		}
		for stmt.Step() {
			below = append(below, stmt.ColumnText(0))
		}
		return stmt.Err()
	})
	return below, err
}
