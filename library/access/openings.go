package access

import (
	"context"
	"errors"
	"slices"

	"mantilla/model"
)

// CheckOpenings checks that there are the groups and people of openings.
func (room *Room) CheckOpenings(ctx context.Context, to []model.Opening) error {
	groups, err := room.records.Groups(ctx)
	if err != nil {
		return err
	}
	for _, o := range to {
		switch o.Kind {
		case "everyone":
		case "group":
			if !slices.ContainsFunc(groups, func(g model.Group) bool { return g.ID == o.Name }) {
				return model.Refuse("open", "there is no group %q", o.Name)
			}
		case "person":
			if _, err := room.records.Person(ctx, o.Name); err != nil {
				return model.Refuse("open", "there is no account %q", o.Name)
			}
		default:
			return model.Refuse("open", "%q is neither everyone, group nor person", o.Kind)
		}
	}
	return nil
}

// Wish is to whom somebody wants a report to be open, where another has to want it too; nil for nobody.
func (room *Room) Wish(ctx context.Context, report string) (*model.OpeningWish, error) {
	w, err := room.records.OpeningWish(ctx, report)
	if errors.Is(err, model.ErrNotFound) {
		return nil, nil
	}
	return &w, err
}

// Open says to whom a report is open from now on. Where the organisation wants two people for it, and it is
// to be open to more than it is, it waits until another person wants the same.
func (a *Access) Open(ctx context.Context, report string, to []model.Opening) (waits bool, err error) {
	now := a.room.Openings(report)
	further := slices.ContainsFunc(to, func(o model.Opening) bool { return !slices.Contains(now, o) })
	if !a.room.org.OpenByTwo || !further || a.person.Name == ServiceName {
		return false, a.room.SetOpenings(ctx, report, to)
	}
	w, err := a.room.Wish(ctx, report)
	if err != nil {
		return false, err
	}
	if w != nil && w.By != a.person.Name && same(w.To, to) {
		return false, a.room.SetOpenings(ctx, report, to)
	}
	if err := a.room.CheckOpenings(ctx, to); err != nil {
		return false, err
	}
	return true, a.room.records.PutOpeningWish(ctx, model.OpeningWish{Report: report, To: to, By: a.person.Name,
		At: a.room.org.Now()})
}

// same tells whether openings are to the same people and groups.
func same(a, b []model.Opening) bool {
	in := func(all []model.Opening) func(model.Opening) bool {
		return func(o model.Opening) bool { return !slices.Contains(all, o) }
	}
	return !slices.ContainsFunc(a, in(b)) && !slices.ContainsFunc(b, in(a))
}
