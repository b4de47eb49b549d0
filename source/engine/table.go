// Package engine answers what is asked of a [table.Table] where the rows lie: in a table of a
// database that computes, in PostgreSQL's SQL. It gives what the rows would give here, cell by
// cell; what an engine cannot say exactly is refused with the reason.
//
// A table has the number of each row, from 0, as n, and its cells as c0, c1 and so on: texts as
// text, all others as whole numbers of 64 bits, as [frame.Batch.Int] gives them.
package engine

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// Conn runs queries where the rows lie.
type Conn interface {
	// Query hands on the rows of an answer, one by one; a row is the visitor's until it
	// returns. Args are written as texts, and cast where they stand. Words tells which cells
	// of a row are texts; the others are whole numbers.
	Query(ctx context.Context, text string, args []string, words []bool, visit func(row []Cell) error) error
}

// Cell is one of an answer.
type Cell struct {
	Null bool
	Int  int64
	Text string
}

// Rows is where rows lie, and what is known of them.
type Rows struct {
	Name    string // of their table, as it is written in SQL
	Count   int
	Schema  frame.Schema
	Letters []Letters // of the texts, by column; none for others
	Known   []Known   // by column; none where nothing is known
}

// Table asks rows that lie in an engine.
type Table struct {
	conn     Conn
	rows     Rows
	schema   frame.Schema // with what is computed
	computed []table.Computed
	cache    table.Cache
}

// Of returns the table of rows in an engine.
func Of(conn Conn, rows Rows, cache table.Cache) *Table {
	return &Table{conn: conn, rows: rows, schema: rows.Schema, cache: cache}
}

var _ table.Table = (*Table)(nil)

// Schema is the columns of the rows and those that are computed.
func (t *Table) Schema() frame.Schema { return t.schema }

// Rows is how many rows there are.
func (t *Table) Rows() int { return t.rows.Count }

// With adds columns. A formula may speak of all columns before its own.
func (t *Table) With(columns []table.Computed) table.Table {
	if len(columns) == 0 {
		return t
	}
	out := *t
	out.computed = append(append([]table.Computed{}, t.computed...), columns...)
	out.schema = append(frame.Schema{}, t.schema...)
	for _, c := range columns {
		out.schema = append(out.schema, c.Field)
	}
	return &out
}

// Count is how many rows meet conditions.
func (t *Table) Count(ctx context.Context, where table.Where) (int, error) {
	if len(where.Conditions) == 0 && len(where.Filled) == 0 {
		return t.Rows(), nil
	}
	kept, err := t.cache.Get(t.key(where)+"/count", func() (table.Sized, error) {
		a := t.asking()
		test, err := a.where(ctx, where)
		if err != nil {
			return nil, err
		}
		var n number
		err = t.conn.Query(ctx, "select count(*)"+a.from()+test, a.args, []bool{false}, func(row []Cell) error {
			n = number(row[0].Int)
			return nil
		})
		return n, err
	})
	if err != nil {
		return 0, err
	}
	return int(kept.(number)), nil
}

type number int

// Bytes is next to nothing.
func (number) Bytes() int { return 8 }

// own is how many columns the rows have that are not computed.
func (t *Table) own() int { return len(t.rows.Schema) }

// column returns the place of a column, or an error that names those there are.
func (t *Table) column(name string) (int, error) {
	if c := t.schema.Index(name); c >= 0 {
		return c, nil
	}
	var names []string
	for _, field := range t.schema {
		names = append(names, field.Name)
	}
	return 0, fmt.Errorf("there is no column %q; there are %s", name, strings.Join(names, ", "))
}

// identity tells apart what a column holds, whatever it is called.
func (t *Table) identity(col int) string {
	if col < t.own() {
		return t.schema[col].Name
	}
	return t.computed[col-t.own()].Key
}

// formula is that of a computed column.
func (t *Table) formula(col int) *formula.Formula { return t.computed[col-t.own()].Formula }

// key tells apart which rows are meant.
func (t *Table) key(w table.Where) string {
	var b strings.Builder
	for _, c := range w.Conditions {
		if at := t.schema.Index(c.Column); at >= 0 {
			fmt.Fprintf(&b, "%q %d %q %v\n", t.identity(at), c.Test, c.Texts, c.Ints)
		}
	}
	for _, col := range w.Filled {
		fmt.Fprintf(&b, "filled %q\n", t.identity(col))
	}
	return table.Digest(b.String())
}
