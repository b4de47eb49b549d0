package access

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/model"
)

// Known tells whether there is something of a kind with an id. Rooms say so of what they
// keep, before anybody is let in.
type Known func(ctx context.Context, id string) (bool, error)

// has refuses a name that nothing of a kind has.
func (k Known) has(ctx context.Context, kind, part, name string) error {
	there, err := k(ctx, name)
	if err == nil && !there {
		err = model.Refuse(part, "there is no %s %q", kind, name)
	}
	return err
}

// Keeps lets things of a kind be retired.
func (room *Room) Keeps(kind string, known Known) { room.keeps[kind] = known }

// Retired tells whether something of a kind is retired.
func (room *Room) Retired(kind, id string) (r model.Retired, is bool) {
	room.mu.RLock()
	defer room.mu.RUnlock()
	r, is = room.retired[kind+" "+id]
	return r, is
}

// AllRetired is what is retired beside reports, by kind and id.
func (a *Access) AllRetired() []model.Retired {
	a.room.mu.RLock()
	defer a.room.mu.RUnlock()
	return slices.SortedFunc(maps.Values(a.room.retired), func(x, y model.Retired) int {
		return strings.Compare(x.Kind+" "+x.ID, y.Kind+" "+y.ID)
	})
}

// mayRetire tells whether a person may retire things of a kind.
func (a *Access) mayRetire(kind string) error {
	if kind == model.KindGroup {
		return a.May(KeepPeople)
	}
	return a.May(KeepCatalog)
}

// RetireOther keeps anything new from using a source, a shared parameter, a group or an address.
// What uses it already goes on; it is told what takes its place.
func (a *Access) RetireOther(ctx context.Context, kind, id, successor string) error {
	known := a.room.keeps[kind]
	if known == nil {
		return model.NoSuch("kind of things to retire", kind, slices.Collect(maps.Keys(a.room.keeps)))
	}
	if err := a.mayRetire(kind); err != nil {
		return err
	}
	if successor == id {
		return model.Refuse("successor", "%s does not take its own place", id)
	}
	if err := known.has(ctx, kind, "id", id); err != nil {
		return err
	}
	if successor != "" {
		if err := known.has(ctx, kind, "successor", successor); err != nil {
			return err
		}
	}
	if _, gone := a.room.Retired(kind, successor); gone {
		return model.Refuse("successor", "%s is retired itself", successor)
	}
	x := model.Retired{Kind: kind, ID: id, Successor: successor, At: a.room.org.Now(), By: a.person.Name}
	if err := a.room.records.Retire(ctx, x); err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, "retired", "kind", kind, "id", id, "successor", successor, "by", a.person.Name)
	return a.room.ReadRetired(ctx)
}

// ReinstateOther lets something be used again.
func (a *Access) ReinstateOther(ctx context.Context, kind, id string) error {
	if err := a.mayRetire(kind); err != nil {
		return err
	}
	err := a.room.records.Reinstate(ctx, kind, id)
	if errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("retired "+kind, id, nil)
	}
	if err != nil {
		return err
	}
	return a.room.ReadRetired(ctx)
}

// ReadRetired reads anew what is retired.
func (room *Room) ReadRetired(ctx context.Context) error {
	all, err := room.records.Retired(ctx)
	if err != nil {
		return fmt.Errorf("reading what is retired: %w", err)
	}
	retired := map[string]model.Retired{}
	for _, x := range all {
		retired[x.Kind+" "+x.ID] = x
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	room.retired = retired
	return nil
}

// newlyOpen refuses retired groups among openings that were not there before.
func (room *Room) newlyOpen(before, to []model.Opening) error {
	for _, o := range to {
		if r, gone := room.Retired(model.KindGroup, o.Name); o.Kind == "group" && gone && !slices.Contains(before, o) {
			return model.Refuse("open", "the group %s is retired; %s", o.Name, r.Instead())
		}
	}
	return nil
}
