package reconciling

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/reconcile"
	"mantilla/library/reading"
)

// brought is what a reconciliation leaves to the next: what is open in it, and what was settled
// and does not count again.
type brought struct {
	ours    found
	lines   []reconcile.Item
	settled map[string]bool // keys of ours that are settled
	paid    map[line]int    // how many lines alike are settled
	open    map[line]int    // how many lines alike are open
}

// line is what a line of a statement is known by, in whichever file it stands.
type line struct {
	day             period.Day
	amount          int64
	reference, text string
}

func lineOf(it reconcile.Item) line { return line{it.Day, it.Amount, it.Reference, it.Text} }

// earlierRows are the rows of an earlier reconciliation, one after the other.
type earlierRows struct {
	schema frame.Schema
	shape  *reconcile.Shape
	at     []int // of the shape's columns of ours
	name   string
}

// bring reads what an earlier reconciliation left open. What differs stays open by the
// difference.
func (room *Room) bring(ctx context.Context, read *reading.Access, earlier *reading.Result, shape *reconcile.Shape,
	key []string) (b brought, err error) {
	of, err := read.Read(ctx, earlier, reconcile.AllRows+".rows", ask.Changes{})
	if err != nil {
		return b, err
	}
	ids := make([]string, 0, len(of.Dataset.Columns))
	for _, c := range of.Dataset.Columns {
		ids = append(ids, c.ID)
	}
	batches, schema, err := of.Batches(ctx, ids)
	if err != nil {
		return b, err
	}
	e := earlierRows{schema: schema, shape: shape, name: fmt.Sprintf("R-%06d", earlier.Number)}
	for _, id := range shape.Ours {
		e.at = append(e.at, e.column(id, shape.Rows.Column(id).Kind))
	}
	if e.at[indexOf(shape.Ours, shape.By.Amount)] < 0 {
		return b, fmt.Errorf("%s holds no column %q to be brought on; reconcile it again", e.name, shape.By.Amount)
	}
	b = brought{settled: map[string]bool{}, paid: map[line]int{}, open: map[line]int{}}
	differing := map[int64]int{} // by the number of a match, where among ours its rest stands
	for _, batch := range batches {
		for row := range batch.Rows {
			e.row(&b, batch, row, key, differing)
		}
	}
	return b, nil
}

func indexOf(ids []string, id string) int {
	for i := range ids {
		if ids[i] == id {
			return i
		}
	}
	return -1
}

// column is where a column of a kind stands; -1 for nowhere.
func (e *earlierRows) column(id string, kind frame.Kind) int {
	if at := e.schema.Index(id); at >= 0 && e.schema[at].Kind == kind {
		return at
	}
	return -1
}

// row takes from a row of the earlier reconciliation what matters to the next.
func (e *earlierRows) row(b *brought, batch *frame.Batch, row int, key []string, differing map[int64]int) {
	text := func(id string) string {
		at := e.schema.Index(id)
		if batch.Null(at, row) {
			return ""
		}
		return batch.Text(at, row)
	}
	number := func(id string) (int64, bool) {
		at := e.schema.Index(id)
		if batch.Null(at, row) {
			return 0, false
		}
		return batch.Int(at, row), true
	}
	class := reconcile.Class(text(reconcile.ClassColumn))
	since := text(reconcile.SinceColumn)
	if since == "" {
		since = e.name
	}
	at := reconcile.Row{Batch: batch, Row: row, At: e.at}
	_, isOurs := number(reconcile.OursColumn)
	if isOurs && (class == reconcile.Matched || class == reconcile.Differs) {
		if k := keyOf(at, e.shape, key); k != "" {
			b.settled[k] = true
		}
	}
	if class == reconcile.Differs {
		match, _ := number(reconcile.SetColumn)
		rest, known := differing[match]
		if !known && isOurs {
			it := item(at, e.shape)
			it.Amount, it.Since = 0, since
			rest = len(b.ours.items)
			differing[match], b.ours.items, b.ours.rows = rest, append(b.ours.items, it), append(b.ours.rows, at)
		}
		difference, _ := number(reconcile.DifferenceColumn)
		b.ours.items[rest].Amount -= difference
	} else if isOurs && class != reconcile.Matched {
		it := item(at, e.shape)
		it.Since = since
		b.ours.items, b.ours.rows = append(b.ours.items, it), append(b.ours.rows, at)
	}
	amount, isLine := number(reconcile.AmountColumn)
	if !isLine {
		return
	}
	day, _ := number(reconcile.DayColumn)
	it := reconcile.Item{Amount: amount, Day: period.Day(day), Reference: text(reconcile.ReferenceColumn),
		Text: text(reconcile.TextColumn), Since: since}
	switch class {
	case reconcile.Matched, reconcile.Differs, reconcile.Before: // what is of before the beginning stays there
		b.paid[lineOf(it)]++
		return
	}
	b.lines, b.open[lineOf(it)] = append(b.lines, it), b.open[lineOf(it)]+1
}

// keyOf is the key of a row of ours; "" where it has none.
func keyOf(r reconcile.Row, shape *reconcile.Shape, key []string) string {
	var out strings.Builder
	for _, id := range key {
		at := r.At[indexOf(shape.Ours, id)]
		if at < 0 || r.Batch.Null(at, r.Row) {
			return ""
		}
		c := shape.Rows.Column(id)
		if c.Kind == frame.Text {
			fmt.Fprintf(&out, "%q ", r.Batch.Text(at, r.Row))
		} else {
			fmt.Fprintf(&out, "%d ", r.Batch.Int(at, r.Row))
		}
	}
	return out.String()
}

// leftOut is how many rows and lines were settled before and stand in the later sides again.
type leftOut struct{ rows, lines int }

// join puts what was brought before what is new. Rows and lines that were settled do not count
// again, and of those that are open and stand in both, the new ones count.
func (b *brought) join(fresh found, lines []reconcile.Item, key []string, shape *reconcile.Shape) (s reconcile.Sides,
	left leftOut) {
	again := map[string]bool{}
	var items []reconcile.Item
	var rows []reconcile.Row
	for i, it := range fresh.items {
		k := keyOf(fresh.rows[i], shape, key)
		if k != "" && b.settled[k] {
			left.rows++
			continue
		}
		again[k] = k != ""
		items, rows = append(items, it), append(rows, fresh.rows[i])
	}
	for i, it := range b.ours.items {
		if k := keyOf(b.ours.rows[i], shape, key); !again[k] {
			s.Ours, s.Rows = append(s.Ours, it), append(s.Rows, b.ours.rows[i])
		}
	}
	s.Ours, s.Rows = append(s.Ours, items...), append(s.Rows, rows...)
	for _, it := range lines {
		switch of := lineOf(it); {
		case b.paid[of] > 0:
			b.paid[of]--
			left.lines++
		case b.open[of] > 0: // the one that was brought is the same
			b.open[of]--
		default:
			s.Theirs = append(s.Theirs, it)
		}
	}
	s.Theirs = append(append([]reconcile.Item{}, b.lines...), s.Theirs...)
	return s, left
}
