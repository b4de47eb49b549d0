package reading

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"mantilla/core/checks"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/store/cache"
)

// Result is a kept result with the definition that made it, settled as its
// values decided.
type Result struct {
	model.Result
	Definition *report.Definition
	Values     param.Values

	zone        *time.Location
	fiscalStart time.Month
	form        shown.Form // of whoever reads
}

// Form is how its figures and days are written for whoever reads it: in their form,
// moments in the zone of the rows.
func (r *Result) Form() shown.Form { return r.form.In(r.zone) }

// Zone is the zone of the days and moments in the rows: that of the service when
// they were read.
func (r *Result) Zone() *time.Location { return r.zone }

// calendar is the one by which the rows are read at a moment.
func (r *Result) calendar(now time.Time) period.Calendar {
	return period.At(now, r.zone, r.fiscalStart)
}

// Results lists the results that the person sees, the newest first.
func (a *Access) Results(ctx context.Context, w model.ResultWish) (results []model.Result, err error) {
	if w.Sees, err = a.Sight(ctx); err != nil {
		return nil, err
	}
	return a.room.records.Results(ctx, w)
}

// Result returns one result.
func (a *Access) Result(ctx context.Context, number int64) (*Result, error) {
	r, err := a.room.records.Result(ctx, number)
	if err == nil {
		var seen bool
		if seen, err = a.Sees(ctx, r.Report, r.Manifest.Reach); err == nil && seen {
			beside := r.Manifest.Made.Beside(r.Manifest.Report)
			seen = beside == "" || a.Opens(a.catalog.CalledNow(beside))
		}
		if err == nil && !seen {
			err = model.ErrNotFound
		}
	}
	if err != nil {
		return nil, fmt.Errorf("result R-%06d: %w", number, err)
	}
	x := &Result{Result: r, zone: a.room.org.Zone, fiscalStart: a.room.org.FiscalStart,
		form: a.Form()}
	if r.Manifest.Zone != "" {
		if x.zone, err = time.LoadLocation(r.Manifest.Zone); err != nil {
			return nil, fmt.Errorf("result R-%06d was made in the zone %s: %w", number, r.Manifest.Zone, err)
		}
		x.fiscalStart = r.Manifest.FiscalStart
	}
	if len(r.Settled) == 0 {
		return a.settledAnew(ctx, x)
	}
	kept, err := a.room.records.Cache().Get(fmt.Sprintf("%d/settled", number), func() (cache.Sized, error) {
		d, err := report.FromSchema(r.Settled)
		return schema{d, len(r.Settled)}, err
	})
	if err != nil {
		return nil, fmt.Errorf("result R-%06d: %w", number, err)
	}
	x.Definition = kept.(schema).definition
	x.Values = param.Recall(x.Definition.Parameters, model.Resolved(r.Manifest.Facts), x.calendar(a.Due()))
	return x, nil
}

// schema is the settled definition of a result, in memory.
type schema struct {
	definition *report.Definition
	bytes      int // as it was written
}

// Bytes is about what it takes: what is written takes three times as much in memory.
func (s schema) Bytes() int { return 3 * s.bytes }

// settledAnew settles the definition of a result of an earlier form, which does not
// have it, from its version's text.
func (a *Access) settledAnew(ctx context.Context, x *Result) (*Result, error) {
	currency := cmp.Or(x.Manifest.Currency, a.room.currency)
	d, err := a.room.catalog.Version(ctx, x.Report, x.Manifest.Version, currency)
	if err != nil {
		return nil, err
	}
	x.Values = param.Recall(d.Parameters, model.Resolved(x.Manifest.Facts), x.calendar(a.Due()))
	x.Definition = d.Settle(x.Values)
	return x, nil
}

// Notes returns what the report notes about the values of the result, on the
// day of its run, which of its checks do not hold, and who signed it off.
func (r *Result) Notes(zone *time.Location) []string {
	said := append(r.Definition.NotesOn(r.Values, period.DayOf(r.Manifest.StartedAt, zone)),
		checks.Said(r.Manifest.Checks)...)
	for i, sign := range r.Signs {
		step := "Signed off by"
		if !r.Signed {
			step = fmt.Sprintf("Signed, step %d, not yet signed off, by", i+1)
		}
		note := fmt.Sprintf("%s %s on %s", step, sign.Title, sign.At.In(zone).Format("2 January 2006, 15:04 MST"))
		if sign.Says != "" {
			note += ": " + sign.Says
		}
		said = append(said, strings.TrimRight(note, ".")+".")
	}
	return said
}

// DeleteResult puts a result into the trash, from where it can be brought back for 30 days.
// People delete results of their own runs, librarians any; none that is signed off or held.
func (a *Access) DeleteResult(ctx context.Context, number int64) error {
	r, err := a.Result(ctx, number)
	if err != nil {
		return err
	}
	if err := a.mayDelete(r.Result); err != nil {
		return err
	}
	err = a.room.records.Trash(ctx, number, a.Person().Name, a.room.org.Now())
	if errors.Is(err, model.ErrHeld) {
		return model.Refuse("result", "R-%06d: %w", number, err)
	}
	if err != nil {
		return fmt.Errorf("result R-%06d: %w", number, err)
	}
	a.room.log.InfoContext(ctx, "result put into the trash", "result", number, "by", a.Person().Name)
	return nil
}

func (a *Access) mayDelete(r model.Result) error {
	if err := a.May(access.Run); err != nil {
		return err
	}
	return a.MayChange(fmt.Sprintf("the result R-%06d", r.Number), r.Manifest.AskedBy)
}

// BringBack takes a result out of the trash. It is kept from then on until somebody deletes it.
func (a *Access) BringBack(ctx context.Context, number int64) error {
	if err := a.May(access.Run); err != nil {
		return err
	}
	r, err := a.room.records.Trashed(ctx, number)
	if err == nil {
		var seen bool
		if seen, err = a.Sees(ctx, r.Report, r.Manifest.Reach); err == nil && !seen {
			err = model.ErrNotFound
		}
	}
	if err != nil {
		return fmt.Errorf("result R-%06d in the trash: %w", number, err)
	}
	if err := a.mayDelete(r); err != nil {
		return err
	}
	if err := a.room.records.BringBack(ctx, number); err != nil {
		return fmt.Errorf("result R-%06d in the trash: %w", number, err)
	}
	a.room.log.InfoContext(ctx, "result brought back", "result", number, "by", a.Person().Name)
	return nil
}

// CheckSeal tells whether a result's rows are the ones that were sealed.
func (a *Access) CheckSeal(ctx context.Context, r *Result) (bool, error) {
	good, err := a.room.records.CheckSeal(ctx, r.Result)
	for i := range r.Manifest.Datasets {
		if k := &r.Manifest.Datasets[i]; err == nil && good && k.Stay != nil {
			good, err = a.room.sealHolds(ctx, k)
		}
	}
	return good, err
}

// kept is what is known of a dataset's rows; nil where there are none.
func (r *Result) kept(dataset string) *model.Kept {
	for i, k := range r.Manifest.Datasets {
		if k.Dataset == dataset {
			return &r.Manifest.Datasets[i]
		}
	}
	return nil
}

// RowsOf returns how many rows a dataset of the result has.
func (r *Result) RowsOf(dataset string) int64 {
	if k := r.kept(dataset); k != nil {
		return k.Rows
	}
	return 0
}

// FailedOf returns why a dataset could not be read; "" where it could.
func (r *Result) FailedOf(dataset string) string {
	if k := r.kept(dataset); k != nil {
		return k.Reason
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

// ViewIDs are the ids of a report's views, in order.
func ViewIDs(d *report.Definition) (ids []string) {
	for _, v := range d.Views {
		ids = append(ids, v.ID)
	}
	return ids
}

// ResultOf is the number of the result that a run became.
func (a *Access) ResultOf(ctx context.Context, run int64) (number int64, err error) {
	number, err = a.room.records.ResultOf(ctx, run)
	if errors.Is(err, model.ErrNotFound) {
		err = fmt.Errorf("run %d has no result; see why under Runs, and ask again", run)
	}
	return number, err
}
