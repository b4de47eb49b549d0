// Package kept answers what is asked of a [table.Table] from rows that are kept column by
// column.
package kept

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// Table asks rows that are kept column by column. Columns that are computed of each
// row are made batch by batch when they are needed. What is dear to find, such as
// an order, is kept in the cache.
type Table struct {
	rows     *frame.Frame
	cache    table.Cache
	computed []table.Computed
	own      int // how many columns the rows have that are not computed
}

// Of returns the table of kept rows.
func Of(rows *frame.Frame, cache table.Cache) *Table {
	return &Table{rows: rows, cache: cache, own: len(rows.Schema())}
}

var _ table.Table = (*Table)(nil)

// Schema is the columns of the rows and those that are computed.
func (k *Table) Schema() frame.Schema { return k.rows.Schema() }

// Rows is how many rows there are.
func (k *Table) Rows() int { return k.rows.Rows() }

// With adds columns. A formula may speak of all columns before its own.
func (k *Table) With(columns []table.Computed) table.Table {
	if len(columns) == 0 {
		return k
	}
	out := &Table{cache: k.cache, computed: columns, own: len(k.rows.Schema())}
	fields := make(frame.Schema, len(columns))
	for i, c := range columns {
		fields[i] = c.Field
	}
	out.rows = k.rows.With(fields, out.compute)
	return out
}

// compute makes a column of a batch, which is kept in the cache.
func (k *Table) compute(ctx context.Context, batch, col int) (*frame.Column, error) {
	c := k.computed[col]
	made, err := k.cache.Get(fmt.Sprintf("%s/computed/%d", c.Key, batch), func() (table.Sized, error) {
		var needs []int
		for _, name := range c.Formula.Names() {
			if at := k.rows.Schema()[:k.own+col].Index(name); at >= 0 {
				needs = append(needs, at)
			}
		}
		b, err := k.rows.Batch(ctx, batch, append([]int{}, needs...))
		if err != nil {
			return nil, err
		}
		cells, err := c.Formula.Rows(b)
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", c.Field.Name, err)
		}
		return frame.ColumnOf(cells), nil
	})
	if err != nil {
		return nil, err
	}
	return made.(*frame.Column), nil
}

// column returns the place of a column, or an error that names those there are.
func (k *Table) column(name string) (int, error) {
	if c := k.rows.Schema().Index(name); c >= 0 {
		return c, nil
	}
	var names []string
	for _, field := range k.rows.Schema() {
		names = append(names, field.Name)
	}
	return 0, fmt.Errorf("there is no column %q; there are %s", name, strings.Join(names, ", "))
}

// identity tells apart what a column holds, whatever it is called.
func (k *Table) identity(col int) string {
	if col < k.own {
		return k.rows.Schema()[col].Name
	}
	return k.computed[col-k.own].Key
}

// Selection is row numbers that rise; a nil selection is all rows.
type Selection []uint32

// Bytes returns how much memory the numbers take.
func (s Selection) Bytes() int { return 4 * len(s) }

// key tells apart which rows are meant.
func (k *Table) key(w table.Where) string {
	var b strings.Builder
	for _, c := range w.Conditions {
		at := k.rows.Schema().Index(c.Column)
		if at < 0 {
			continue // it is refused later
		}
		fmt.Fprintf(&b, "%q %d %q %v\n", k.identity(at), c.Test, c.Texts, c.Ints)
	}
	for _, col := range w.Filled {
		fmt.Fprintf(&b, "filled %q\n", k.identity(col))
	}
	return table.Digest(b.String())
}

func (k *Table) orderKey(o table.Order) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", k.key(o.Where))
	for _, col := range o.By {
		fmt.Fprintf(&b, "by %q\n", k.identity(col))
	}
	for _, key := range o.Keys {
		if at := k.rows.Schema().Index(key.Column); at >= 0 {
			fmt.Fprintf(&b, "%q %v %v\n", k.identity(at), key.Descending, key.NullsFirst)
		}
	}
	return table.Digest(b.String())
}

// Count is how many rows meet conditions.
func (k *Table) Count(ctx context.Context, w table.Where) (int, error) {
	rows, err := k.selected(ctx, w)
	if rows == nil {
		return k.Rows(), err
	}
	return len(rows), err
}

// selected are the rows that meet conditions; nil where there are none.
func (k *Table) selected(ctx context.Context, w table.Where) (Selection, error) {
	if len(w.Conditions) == 0 && len(w.Filled) == 0 {
		return nil, nil
	}
	kept, err := k.cache.Get(k.key(w)+"/rows", func() (table.Sized, error) {
		rows, err := k.filter(ctx, w)
		return rows, err
	})
	if err != nil {
		return nil, err
	}
	return kept.(Selection), nil
}

// manyRows is from how many rows on it pays to share work.
const manyRows = 4096
