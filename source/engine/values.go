package engine

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// mostValues is how many different values of a column, or combinations of several, are looked at
// one by one.
const mostValues = 50_000

// mostFound is how many different values may be what is sought.
const mostFound = 100_000

// texts are those of a column in their order, as [fold.Compare] says it.
type texts []string

// Bytes returns how much memory they take.
func (x texts) Bytes() (n int) {
	for _, text := range x {
		n += 16 + len(text)
	}
	return n
}

// each hands on the different values of a column, which come as they are.
func (t *Table) each(ctx context.Context, col int, limit string, visit func(c Cell) error) error {
	a := t.asking()
	cell, err := a.column(ctx, col)
	if err != nil {
		return err
	}
	words := []bool{t.schema[col].Kind == frame.Text}
	text := "select distinct x from (select " + cell + " as x" + a.from() + ") q where x is not null" + limit
	return t.conn.Query(ctx, text, a.args, words, func(row []Cell) error { return visit(row[0]) })
}

// textsThat are the different texts of a column that meet a test, which is known by a name.
func (t *Table) textsThat(ctx context.Context, col int, name string, meets func(text string) bool) ([]string, error) {
	kept, err := t.cache.Get(t.identity(col)+"/that/"+name, func() (table.Sized, error) {
		found := texts{}
		err := t.each(ctx, col, "", func(c Cell) error {
			if meets(c.Text) {
				found = append(found, c.Text)
			}
			if len(found) > mostFound {
				return fmt.Errorf("more than %d different values of %s are like this; say more of what is sought", mostFound,
					t.schema[col].Name)
			}
			return nil
		})
		return found, err
	})
	if err != nil {
		return nil, err
	}
	return kept.(texts), nil
}

// ordered are the different texts of a column in their order; it fails where there are many.
func (t *Table) ordered(ctx context.Context, col int) (texts, error) {
	kept, err := t.cache.Get(t.identity(col)+"/texts", func() (table.Sized, error) {
		found := texts{}
		err := t.each(ctx, col, fmt.Sprintf(" limit %d", mostValues+1), func(c Cell) error {
			found = append(found, c.Text)
			return nil
		})
		if err == nil && len(found) > mostValues {
			err = fmt.Errorf("the engine cannot order %s as people do: it has more than %d different texts, some in letters "+
				"other than Latin, Greek and Cyrillic", t.schema[col].Name, mostValues)
		}
		slices.SortFunc(found, func(a, b string) int { return fold.Compare(fold.Text(a), a, fold.Text(b), b) })
		return found, err
	})
	if err != nil {
		return nil, err
	}
	return kept.(texts), nil
}

// order writes what a column is ordered by: itself, its folded text and then itself, or the place
// of its text among all.
func (a *asking) order(ctx context.Context, col int) ([]string, error) {
	if a.ranks[col] != nil {
		return a.ranks[col], nil
	}
	cell, err := a.column(ctx, col)
	if err != nil {
		return nil, err
	}
	if a.table.schema[col].Kind != frame.Text {
		return []string{cell}, nil
	}
	by := []string{folded(cell, a.table.letters(col)), cell + ` collate "C"`}
	if a.table.letters(col) == Other {
		known, err := a.table.ordered(ctx, col)
		if err != nil {
			return nil, err
		}
		m := a.name()
		a.joins += fmt.Sprintf(" left join unnest(%s) with ordinality %s(k, r) on %s.k = %s", a.texts(known), m, m, cell)
		by = []string{m + ".r"}
	}
	a.ranks[col] = by
	return by, nil
}

// sorted writes the order of rows, beginning with the words order by.
func (a *asking) sorted(ctx context.Context, o table.Order) (string, error) {
	var list []string
	add := func(col int, descending, nullsFirst bool) error {
		by, err := a.order(ctx, col)
		for _, cell := range by {
			if descending {
				cell += " desc"
			}
			if nullsFirst {
				cell += " nulls first"
			} else {
				cell += " nulls last"
			}
			list = append(list, cell)
		}
		return err
	}
	for _, col := range o.By {
		if err := add(col, false, false); err != nil {
			return "", err
		}
	}
	for _, key := range o.Keys {
		col, err := a.table.column(key.Column)
		if err == nil {
			err = add(col, key.Descending, key.NullsFirst)
		}
		if err != nil {
			return "", err
		}
	}
	return " order by " + strings.Join(append(list, "t.n"), ", "), nil
}
