// Package formula is the calculation language of definitions and readers, with
// SQL's spelling and SQL's rules for what has no value. A formula is read and
// its types are checked once; it is computed a column at a time.
package formula

import (
	"time"

	"mantilla/core/expr"
	"mantilla/core/frame"
	"mantilla/core/period"
)

// Fault is what is wrong with a formula, at a byte of it.
type Fault = expr.Fault

// Scope is what a formula may speak of.
type Scope struct {
	Columns  frame.Schema           // a cell for each row
	Given    map[string]frame.Value // single values: today, parameters; those without a value are Null
	Calendar period.Calendar        // the zone of moments, the start of the fiscal year
	Groups   bool                   // the formula is of groups, even where it names no aggregate
}

// Formula is a calculation whose names and types are known.
type Formula struct {
	Text       string
	Field      frame.Field // what it gives
	Aggregates []Aggregate // what it needs of each group; none where it is computed of rows
	Windows    []Window    // what it needs of the groups around each group

	tree   *expr.Expr
	used   []string
	root   node
	scope  Scope
	around bool // part of a window
}

// Aggregate is a figure of the rows of each group.
type Aggregate struct {
	Op      frame.Op
	Of      *Formula     // computed of each row
	Percent frame.Number // of [frame.Percentile]
	Key     string       // tells what is computed of each row apart: a column's name, or the formula and a place in it
}

// Around says which groups a window looks at.
type Around string

// The windows of a formula.
const (
	ShareOfTotal  Around = "share"        // percent that a figure is of the figure of all rows
	ShareOfParent Around = "parent share" // percent that a figure is of the figure of the group above
	Running       Around = "running"      // sum of the figures of the groups up to this one within its parent
	Previous      Around = "previous"     // figure of the group before this one within its parent
	Change        Around = "change"       // difference from the previous figure
)

// Window is a figure of a group that is computed of the same figure of other
// groups.
type Window struct {
	Around Around
	Of     *Formula // of groups
}

// Beside is what a window is computed of, a cell for each group: the figure
// itself, that of the group before, or all up to it; of a share its own figure
// and that of the whole.
type Beside struct{ Own, Whole frame.Vector }

// OfGroups tells whether the formula is computed of groups, not of rows.
func (f *Formula) OfGroups() bool { return f.scope.Groups }

// Names returns the columns and single values that the formula speaks of, in
// its order.
func (f *Formula) Names() []string { return f.used }

// Given returns a single value that the formula may speak of.
func (f *Formula) Given(name string) (v frame.Value, ok bool) {
	v, ok = f.scope.Given[name]
	return v, ok
}

// Tree returns the formula as it was read, each part with what it gives: what an
// engine would be told. It is not to be changed. What [Formula.To] rounds to is not in
// it.
func (f *Formula) Tree() *expr.Expr { return f.tree }

// ofMany tells whether a part of a formula is a figure of many rows.
func ofMany(e *expr.Expr) bool {
	if e.Op != expr.Call {
		return false
	}
	f := functionNamed(e.Text)
	return f != nil && f.group
}

// Parse reads a formula. The error is a [*Fault].
func Parse(text string, scope Scope) (*Formula, error) {
	t, err := expr.Parse(text)
	if err != nil {
		return nil, err
	}
	scope.Groups = scope.Groups || t.Has(ofMany)
	f := &Formula{Text: text, tree: t, scope: scope}
	c := compiler{formula: f, source: text}
	if f.root, err = c.compile(t); err != nil {
		return nil, err
	}
	if f.root.field.Kind == anyKind {
		return nil, &Fault{At: t.At, Message: "the formula is always null"}
	}
	f.Field = f.root.field
	return f, nil
}

// ParseCondition reads a formula that is true, false or neither.
func ParseCondition(text string, scope Scope) (*Formula, error) {
	f, err := Parse(text, scope)
	if err == nil && f.Field.Kind != frame.Flag {
		err = &Fault{At: f.root.at, Message: "this is " + called(f.Field) + ", and a condition is wanted: compare it, as " +
			"in x > 3"}
	}
	if err != nil {
		return nil, err
	}
	return f, nil
}

// Holds tells whether a condition over single values is true. What has no
// value makes a comparison neither true nor false.
func (f *Formula) Holds() bool {
	v, err := f.root.eval(&env{rows: 1})
	return err == nil && !v.Null(0) && v.Ints[0] != 0
}

// Rows computes the formula of the rows of a batch whose first columns are
// those of the scope. The vector has as many cells as the batch has rows. It
// fails when a number gets more than 18 digits.
func (f *Formula) Rows(b *frame.Batch) (frame.Vector, error) {
	v, err := f.root.eval(&env{rows: b.Rows, column: b.Vector})
	if err != nil {
		return frame.Vector{}, err
	}
	v = v.spread(b.Rows)
	switch {
	case v.Wide != nil:
		v, err = v.narrowed()
	case f.Field.Kind.Numeric():
		err = v.within18()
	}
	if err != nil {
		return frame.Vector{}, err
	}
	return v.cleared(), nil
}

// OfGroup computes the formula of n groups from its aggregates and windows.
func (f *Formula) OfGroup(n int, aggregates []frame.Vector, windows []Beside) (frame.Vector, error) {
	v, err := f.root.eval(&env{rows: n, aggregates: aggregates, windows: windows})
	if err != nil {
		return frame.Vector{}, err
	}
	return v.spread(n).Vector, nil
}

// To returns a formula that gives numbers of the wanted kind and places,
// rounded half away from zero; other kinds must be the same.
func (f *Formula) To(field frame.Field) (*Formula, error) {
	own := f.Field
	same := own.Kind == field.Kind || own.Kind.Numeric() && field.Kind.Numeric() && own.Names == nil
	switch {
	case !same && !(own.Names != nil && field.Kind == frame.Text):
		return nil, &Fault{
			At:      f.root.at,
			Message: "the formula gives " + called(own) + ", and the column holds " + field.Kind.String(),
		}
	case own.Kind == frame.Money && field.Kind == frame.Money && own.Currency != field.Currency:
		return nil, &Fault{
			At:      f.root.at,
			Message: "the formula gives " + own.Currency + ", and the column holds " + field.Currency,
		}
	}
	out := *f
	switch {
	case field.Kind == frame.Text && own.Names != nil:
		out.root = named(f.root)
	case field.Kind.Numeric():
		out.root = rescaled(f.root, field.Scale)
	}
	out.Field = field
	out.Field.Grain, out.Field.Names = own.Grain, own.Names
	if field.Kind == frame.Text {
		out.Field.Names = nil
	}
	return &out, nil
}

// micros is a day in microseconds.
const micros = int64(24 * time.Hour / time.Microsecond)

// called names a type within a sentence.
func called(f frame.Field) string {
	switch f.Kind {
	case frame.Integer, frame.Decimal:
		return "a number"
	case frame.Money:
		return "money"
	case frame.Date:
		return "a day"
	case frame.Timestamp:
		return "a moment"
	case frame.Flag:
		return "a condition"
	case anyKind:
		return "null"
	}
	return "a text"
}
