// Package compare computes the differences between sets of rows: so far
// between the periods that one report was run for.
package compare

import (
	"context"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/period"
)

// Layout tells what the columns of the periods' frames are.
type Layout struct {
	Key     []int        // columns that find a row in the other periods
	Measure []bool       // which columns are figures to compare
	Begins  []period.Day // the first days of the periods; nil where keys do not line up by them
}

// Periods writes one row for every key that any of the frames has, in the
// order in which keys first appear. The frames have the same schema; the first
// is the period itself, the others its companions. A row holds the columns of
// the frames in order and, after each measure and for each companion: its
// figure, the change from it, and the change as [Percent] of it. A key that a
// period does not have counts as nothing in the change. All frames are read
// into memory. It fails when a change has too many digits for its column.
func Periods(ctx context.Context, frames []*frame.Frame, layout Layout, out *frame.Builder) error {
	rows, err := join(ctx, frames, layout)
	if err != nil {
		return err
	}
	schema := frames[0].Schema()
	for _, r := range rows {
		at := 0
		for col, field := range schema {
			if !layout.Measure[col] {
				if err := set(out, at, r.first(col, layout)); err != nil {
					return err
				}
				at++
				continue
			}
			present := r.cell(0, col)
			if err := set(out, at, present); err != nil {
				return err
			}
			at++
			for i := range frames[1:] {
				other := r.cell(i+1, col)
				change := frame.Value{Kind: field.Kind, Number: present.Number.Plus(other.Number, -1)}
				change.Null = present.Null && other.Null
				for n, v := range []frame.Value{other, change, Percent(change, other)} {
					if err := set(out, at+n, v); err != nil {
						return err
					}
				}
				at += 3
			}
		}
		if err := out.EndRow(); err != nil {
			return err
		}
	}
	return nil
}

// row is where a key stands in each period; nil where it does not.
type row []*place

type place struct {
	batch *frame.Batch
	at    int
}

// join finds the rows of all frames that have the same key.
// Days, months and weeks in a key line up by their place in the period.
func join(ctx context.Context, frames []*frame.Frame, layout Layout) (rows []row, err error) {
	known := map[string]int{}
	for period, f := range frames {
		shift := layout.shift(period)
		for i := range f.Batches() {
			b, err := f.Batch(ctx, i, nil)
			if err != nil {
				return nil, err
			}
			for at := range b.Rows {
				k := keyOf(b, at, layout.Key, shift)
				n, ok := known[k]
				if !ok {
					n = len(rows)
					known[k] = n
					rows = append(rows, make(row, len(frames)))
				}
				rows[n][period] = &place{b, at}
			}
		}
	}
	return rows, nil
}

func keyOf(b *frame.Batch, at int, key []int, shift shift) string {
	var k strings.Builder
	for _, col := range key {
		if b.Null(col, at) {
			k.WriteByte(1)
		}
		k.WriteString(shift.placed(b.Value(col, at)))
		k.WriteByte(0)
	}
	return k.String()
}

func (r row) cell(period, col int) frame.Value {
	p := r[period]
	if p == nil {
		return frame.Value{Null: true}
	}
	return p.batch.Value(col, p.at)
}

// first returns a cell from the first period that has the row; of a key, as it is
// called in the period itself.
func (r row) first(col int, layout Layout) frame.Value {
	for period := range r {
		if r[period] != nil {
			v := r.cell(period, col)
			if slices.Contains(layout.Key, col) {
				v = layout.shift(period).value(v)
			}
			return v
		}
	}
	return frame.Value{Null: true}
}

func set(out *frame.Builder, col int, v frame.Value) error {
	switch {
	case v.Null:
		return nil
	case v.Kind == frame.Text:
		out.Text(col, []byte(v.Text))
		return nil
	}
	return out.Int(col, v.Int())
}

// Percent returns a change as percent of what it is a change from, to one
// place, rounded half away from zero. It has no value where there is nothing
// to be a percentage of. The sign is that of the change.
func Percent(change, from frame.Value) frame.Value {
	v := frame.Value{Kind: frame.Decimal, Null: change.Null || from.Null || from.Number.Digits.Sign() == 0}
	if v.Null {
		return v
	}
	whole := from.Number
	if whole.Digits.Sign() < 0 {
		whole.Digits = whole.Digits.Negate()
	}
	v.Number, _ = change.Number.Times(frame.Exact(100, 0)).Over(whole, 1)
	return v
}
