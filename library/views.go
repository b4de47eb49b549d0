package library

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"mantilla/model"
)

// KeptView is a view that somebody keeps of a report.
type KeptView struct {
	model.View
	Mine bool
}

// keptNumber reads the number of a kept view: V-12.
func keptNumber(id string) (int64, bool) {
	digits, ok := strings.CutPrefix(id, "V-")
	n, err := strconv.ParseInt(digits, 10, 64)
	return n, ok && err == nil
}

// keptView returns a kept view that the person sees.
func (a *Access) keptView(ctx context.Context, number int64) (KeptView, error) {
	v, err := a.store.View(ctx, number)
	if err == nil && (v.Owner != a.person.Name && !v.Everyone || !a.opens(v.Report)) {
		err = model.ErrNotFound
	}
	if err != nil {
		return KeptView{}, fmt.Errorf("view V-%d: %w", number, err)
	}
	return KeptView{v, v.Owner == a.person.Name}, nil
}

// KeptViews returns the views of a report that the person keeps or that are
// kept for everyone.
func (a *Access) KeptViews(ctx context.Context, report string) ([]KeptView, error) {
	if _, err := a.Report(report); err != nil {
		return nil, err
	}
	views, err := a.store.Views(ctx, report, a.person.Name)
	if err != nil {
		return nil, err
	}
	out := []KeptView{}
	for _, v := range views {
		out = append(out, KeptView{v, v.Owner == a.person.Name})
	}
	return out, nil
}

// KeepView keeps a view under a new name.
func (a *Access) KeepView(ctx context.Context, v model.View) (KeptView, error) {
	if err := a.mayKeep(v); err != nil {
		return KeptView{}, err
	}
	v.Owner = a.person.Name
	v, err := a.readyView(v)
	if err == nil {
		v, err = a.store.AddView(ctx, v)
	}
	if err != nil {
		return KeptView{}, named(v.Name, err)
	}
	a.log.Info("view kept", "view", v.Number, "report", v.Report, "by", a.person.Name, "everyone", v.Everyone)
	return KeptView{v, true}, nil
}

// ChangeView changes a kept view whose revision is still the one seen.
func (a *Access) ChangeView(ctx context.Context, v model.View) (KeptView, error) {
	old, err := a.keptView(ctx, v.Number)
	if err != nil {
		return KeptView{}, err
	}
	v.Report, v.Owner = old.Report, old.Owner
	if err := a.mayChange(fmt.Sprintf("the view %s", old.Name), old.Owner); err != nil {
		return KeptView{}, err
	}
	if err := a.mayKeep(v); err != nil {
		return KeptView{}, err
	}
	if v, err = a.readyView(v); err == nil {
		err = a.store.PutView(ctx, v)
	}
	if err != nil {
		return KeptView{}, named(v.Name, err)
	}
	return a.keptView(ctx, v.Number)
}

// DeleteView deletes a kept view.
func (a *Access) DeleteView(ctx context.Context, number int64) error {
	old, err := a.keptView(ctx, number)
	if err == nil {
		err = a.mayChange(fmt.Sprintf("the view %s", old.Name), old.Owner)
	}
	if err == nil {
		err = a.store.DeleteView(ctx, number)
	}
	return err
}

// mayKeep tells whether the person may keep a view: for oneself everybody may
// who opens the report, for everyone only who runs reports.
func (a *Access) mayKeep(v model.View) error {
	if _, err := a.Report(v.Report); err != nil {
		return err
	}
	if v.Everyone {
		return a.may(right{"keeping views for everyone", model.Runner})
	}
	return nil
}

// readyView looks whether a view to be kept fits the present report, and notes
// the columns that there are.
func (a *Access) readyView(v model.View) (model.View, error) {
	if v.Name = strings.TrimSpace(v.Name); v.Name == "" || len(v.Name) > 80 {
		return v, model.Refuse("name", "a view needs a name of at most 80 characters")
	}
	d, err := a.Report(v.Report)
	if err != nil {
		return v, err
	}
	view := viewOf(d, v.Base)
	if view == nil {
		return v, model.NoSuch("view", v.Base, viewIDs(d))
	}
	v.Seen = columnIDs(d.Dataset(view.Of))
	v.ChangedAt = a.settings.Now()
	return v, nil
}

// named says which name is taken.
func named(name string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("view %q: %w", name, err)
}
