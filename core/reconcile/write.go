package reconcile

import (
	"context"

	"mantilla/core/frame"
	"mantilla/core/timetable"
)

// Row is where the cells of one of ours are.
type Row struct {
	Batch *frame.Batch
	Row   int
	At    []int // where the shape's columns of ours stand in the batch; -1 for one that is not there
}

// Sides are the items of both sides, and where the cells of ours are.
type Sides struct {
	Ours, Theirs []Item
	Rows         []Row
}

// Write writes the rows of sets: all, or those that are open. Of items that belong together the
// first of both sides stand in one row, then the second, and so on.
func (s *Shape) Write(ctx context.Context, sides Sides, sets []Set, all bool, off timetable.DaysOff,
	out *frame.Builder) error {
	for n, set := range sets {
		if n%1024 == 0 && context.Cause(ctx) != nil {
			return context.Cause(ctx)
		}
		if !all && settled(set.Class) {
			continue
		}
		for i := range max(len(set.Ours), len(set.Theirs)) {
			w := writer{shape: s, sides: sides, out: out}
			if err := w.row(set, n+1, i, off); err != nil {
				return err
			}
		}
	}
	return nil
}

// writer writes a row, from left to right.
type writer struct {
	shape *Shape
	sides Sides
	out   *frame.Builder
	at    int
	err   error
}

func (w *writer) text(t string) {
	if t != "" {
		w.out.String(w.at, t)
	}
	w.at++
}

func (w *writer) number(n int64, is bool) {
	if is && w.err == nil {
		w.err = w.out.Int(w.at, n)
	}
	w.at++
}

// row writes the items of a set that stand in its row i.
func (w *writer) row(set Set, number, i int, off timetable.DaysOff) error {
	w.text(string(set.Class))
	w.text(set.How)
	w.number(int64(number), len(set.Ours)+len(set.Theirs) > 1)
	var ours, theirs Item
	isOurs, isTheirs := i < len(set.Ours), i < len(set.Theirs)
	if isOurs {
		ours = w.sides.Ours[set.Ours[i]]
		w.number(int64(set.Ours[i]+1), true)
		w.cells(w.sides.Rows[set.Ours[i]], ours)
	} else {
		w.at += 1 + len(w.shape.Ours)
	}
	if isTheirs {
		theirs = w.sides.Theirs[set.Theirs[i]]
		w.number(int64(set.Theirs[i]+1), true)
		w.number(int64(theirs.Day), true)
	} else {
		w.at += 2
	}
	w.text(theirs.Reference)
	w.text(theirs.Text)
	w.number(theirs.Amount, isTheirs)
	lagged := isOurs && isTheirs && !ours.Undated
	lag := 0
	if lagged {
		lag = Lag(ours.Day, theirs.Day, off)
	}
	w.number(int64(lag), lagged)
	w.number(theirs.Amount-ours.Amount, true)
	since := ours.Since
	if since == "" {
		since = theirs.Since
	}
	w.text(since)
	if w.err != nil {
		return w.err
	}
	return w.out.EndRow()
}

// cells writes the columns of one of ours; its amount is the item's, which may be what was left
// open of it.
func (w *writer) cells(from Row, it Item) {
	for i, id := range w.shape.Ours {
		c := w.shape.Rows.Column(id)
		switch at := from.At[i]; {
		case id == w.shape.By.Amount:
			w.number(it.Amount, true)
		case at < 0 || from.Batch.Null(at, from.Row):
			w.at++
		case c.Kind == frame.Text:
			w.text(from.Batch.Text(at, from.Row))
		default:
			w.number(from.Batch.Int(at, from.Row), true)
		}
	}
}
