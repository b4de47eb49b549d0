package engine

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// Find asks each different value of the columns here, and the engine where those stand that are
// sought.
func (t *Table) Find(ctx context.Context, o table.Order, columns []int, sought table.Sought) ([]uint32, error) {
	a := t.asking()
	var tests, cells []string
	for _, col := range columns {
		holds := sought.In(t.schema[col])
		if holds == nil {
			continue
		}
		list, err := t.holding(ctx, a, col, holds)
		if err != nil {
			return nil, err
		}
		if list == "" {
			continue
		}
		cell, err := a.column(ctx, col)
		if err != nil {
			return nil, err
		}
		tests = append(tests, fmt.Sprintf("x%d = any(%s)", len(cells), list))
		cells = append(cells, fmt.Sprintf(", %s as x%d", cell, len(cells)))
	}
	out := []uint32{}
	if len(tests) == 0 {
		return out, nil
	}
	test, err := a.where(ctx, o.Where)
	if err != nil {
		return nil, err
	}
	order, err := a.sorted(ctx, o)
	if err != nil {
		return nil, err
	}
	text := "select p from (select row_number() over (" + strings.TrimSpace(order) + ") - 1 as p" +
		strings.Join(cells, "") + a.from() + test + ") q where " + strings.Join(tests, " or ") + " order by p"
	err = t.conn.Query(ctx, text, a.args, []bool{false}, func(row []Cell) error {
		out = append(out, uint32(row[0].Int))
		return nil
	})
	return out, err
}

// holding writes the values of a column that are sought; "" for none.
func (t *Table) holding(ctx context.Context, a *asking, col int, holds func(*frame.Column, int) bool) (string, error) {
	var pending, found []Cell
	ask := func() error {
		g := t.gathering([]int{col})
		for _, c := range pending {
			g.add([]Cell{c})
		}
		column := g.batch().Column(0)
		for row, c := range pending {
			if holds(column, row) {
				found = append(found, c)
			}
		}
		if pending = pending[:0]; len(found) > mostFound {
			return fmt.Errorf("more than %d different values of %s hold what is sought; write more of it", mostFound,
				t.schema[col].Name)
		}
		return nil
	}
	err := t.each(ctx, col, "", func(c Cell) error {
		if pending = append(pending, c); len(pending) == frame.BatchRows {
			return ask()
		}
		return nil
	})
	if err == nil {
		err = ask()
	}
	if err != nil || len(found) == 0 {
		return "", err
	}
	g := t.gathering([]int{col})
	for _, c := range found {
		g.add([]Cell{c})
	}
	if t.schema[col].Kind == frame.Text {
		return a.texts(g.cells[0].Texts), nil
	}
	return a.ints(g.cells[0].Ints), nil
}
