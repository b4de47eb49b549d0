package catalog

import (
	"context"
	"time"

	"mantilla/library/access"
	"mantilla/model"
)

// Retired tells whether a report left the catalog, and what takes its place; "" for
// nothing.
func (room *Room) Retired(id string) (successor string, retired bool) {
	room.mu.RLock()
	defer room.mu.RUnlock()
	successor, retired = room.retired[id]
	return successor, retired
}

// Retired tells whether a report left the catalog, and what takes its place.
func (a *Access) Retired(id string) (successor string, retired bool) { return a.room.Retired(id) }

// Retire takes a report out of what is listed and run. Its results, criteria and
// controls stay, and say what takes its place.
func (a *Access) Retire(ctx context.Context, id, successor string) error {
	if err := a.mayRetire(id); err != nil {
		return err
	}
	if successor == id {
		return model.Refuse("successor", "a report does not succeed itself")
	}
	if successor != "" {
		if _, err := a.Report(successor); err != nil {
			return err
		}
		if _, gone := a.room.Retired(successor); gone {
			return model.Refuse("successor", "the report %s is retired itself", successor)
		}
	}
	return a.setRetired(ctx, id, successor, a.room.org.Now())
}

// Reinstate brings a retired report back.
func (a *Access) Reinstate(ctx context.Context, id string) error {
	if err := a.mayRetire(id); err != nil {
		return err
	}
	return a.setRetired(ctx, id, "", time.Time{})
}

func (a *Access) mayRetire(id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if _, err := a.Report(id); err != nil {
		return err
	}
	if model.IsDraft(id) {
		return model.Refuse("report", "%s is a draft", id)
	}
	return nil
}

func (a *Access) setRetired(ctx context.Context, id, successor string, at time.Time) error {
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.Retire(ctx, id, successor, at); err != nil {
		return err
	}
	a.room.mu.Lock()
	defer a.room.mu.Unlock()
	if at.IsZero() {
		delete(a.room.retired, id)
	} else {
		a.room.retired[id] = successor
	}
	a.room.changed()
	return nil
}

// Favourites are the reports that the person marked.
func (a *Access) Favourites(ctx context.Context) (map[string]bool, error) {
	ids, err := a.room.records.Favourites(ctx, a.Person().Name)
	marked := map[string]bool{}
	for _, id := range ids {
		marked[id] = true
	}
	return marked, err
}

// SetFavourite marks a report for the person, or no longer.
func (a *Access) SetFavourite(ctx context.Context, id string, on bool) error {
	if _, err := a.Report(id); err != nil && on {
		return err
	}
	return a.room.records.SetFavourite(ctx, a.Person().Name, id, on)
}
