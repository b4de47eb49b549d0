package drafting

import (
	"context"
	"maps"
	"slices"

	"mantilla/core/definition"
	"mantilla/core/manuscript"
	"mantilla/core/report"
	"mantilla/library/access"
)

// SharedEffect is what a change of the shared parameters does to something that depends
// on a report that uses them.
type SharedEffect struct {
	Report string
	Effect
}

// SharedEffects tell what would no longer fit with other shared parameters: of every
// report that they change, and reports that would not be right.
func (a *Access) SharedEffects(ctx context.Context, text []byte) ([]SharedEffect, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	shared, faults := definition.ParseShared(text)
	if faults != nil {
		return nil, faults
	}
	all := []SharedEffect{}
	present := a.room.catalog.Present()
	for _, id := range slices.Sorted(maps.Keys(present)) {
		was := present[id]
		if len(manuscript.Uses([]byte(was.Text))) == 0 {
			continue
		}
		is, faults := a.catalog.ReadWith([]byte(was.Text), shared)
		if faults != nil {
			all = append(all, broken(was, faults))
			continue
		}
		if is.Version == was.Version {
			continue
		}
		effects, err := a.effects(ctx, is)
		if err != nil {
			return nil, err
		}
		for _, e := range effects {
			if len(e.Unfit) > 0 {
				all = append(all, SharedEffect{id, e})
			}
		}
	}
	return all, nil
}

// broken is a report that would not be right.
func broken(d *report.Definition, faults definition.Faults) SharedEffect {
	e := SharedEffect{Report: d.ID}
	e.Kind, e.ID, e.Name = "report", d.ID, d.Title
	for _, f := range faults {
		e.Unfit = append(e.Unfit, f.String())
	}
	return e
}

// PutShared changes the shared parameters and tells the owners of what fits no longer.
func (a *Access) PutShared(ctx context.Context, text []byte) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	before, err := a.SharedEffects(ctx, text)
	if err != nil {
		return err
	}
	if err := a.catalog.PutShared(ctx, text); err != nil {
		return err
	}
	present := a.room.catalog.Present()
	for _, e := range before {
		if err := a.tellConcerned(ctx, present[e.Report], []Effect{e.Effect}); err != nil {
			return err
		}
	}
	return nil
}
