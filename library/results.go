package library

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/store"
)

// Result is a kept result with the definition that made it, settled as its
// values decided.
type Result struct {
	store.Result
	Definition *report.Definition
	Values     param.Values
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
	currency := cmp.Or(r.Manifest.Currency, a.currency)
	d, err := a.version(ctx, r.Report, r.Manifest.Version, currency)
	if err != nil {
		return nil, err
	}
	values := param.Recall(d.Parameters, resolved(r.Manifest.Facts), a.Calendar())
	return &Result{r, d.Settle(values), values}, nil
}

// Notes returns what the report notes about the values of the result, on the
// day of its run.
func (r *Result) Notes(zone *time.Location) []string {
	return r.Definition.NotesOn(r.Values, period.DayOf(r.Manifest.StartedAt, zone))
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

// FailedOf returns why a dataset could not be read; "" where it could.
func (r *Result) FailedOf(dataset string) string {
	for _, k := range r.Manifest.Datasets {
		if k.Dataset == dataset {
			return k.Reason
		}
	}
	return ""
}

// Page returns the views that are shown together when the result opens: those
// of the definition's page, less the empty ones that it leaves out.
func (r *Result) Page() (views []*report.View) {
	for _, id := range r.Definition.Page {
		v := r.Definition.View(id)
		if v.Empty == "omit" && r.RowsOf(v.Of) == 0 && r.FailedOf(v.Of) == "" {
			continue
		}
		views = append(views, v)
	}
	return views
}

func viewIDs(d *report.Definition) (ids []string) {
	for _, v := range d.Views {
		ids = append(ids, v.ID)
	}
	return ids
}
