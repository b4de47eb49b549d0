package reading

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/library/access"
	"mantilla/model"
)

// KeptView is a view that somebody keeps of a report.
type KeptView struct {
	model.View
	Mine bool
}

// KeptNumber reads the number of a kept view: V-12.
func KeptNumber(id string) (int64, bool) {
	digits, ok := strings.CutPrefix(id, "V-")
	n, err := strconv.ParseInt(digits, 10, 64)
	return n, ok && err == nil
}

// Kept returns a kept view that the person sees.
func (a *Access) Kept(ctx context.Context, number int64) (KeptView, error) {
	v, err := a.room.records.View(ctx, number)
	if err == nil && (v.Owner != a.Person().Name && !v.Everyone || !a.Opens(v.Report)) {
		err = model.ErrNotFound
	}
	if err != nil {
		return KeptView{}, fmt.Errorf("view V-%d: %w", number, err)
	}
	return KeptView{v, v.Owner == a.Person().Name}, nil
}

// KeptViews returns the views of a report that the person keeps or that are
// kept for everyone.
func (a *Access) KeptViews(ctx context.Context, report string) ([]KeptView, error) {
	if _, err := a.catalog.Report(report); err != nil {
		return nil, err
	}
	views, err := a.room.records.Views(ctx, report, a.Person().Name)
	if err != nil {
		return nil, err
	}
	out := []KeptView{}
	for _, v := range views {
		out = append(out, KeptView{v, v.Owner == a.Person().Name})
	}
	return out, nil
}

// KeepView keeps a view under a new name.
func (a *Access) KeepView(ctx context.Context, v model.View) (KeptView, error) {
	if err := a.mayKeep(v); err != nil {
		return KeptView{}, err
	}
	v.Owner = a.Person().Name
	v, err := a.readyView(ctx, v)
	if err == nil {
		v, err = a.room.records.AddView(ctx, v)
	}
	if err != nil {
		return KeptView{}, named(v.Name, err)
	}
	a.room.log.InfoContext(ctx, "view kept", "view", v.Number, "report", v.Report, "by", a.Person().Name, "everyone",
		v.Everyone)
	return KeptView{v, true}, nil
}

// ChangeView changes a kept view whose revision is still the one seen.
func (a *Access) ChangeView(ctx context.Context, v model.View) (KeptView, error) {
	old, err := a.Kept(ctx, v.Number)
	if err != nil {
		return KeptView{}, err
	}
	v.Report, v.Owner = old.Report, old.Owner
	if err := a.MayChange(fmt.Sprintf("the view %s", old.Name), old.Owner); err != nil {
		return KeptView{}, err
	}
	if err := a.mayKeep(v); err != nil {
		return KeptView{}, err
	}
	if v, err = a.readyView(ctx, v); err == nil {
		err = a.room.records.PutView(ctx, v)
	}
	if err != nil {
		return KeptView{}, named(v.Name, err)
	}
	return a.Kept(ctx, v.Number)
}

// DeleteView puts a kept view into the trash.
func (a *Access) DeleteView(ctx context.Context, number int64) error {
	old, err := a.Kept(ctx, number)
	if err == nil {
		err = a.MayChange(fmt.Sprintf("the view %s", old.Name), old.Owner)
	}
	if err == nil {
		err = a.room.records.DeleteView(ctx, number, a.room.org.Now())
	}
	return err
}

// RestoreView takes a view out of the trash.
func (a *Access) RestoreView(ctx context.Context, number int64) error {
	v, err := a.room.records.DeletedView(ctx, number)
	if err == nil && (v.Owner != a.Person().Name && !v.Everyone || !a.Opens(v.Report)) {
		err = model.ErrNotFound
	}
	if err == nil {
		err = a.MayChange(fmt.Sprintf("the view %s", v.Name), v.Owner)
	}
	if err == nil {
		err = a.room.records.RestoreView(ctx, number)
	}
	if err != nil {
		return fmt.Errorf("view V-%d in the trash: %w", number, err)
	}
	return nil
}

// mayKeep tells whether the person may keep a view: for oneself everybody may
// who opens the report, for everyone only who runs reports.
func (a *Access) mayKeep(v model.View) error {
	if _, err := a.catalog.Report(v.Report); err != nil {
		return err
	}
	if v.Everyone {
		return a.May(access.KeepForAll)
	}
	return nil
}

// readyView looks whether a view to be kept fits the present report, and notes
// the columns that there are.
func (a *Access) readyView(ctx context.Context, v model.View) (model.View, error) {
	if v.Name = strings.TrimSpace(v.Name); v.Name == "" || len(v.Name) > 80 {
		return v, model.Refuse("name", "a view needs a name of at most 80 characters")
	}
	d, err := a.catalog.Report(v.Report)
	if err != nil {
		return v, err
	}
	view := ViewOf(d, v.Base)
	if view == nil {
		return v, model.NoSuch("view", v.Base, ViewIDs(d))
	}
	if err := a.fits(ctx, d, d.Dataset(view.Of), v.Changes); err != nil {
		return v, err
	}
	v.Seen = d.Dataset(view.Of).ColumnIDs()
	v.ChangedAt = a.room.org.Now()
	return v, nil
}

// fits tells what of changes to be kept speaks of nothing that the dataset has; it fails with an
// [*ask.Fault]. What is compared has further columns, which only a run's values give: what speaks
// of these is told when the view is read.
func (a *Access) fits(ctx context.Context, d *report.Definition, of *report.Dataset, c ask.Changes) error {
	if of.Compare != "" {
		return nil
	}
	none, err := frame.New(of.Typed().Schema())
	if err != nil {
		return err
	}
	speaks := ask.Changes{Add: c.Add, Columns: c.Columns, Filters: c.Filters,
		Group: slices.Concat(c.Group, c.Down, c.Across)}
	_, err = ready.Of(ctx, kept.Of(none, table.Fresh{}), of, of.Rows(), speaks, ready.Setting{
		Given: report.GivenNames(d.Parameters), Calendar: a.Calendar(), Cache: table.Fresh{}})
	return err
}

// named says which name is taken.
func named(name string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("view %q: %w", name, err)
}
