// Package table is rows that can be asked, wherever they lie: how many meet
// conditions, a page of them in an order, groups with their figures, where a text
// stands.
package table

import (
	"context"

	"mantilla/core/formula"
	"mantilla/core/frame"
)

// Table is rows that can be asked. A sheet knows nothing else of rows. Columns are
// named by their places in the schema. Every call ends soon after its context does,
// with the context's cause, and may be made from several goroutines.
type Table interface {
	// Schema is the columns: those of the rows, and those computed of each row.
	Schema() frame.Schema
	// Rows is how many rows there are.
	Rows() int
	// With is the table with further columns, which are computed of each row.
	With(columns []Computed) Table
	// Count is how many rows meet conditions.
	Count(ctx context.Context, where Where) (int, error)
	// Groups are the rows that meet conditions, gathered by the values of columns,
	// the first outermost, with figures of every group. Without measures they are the
	// different values that there are.
	Groups(ctx context.Context, where Where, by []int, measures []Measure) (*Groups, error)
	// Page is rows of an order, from the first on, and their numbers.
	Page(ctx context.Context, order Order, first, count int, columns []int) (*frame.Batch, []uint32, error)
	// Each hands on all rows of an order, in batches.
	Each(ctx context.Context, order Order, columns []int, visit func(*frame.Batch) error) error
	// Find returns the places within an order of the rows that have a value which is
	// sought in one of the columns.
	Find(ctx context.Context, order Order, columns []int, sought Sought) ([]uint32, error)
	// Take is rows by their numbers, in the order of these.
	Take(ctx context.Context, numbers []uint32, columns []int) (*frame.Batch, error)
}

// Where is which rows are meant: those that meet all conditions and, where Filled
// names columns of numbers, have a value other than 0 in one of them.
type Where struct {
	Conditions []Condition
	Filled     []int
}

// Order is rows one after the other: by the values of the columns that they are
// grouped by, then by the keys, then as they are kept.
type Order struct {
	Where
	By   []int
	Keys []frame.Key
}

// Computed is a column that is made of each row.
type Computed struct {
	Field   frame.Field
	Formula *formula.Formula
	Key     string // tells what it gives apart from what any other computed column does
}

// Measure is a figure to be computed of one column in every group. Percent is the
// rank that [frame.Percentile] asks for, from 0 to 100.
type Measure struct {
	Column  int
	Op      frame.Op
	Percent frame.Number
}

// Sought tells which values are found: In returns what tells it of the cells of a kind
// that have a value, to one goroutine; nil where no value of the kind can be found.
type Sought interface {
	In(field frame.Field) func(c *frame.Column, row int) bool
}

// Groups are rows gathered by the values of columns, one level below the other.
// Level 0 is all rows in one group; the groups of the deepest level are called
// leaves. Groups stand in the order of their values within their parents, and what
// has no value stands last. They are not changed once they are made.
type Groups struct {
	Levels   []Level
	Measures []Measure
	Fields   []frame.Field // what the figures of each measure are
}

// Level is the groups of one depth. The arrays are by group; those of offsets
// have one element more.
type Level struct {
	Field    frame.Field    // the column that the level gathers by; zero at level 0
	Keys     frame.Vector   // the group's value in that column
	Parent   []uint32       // the group's place in the level above
	Children []int          // children of group g are those from Children[g] up to Children[g+1] in the level below
	Rows     []int          // rows of group g are those from Rows[g] up to Rows[g+1] of the order by the levels
	Figures  []frame.Vector // by measure: the figure of each group
}

// Len returns how many groups there are.
func (l *Level) Len() int { return len(l.Rows) - 1 }

// Size returns how many rows a group has.
func (l *Level) Size(g int) int { return l.Rows[g+1] - l.Rows[g] }

// Key returns the value that a group stands for.
func (l *Level) Key(g int) frame.Value { return l.Keys.Value(l.Field, g) }

// Figures returns what the figures of a measure are and, level by level, the figure
// of each group; ok is false where the groups were made without that measure.
func (g *Groups) Figures(m Measure) (field frame.Field, levels []frame.Vector, ok bool) {
	for i, own := range g.Measures {
		if own != m {
			continue
		}
		for level := range g.Levels {
			levels = append(levels, g.Levels[level].Figures[i])
		}
		return g.Fields[i], levels, true
	}
	return field, nil, false
}

// Bytes returns about how much memory the groups take.
func (g *Groups) Bytes() (n int) {
	for i := range g.Levels {
		l := &g.Levels[i]
		n += l.Keys.Bytes() + 4*len(l.Parent) + 8*len(l.Children) + 8*len(l.Rows)
		for m := range l.Figures {
			n += l.Figures[m].Bytes()
		}
	}
	return n
}
