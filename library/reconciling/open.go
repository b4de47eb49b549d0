package reconciling

import (
	"context"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/reconcile"
	"mantilla/core/shown"
	"mantilla/model"
)

// OpenItems are what a reconciliation left open, for whoever chooses what belongs together.
type OpenItems struct {
	Against model.Against
	Result  int64
	Earlier int64 // 0 for none
	Ours    []Item
	Lines   []Item
	More    int // items beyond those that are listed
}

// Item is one of ours, or a line of the statement, that is open.
type Item struct {
	Number    int
	Match     int // items of one number are candidates of one another; 0 for none
	Class     string
	Day       string // "" for none
	Reference string
	Text      string
	Amount    string // as people read it
	Since     string // the reconciliation in which it was first left open
}

// mostOpen bounds how many open items of a side are listed.
const mostOpen = 1000

// OpenItems lists what a reconciliation left open.
func (a *Access) OpenItems(ctx context.Context, result int64) (o OpenItems, err error) {
	r, err := a.reading.Result(ctx, result)
	if err != nil {
		return o, err
	}
	m := r.Manifest.Made
	if m == nil || m.Against == nil {
		return o, model.Refuse("result", "R-%06d is no reconciliation", result)
	}
	o.Against, o.Result = *m.Against, m.Of[0].Result
	if len(m.Of) > 1 {
		o.Earlier = m.Of[1].Result
	}
	of, err := a.reading.Read(ctx, r, reconcile.OpenRows+".rows", ask.Changes{})
	if err != nil {
		return o, err
	}
	by := m.Against.By
	ids := []string{reconcile.ClassColumn, reconcile.SetColumn, reconcile.SinceColumn, reconcile.OursColumn, by.Day,
		by.Amount,
		reconcile.LineColumn, reconcile.DayColumn, reconcile.AmountColumn, reconcile.ReferenceColumn, reconcile.TextColumn}
	if by.Reference != "" {
		ids = append(ids, by.Reference)
	}
	batches, schema, err := of.Batches(ctx, ids)
	if err != nil {
		return o, err
	}
	for _, b := range batches {
		for row := range b.Rows {
			at := openRow{schema, b, row}
			if at.number(reconcile.OursColumn) > 0 {
				o.list(&o.Ours, at.item(reconcile.OursColumn, by.Day, by.Amount, by.Reference, ""))
			}
			if at.number(reconcile.LineColumn) > 0 {
				o.list(&o.Lines, at.item(reconcile.LineColumn, reconcile.DayColumn, reconcile.AmountColumn,
					reconcile.ReferenceColumn, reconcile.TextColumn))
			}
		}
	}
	return o, nil
}

func (o *OpenItems) list(to *[]Item, it Item) {
	if len(*to) == mostOpen {
		o.More++
		return
	}
	*to = append(*to, it)
}

// openRow is a row of what is open.
type openRow struct {
	schema frame.Schema
	batch  *frame.Batch
	row    int
}

func (r openRow) text(id string) string {
	at := r.schema.Index(id)
	if at < 0 || r.batch.Null(at, r.row) {
		return ""
	}
	return r.batch.Text(at, r.row)
}

func (r openRow) number(id string) int {
	at := r.schema.Index(id)
	if at < 0 || r.batch.Null(at, r.row) {
		return 0
	}
	return int(r.batch.Int(at, r.row))
}

// item reads one side of the row, by where it has what.
func (r openRow) item(number, day, amount, reference, text string) Item {
	it := Item{Number: r.number(number), Match: r.number(reconcile.SetColumn), Class: r.text(reconcile.ClassColumn),
		Reference: r.text(reference), Text: r.text(text), Since: r.text(reconcile.SinceColumn)}
	if at := r.schema.Index(day); !r.batch.Null(at, r.row) {
		it.Day = period.Day(r.batch.Int(at, r.row)).String()
	}
	at := r.schema.Index(amount)
	it.Amount = shown.Grouped(r.batch.Value(at, r.row).Number.String())
	return it
}
