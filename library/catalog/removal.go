package catalog

import (
	"context"
	"errors"

	"mantilla/library/access"
	"mantilla/model"
)

// DeleteReport takes a report out of the catalog. Its versions and results
// stay; a run control that runs it must be changed first.
func (a *Access) DeleteReport(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	_, present := a.room.Present()[id]
	if !present && a.room.whyUnread(id) == nil {
		return model.NoSuch("report", id, nil)
	}
	if err := a.room.ReportNeeded(ctx, id); err != nil {
		return err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.DeleteReport(ctx, id); err != nil {
		return err
	}
	a.room.mu.Lock()
	delete(a.room.catalog, id)
	delete(a.room.unread, id)
	a.room.changed()
	a.room.mu.Unlock()
	a.room.log.InfoContext(ctx, "report deleted", "report", id, "by", a.Person().Name)
	return a.room.people.Reopen(ctx)
}

// DeleteSource takes a source that no report reads out of the catalog.
func (a *Access) DeleteSource(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	for _, d := range a.room.Present() {
		if d.Source == id {
			return model.Refuse("source", "the report %s reads it; change or delete that first", d.ID)
		}
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.DeleteSource(ctx, id); errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("source", id, nil)
	} else if err != nil {
		return err
	}
	a.room.mu.Lock()
	old, known := a.room.sources[id]
	delete(a.room.sources, id)
	delete(a.room.broken, id)
	a.room.mu.Unlock()
	a.room.log.InfoContext(ctx, "source deleted", "source", id, "by", a.Person().Name)
	if known {
		return errors.Join(old.Close(), a.room.ready.Forget(old.Config))
	}
	return nil
}
