package changes

import (
	"context"
	"fmt"
	"strings"
	"sync"

	"mantilla/core/frame"
	"mantilla/core/rescue"
)

// What a row can have become.
const (
	Same    = "same"
	Changed = "changed"
	New     = "new"  // it is after only
	Gone    = "gone" // it was before only
)

// Counts are how many rows became what, and in which columns any row has other cells.
type Counts struct {
	Same, Changed, New, Gone int
	Repeated                 int    // keys that stand in both sides, and in one of them more than once
	Columns                  []bool // by the columns after the key
}

// Said says the counts in a sentence.
func (c Counts) Said() string {
	if c.Changed+c.New+c.Gone == 0 {
		return fmt.Sprintf("Nothing changed: %d rows are the same.", c.Same)
	}
	said := fmt.Sprintf("%d changed, %d new, %d gone, %d the same.", c.Changed, c.New, c.Gone, c.Same)
	if c.Repeated > 0 {
		said += fmt.Sprintf(" %d keys stand more than once; their rows were paired with the same row where there is one, "+
			"and otherwise in their order.", c.Repeated)
	}
	return said
}

// count finds out what became of every row after. Batches are looked through side by side.
func (m *Match) count(ctx context.Context) error {
	columns := len(m.schema) - m.keys
	m.became, m.Columns, m.Gone = make([][]string, len(m.after)), make([]bool, columns), len(m.gone)
	var mu sync.Mutex // guards the counts
	return rescue.Spread(ctx, len(m.after), func(_, i int) error {
		var own Counts
		ever, differs, became := make([]bool, columns), make([]bool, columns), make([]string, m.after[i].Rows)
		for row, was := range m.pairs[i] {
			became[row] = m.compare(was, place{int32(i), int32(row)}, differs)
			switch became[row] {
			case Same:
				own.Same++
			case New:
				own.New++
			default:
				own.Changed++
				for col, d := range differs {
					ever[col] = ever[col] || d
				}
			}
		}
		mu.Lock()
		defer mu.Unlock()
		m.became[i] = became
		m.Same, m.Changed, m.New = m.Same+own.Same, m.Changed+own.Changed, m.New+own.New
		for col, d := range ever {
			m.Columns[col] = m.Columns[col] || d
		}
		return nil
	})
}

// compare tells what became of a row after that stood at a place before, and which cells differ.
func (m *Match) compare(was, is place, differs []bool) string {
	clear(differs)
	if was == nowhere {
		return New
	}
	before, after, became := m.before[was.batch], m.after[is.batch], Same
	for i := range differs {
		col := m.keys + i
		if !same(m.schema[col].Kind, before.Column(col), int(was.row), after.Column(col), int(is.row)) {
			became, differs[i] = Changed, true
		}
	}
	return became
}

// Row is where a row of a side stands; its batch is -1 where there is none.
type Row struct{ Batch, Row int }

// Each visits every row after in its order, with what became of it and where it stood before, and
// then the rows that are gone.
func (m *Match) Each(visit func(became string, was, is Row) error) error {
	row := func(at place) Row { return Row{int(at.batch), int(at.row)} }
	for i := range m.after {
		for n, became := range m.became[i] {
			if err := visit(became, row(m.pairs[i][n]), Row{i, n}); err != nil {
				return err
			}
		}
	}
	for _, at := range m.gone {
		if err := visit(Gone, row(at), row(nowhere)); err != nil {
			return err
		}
	}
	return nil
}

// Write writes every row of both sides as [Shape.Rows] has it, the rows after in their order and
// then those that are gone; or only those that are not the same. It fails when a change has too
// many digits for its column.
func (m *Match) Write(ctx context.Context, s *Shape, all bool, out *frame.Builder) error {
	w := writer{Match: m, shape: s, out: out, named: map[string]string{}, differs: make([]bool, len(m.Columns))}
	for i := range m.after {
		if err := context.Cause(ctx); err != nil {
			return err
		}
		for row, became := range m.became[i] {
			if !all && became == Same {
				continue
			}
			was, is := m.pairs[i][row], place{int32(i), int32(row)}
			if became == Changed {
				m.compare(was, is, w.differs)
			}
			if err := w.put(became, was, is); err != nil {
				return err
			}
		}
	}
	for i, at := range m.gone {
		if i%frame.BatchRows == 0 && context.Cause(ctx) != nil {
			return context.Cause(ctx)
		}
		if err := w.put(Gone, at, nowhere); err != nil {
			return err
		}
	}
	return nil
}

// writer writes rows.
type writer struct {
	*Match
	shape   *Shape
	out     *frame.Builder
	differs []bool            // of the row under way: which of its cells
	named   map[string]string // the names of columns that differ, by which they are
}

// put writes what became of a row, in which columns, its key, and its cells before, after and,
// where they are numbers or days, how much they changed.
func (w *writer) put(state string, was, is place) error {
	out := w.out
	out.Text(0, []byte(state))
	if state == Changed {
		out.Text(1, []byte(w.names()))
	}
	at := 2
	for col, field := range w.schema {
		before, after := w.cell(w.before, was, col), w.cell(w.after, is, col)
		if col < w.keys {
			key := after
			if is == nowhere {
				key = before
			}
			if err := key.put(out, at, field.Kind); err != nil {
				return err
			}
			at++
			continue
		}
		p := w.shape.parts[col-w.keys]
		if p.both {
			if err := before.put(out, at, field.Kind); err != nil {
				return err
			}
			at++
		} else if is == nowhere {
			after = before
		}
		if err := after.put(out, at, field.Kind); err != nil {
			return err
		}
		at++
		if p.change {
			if err := change(out, at, before, after, field.Kind); err != nil {
				return fmt.Errorf("the change of %s: %w", p.label, err)
			}
			at++
		}
	}
	return out.EndRow()
}

// names are the labels of the columns in which the row under way differs.
func (w *writer) names() string {
	var which strings.Builder
	for _, d := range w.differs {
		if d {
			which.WriteByte('1')
		} else {
			which.WriteByte('0')
		}
	}
	known, ok := w.named[which.String()]
	if !ok {
		var labels []string
		for i, d := range w.differs {
			if d {
				labels = append(labels, w.shape.parts[i].label)
			}
		}
		known = strings.Join(labels, ", ")
		w.named[which.String()] = known
	}
	return known
}

// cell is a cell of a side; its column is nil where there is no row, or no value.
type cell struct {
	column *frame.Column
	row    int
}

func (w *writer) cell(side Side, at place, col int) cell {
	if at == nowhere {
		return cell{}
	}
	c := cell{side[at.batch].Column(col), int(at.row)}
	if c.column.Null(c.row) {
		return cell{}
	}
	return c
}

func (c cell) put(out *frame.Builder, at int, kind frame.Kind) error {
	switch {
	case c.column == nil:
		return nil
	case kind == frame.Text:
		out.String(at, c.column.Text(c.row))
		return nil
	}
	return out.Int(at, c.column.Int(c.row))
}

// change writes by how much a number or a day changed. A number that is not there counts as
// nothing, so that changes add up to the change of the sum; a day that is not there gives none.
func change(out *frame.Builder, at int, before, after cell, kind frame.Kind) error {
	if before.column == nil && after.column == nil || !kind.Numeric() && (before.column == nil || after.column == nil) {
		return nil
	}
	n := int64(0)
	if after.column != nil {
		n = after.column.Int(after.row)
	}
	if before.column != nil {
		n -= before.column.Int(before.row)
	}
	return out.Int(at, n)
}
