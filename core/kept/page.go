package kept

import (
	"context"
	"slices"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// mostLeast is how many first rows of an order are found without ordering all; so
// many pages are turned without it.
const mostLeast = 4096

// manyOrdered is from how many rows on it pays to find the first alone.
const manyOrdered = 1 << 18

// takenRows is how many ordered rows are gathered at once. Each time all batches may
// have to be loaded, so there should not be many times.
const takenRows = 1 << 18

// Page is rows of an order.
func (k *Table) Page(ctx context.Context, o table.Order, first, count int, columns []int) (*frame.Batch, []uint32,
	error) {
	numbers, err := k.numbers(ctx, o, first, count)
	if err != nil {
		return nil, nil, err
	}
	b, err := k.Take(ctx, numbers, columns)
	return b, numbers, err
}

// numbers are the numbers of rows of an order, fewer at its end.
func (k *Table) numbers(ctx context.Context, o table.Order, first, count int) ([]uint32, error) {
	order, err := k.ordered(ctx, o, first+count)
	if err != nil {
		return nil, err
	}
	if order == nil {
		first = min(first, k.Rows())
		out := make([]uint32, min(count, k.Rows()-first))
		for i := range out {
			out[i] = uint32(first + i)
		}
		return out, nil
	}
	first = min(first, len(order))
	return order[first : first+min(count, len(order)-first)], nil
}

// ordered returns the rows of an order up to most at least; nil where all stand as
// they are kept.
func (k *Table) ordered(ctx context.Context, o table.Order, most int) (Selection, error) {
	within, err := k.selected(ctx, o.Where)
	if err != nil || len(o.Keys) == 0 && len(o.By) == 0 {
		return within, err
	}
	many := len(within) >= manyOrdered || within == nil && k.Rows() >= manyOrdered
	name, find := "order", func() (Selection, error) { return k.arranged(ctx, within, o) }
	if many && most <= mostLeast && len(o.By) == 0 {
		name, find = "least", func() (Selection, error) { return k.least(ctx, within, o.Keys, mostLeast) }
	}
	kept, err := k.cache.Get(k.orderKey(o)+"/"+name, func() (table.Sized, error) {
		rows, err := find()
		return rows, err
	})
	if err != nil {
		return nil, err
	}
	return kept.(Selection), nil
}

func (k *Table) arranged(ctx context.Context, within Selection, o table.Order) (Selection, error) {
	var sorted Selection
	if len(o.Keys) > 0 {
		var err error
		if sorted, err = k.sort(ctx, within, o.Keys); err != nil || len(o.By) == 0 {
			return sorted, err
		}
	}
	g, err := k.group(ctx, within, o.By)
	if err != nil {
		return nil, err
	}
	return g.gathered(ctx, sorted)
}

// Each hands on all rows of an order.
func (k *Table) Each(ctx context.Context, o table.Order, columns []int, visit func(*frame.Batch) error) error {
	order, err := k.ordered(ctx, o, k.Rows())
	if err != nil {
		return err
	}
	if order == nil {
		for i := range k.rows.Batches() {
			b, err := k.rows.Batch(ctx, i, columns)
			if err == nil {
				err = visit(b.Columns(columns))
			}
			if err != nil {
				return err
			}
		}
		return nil
	}
	for part := range slices.Chunk(order, takenRows) {
		b, err := k.Take(ctx, part, columns)
		if err == nil {
			err = visit(b)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// Take gathers rows by their numbers, in this order. Columns are places in the
// schema; nil takes all of them. Every batch is loaded once, column by column, and
// is not held on to: the rows of a table that is larger than memory may stand in any
// order.
func (k *Table) Take(ctx context.Context, numbers []uint32, columns []int) (*frame.Batch, error) {
	schema := k.rows.Schema()
	if columns == nil {
		for i := range schema {
			columns = append(columns, i)
		}
	}
	fields, cells := make(frame.Schema, len(columns)), make([]frame.Vector, len(columns))
	for i, c := range columns {
		fields[i] = schema[c]
		cells[i].Nulls = make([]bool, len(numbers))
		if schema[c].Kind == frame.Text {
			cells[i].Texts = make([]string, len(numbers))
		} else {
			cells[i].Ints = make([]int64, len(numbers))
		}
	}
	batches, all := k.byBatch(numbers), make([]scratch, rescue.Workers)
	err := rescue.Spread(ctx, len(batches)*len(columns), func(worker, piece int) error {
		own, i := batches[piece/len(columns)], piece%len(columns)
		v, err := k.rows.Column(ctx, own.batch, columns[i])
		if err != nil {
			return err
		}
		own.take(v, numbers, &cells[i], &all[worker])
		return nil
	})
	if err != nil {
		return nil, err
	}
	return frame.Gathered(fields, cells, len(numbers)), nil
}

// wanted are the places in a list of row numbers that lie in one batch.
type wanted struct {
	batch, start int
	places       []uint32
}

// byBatch sorts the places of row numbers by their batches.
func (k *Table) byBatch(numbers []uint32) (out []wanted) {
	of := make([]uint32, len(numbers))
	for i, number := range numbers {
		of[i] = uint32(k.rows.BatchOf(int(number)))
	}
	starts := offsets(of, k.rows.Batches())
	next, places := slices.Clone(starts), make([]uint32, len(numbers))
	for i, batch := range of {
		places[next[batch]] = uint32(i)
		next[batch]++
	}
	for batch := range k.rows.Batches() {
		if own := places[starts[batch]:starts[batch+1]]; len(own) > 0 {
			start, _ := k.rows.Span(batch)
			out = append(out, wanted{batch, start, own})
		}
	}
	return out
}

// take copies the cells of a column of the batch to their places.
func (w *wanted) take(v *frame.Column, numbers []uint32, to *frame.Vector, s *scratch) {
	if 4*len(w.places) > v.Rows() {
		w.takeMost(v, numbers, to, s)
		return
	}
	for _, place := range w.places {
		r := int(numbers[place]) - w.start
		switch {
		case v.Null(r):
			to.Nulls[place] = true
		case v.Texts != nil:
			to.Texts[place] = v.Text(r)
		default:
			to.Ints[place] = v.Int(r)
		}
	}
}

// takeMost is take of so many rows of the batch that it pays to widen all of them.
func (w *wanted) takeMost(v *frame.Column, numbers []uint32, to *frame.Vector, s *scratch) {
	switch {
	case v.Texts == nil:
		ints := v.Ints(&s.ints)
		for _, place := range w.places {
			to.Ints[place] = ints[int(numbers[place])-w.start]
		}
	case v.Coded:
		codes := v.Codes(&s.codes)
		for _, place := range w.places {
			if r := int(numbers[place]) - w.start; !v.Null(r) {
				to.Texts[place] = v.Texts[codes[r]]
			}
		}
	default:
		for _, place := range w.places {
			to.Texts[place] = v.Texts[int(numbers[place])-w.start]
		}
	}
	if v.Nulls == nil {
		return
	}
	for _, place := range w.places {
		to.Nulls[place] = v.Nulls[int(numbers[place])-w.start]
	}
}
