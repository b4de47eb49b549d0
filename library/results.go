package library

import (
	"context"
	"fmt"

	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/store"
	"mantilla/store/cache"
)

// Result is a kept result with the definition that made it, settled as its
// values decided.
type Result struct {
	store.Result
	Definition *report.Definition
}

// Results lists the results that the person sees, the newest first.
func (a *Access) Results(ctx context.Context, w store.ResultWish) (results []store.Result, err error) {
	if w.Sees, err = a.sight(ctx); err != nil {
		return nil, err
	}
	return a.store.Results(ctx, w)
}

// Result returns one result.
func (a *Access) Result(ctx context.Context, number int64) (*Result, error) {
	r, err := a.store.Result(ctx, number)
	if err == nil {
		var seen bool
		if seen, err = a.sees(ctx, r.Report, r.Manifest.Reach); err == nil && !seen {
			err = store.ErrNotFound
		}
	}
	if err != nil {
		return nil, fmt.Errorf("result R-%06d: %w", number, err)
	}
	d, err := a.version(ctx, r.Report, r.Manifest.Version)
	if err != nil {
		return nil, err
	}
	return &Result{r, d.Settle(param.Recall(d.Parameters, resolved(r.Manifest.Facts), a.Calendar()))}, nil
}

// DeleteResult deletes a result with its rows. People delete results of their
// own runs, librarians any.
func (a *Access) DeleteResult(ctx context.Context, number int64) error {
	r, err := a.Result(ctx, number)
	if err != nil {
		return err
	}
	if err := a.may(run); err != nil {
		return err
	}
	if err := a.mayChange(fmt.Sprintf("the result R-%06d", number), r.Manifest.AskedBy); err != nil {
		return err
	}
	if err := a.store.DeleteResult(ctx, number); err != nil {
		return fmt.Errorf("result R-%06d: %w", number, err)
	}
	a.orders.Forget(fmt.Sprintf("%d/", number))
	a.log.Info("result deleted", "result", number, "by", a.person.Name)
	return nil
}

// CheckSeal tells whether a result's rows are the ones that were sealed.
func (l *Library) CheckSeal(ctx context.Context, r *Result) (bool, error) {
	return l.store.CheckSeal(ctx, r.Result)
}

// RowsOf returns how many rows a dataset of the result has.
func (r *Result) RowsOf(dataset string) int64 {
	for _, k := range r.Manifest.Datasets {
		if k.Dataset == dataset {
			return k.Rows
		}
	}
	return 0
}

// Page returns the views that are shown together when the result opens: those
// of the definition's page, less the empty ones that it leaves out.
func (r *Result) Page() (views []*report.View) {
	for _, id := range r.Definition.Page {
		v := r.Definition.View(id)
		if v.Empty == "omit" && r.RowsOf(v.Of) == 0 {
			continue
		}
		views = append(views, v)
	}
	return views
}

// Reading is what a reader asks of a view, as typed. Nil columns and sort mean
// the view's own.
type Reading struct {
	Columns []string
	Sort    []string // a minus sign before a column for descending order
	Filters []string // see [sheet.ParseFilter]
}

// BadReading says what is wrong with a reading, and in which part of it.
type BadReading struct {
	Part string // columns, sort or filter
	Err  error
}

func (b *BadReading) Error() string { return b.Err.Error() }

func (b *BadReading) Unwrap() error { return b.Err }

// First names the first view of a result's page, whatever its id.
const First = "*"

// Sheet lays out a view of a result; see [First].
func (l *Library) Sheet(ctx context.Context, r *Result, view string, reading Reading) (*sheet.Sheet, error) {
	if view == First {
		view = r.Definition.Page[0]
	}
	v := r.Definition.View(view)
	if v == nil {
		return nil, missing("view", view, viewIDs(r.Definition))
	}
	d := r.Definition.Dataset(v.Of)
	changes := sheet.Changes{Columns: reading.Columns}
	for _, text := range reading.Sort {
		changes.Sort = append(changes.Sort, report.SortKey(text))
		if key := changes.Sort[len(changes.Sort)-1]; d.Column(key.Column) == nil {
			return nil, &BadReading{"sort", missing("column", key.Column, columnIDs(d))}
		}
	}
	for _, text := range reading.Filters {
		f, err := sheet.ParseFilter(text, d, l.Calendar())
		if err != nil {
			return nil, &BadReading{"filter", err}
		}
		changes.Filters = append(changes.Filters, f)
	}
	for _, id := range reading.Columns {
		if d.Column(id) == nil {
			return nil, &BadReading{"columns", missing("column", id, columnIDs(d))}
		}
	}
	rows, err := l.store.Frame(ctx, r.Result, d.ID, d.Schema())
	if err != nil {
		return nil, err
	}
	return sheet.Lay(rows, d, v, changes, orders{l.orders, fmt.Sprintf("%d/%s/", r.Number, l.Calendar().Today)})
}

func viewIDs(d *report.Definition) (ids []string) {
	for _, v := range d.Views {
		ids = append(ids, v.ID)
	}
	return ids
}

func columnIDs(d *report.Dataset) (ids []string) {
	for _, c := range d.Columns {
		ids = append(ids, c.ID)
	}
	return ids
}

// orders keeps the orders of one result's views in the library's cache.
type orders struct {
	cache  *cache.Cache
	prefix string
}

// Get returns a kept order or makes it.
func (o orders) Get(key string, make func() (*sheet.Order, error)) (*sheet.Order, error) {
	v, err := o.cache.Get(o.prefix+key, func() (cache.Sized, error) { return make() })
	if err != nil {
		return nil, err
	}
	return v.(*sheet.Order), nil
}
