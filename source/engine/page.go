package engine

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/table"
)

// Page is rows of an order, and their numbers.
func (t *Table) Page(ctx context.Context, o table.Order, first, count int, columns []int) (*frame.Batch, []uint32,
	error) {
	columns = t.all(columns)
	a := t.asking()
	text, words, err := a.selecting(ctx, columns)
	if err != nil {
		return nil, nil, err
	}
	test, err := a.where(ctx, o.Where)
	if err != nil {
		return nil, nil, err
	}
	order, err := a.sorted(ctx, o)
	if err != nil {
		return nil, nil, err
	}
	limit := fmt.Sprintf(" offset %d limit %d", first, count)
	if test == "" && len(o.By) == 0 && len(o.Keys) == 0 { // as they are kept, found by their numbers
		test, limit = fmt.Sprintf(" where t.n >= %d and t.n < %d", first, first+count), ""
	}
	g := t.gathering(columns)
	var numbers []uint32
	err = t.conn.Query(ctx, text+a.from()+test+order+limit, a.args, words, func(row []Cell) error {
		numbers = append(numbers, uint32(row[0].Int))
		g.add(row[1:])
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	return g.batch(), numbers, nil
}

// Take is rows by their numbers.
func (t *Table) Take(ctx context.Context, numbers []uint32, columns []int) (*frame.Batch, error) {
	columns = t.all(columns)
	a := t.asking()
	text, words, err := a.selecting(ctx, columns)
	if err != nil {
		return nil, err
	}
	wanted := make([]int64, len(numbers))
	for i, n := range numbers {
		wanted[i] = int64(n)
	}
	g := t.gathering(columns)
	at := make(map[uint32]int, len(numbers))
	test := " where t.n = any(" + a.ints(wanted) + ")"
	err = t.conn.Query(ctx, text+a.from()+test, a.args, words, func(row []Cell) error {
		at[uint32(row[0].Int)] = g.rows
		g.add(row[1:])
		return nil
	})
	if err != nil {
		return nil, err
	}
	places := make([]int, len(numbers))
	for i, n := range numbers {
		place, ok := at[n]
		if !ok {
			return nil, fmt.Errorf("there is no row %d; there are %d", n, t.Rows())
		}
		places[i] = place
	}
	return g.picked(places), nil
}

// Each hands on all rows of an order as they come from the engine.
func (t *Table) Each(ctx context.Context, o table.Order, columns []int, visit func(*frame.Batch) error) error {
	columns = t.all(columns)
	a := t.asking()
	text, words, err := a.selecting(ctx, columns)
	if err != nil {
		return err
	}
	test, err := a.where(ctx, o.Where)
	if err != nil {
		return err
	}
	order, err := a.sorted(ctx, o)
	if err != nil {
		return err
	}
	g := t.gathering(columns)
	hand := func() error {
		b := g.batch()
		g = t.gathering(columns)
		return visit(b)
	}
	err = t.conn.Query(ctx, text+a.from()+test+order, a.args, words, func(row []Cell) error {
		if g.add(row[1:]); g.rows == frame.BatchRows {
			return hand()
		}
		return nil
	})
	if err == nil && g.rows > 0 {
		err = hand()
	}
	return err
}

// all are the places of all columns where none are named.
func (t *Table) all(columns []int) []int {
	if columns != nil {
		return columns
	}
	for i := range t.schema {
		columns = append(columns, i)
	}
	return columns
}

// selecting writes the number of each row and its cells.
func (a *asking) selecting(ctx context.Context, columns []int) (text string, words []bool, err error) {
	list, words, err := a.columns(ctx, columns)
	return "select " + strings.Join(append([]string{"t.n"}, list...), ", "), append([]bool{false}, words...), err
}

// gathering is cells that come row by row.
type gathering struct {
	fields frame.Schema
	cells  []frame.Vector
	rows   int
}

func (t *Table) gathering(columns []int) *gathering {
	g := &gathering{cells: make([]frame.Vector, len(columns))}
	for i, col := range columns {
		g.fields = append(g.fields, t.schema[col])
		if t.schema[col].Kind == frame.Text {
			g.cells[i].Texts = []string{}
		} else {
			g.cells[i].Ints = []int64{}
		}
		g.cells[i].Nulls = []bool{}
	}
	return g
}

func (g *gathering) add(row []Cell) {
	for i, c := range row {
		to := &g.cells[i]
		to.Nulls = append(to.Nulls, c.Null)
		if to.Texts != nil {
			to.Texts = append(to.Texts, c.Text)
		} else {
			to.Ints = append(to.Ints, c.Int)
		}
	}
	g.rows++
}

func (g *gathering) batch() *frame.Batch { return frame.Columns(g.fields, g.cells, g.rows) }

// picked are rows by their places.
func (g *gathering) picked(places []int) *frame.Batch {
	out := &gathering{fields: g.fields, cells: make([]frame.Vector, len(g.cells)), rows: len(places)}
	for i, from := range g.cells {
		to := &out.cells[i]
		to.Nulls = pick(from.Nulls, places)
		if from.Texts != nil {
			to.Texts = pick(from.Texts, places)
		} else {
			to.Ints = pick(from.Ints, places)
		}
	}
	return out.batch()
}

func pick[T any](from []T, places []int) []T {
	out := slices.Grow([]T{}, len(places))
	for _, at := range places {
		out = append(out, from[at])
	}
	return out
}
