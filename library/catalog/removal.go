package catalog

import (
	"context"
	"errors"

	"mantilla/library/access"
	"mantilla/model"
	"mantilla/source"
)

// DeleteReport takes a report out of the catalog. Its versions and results
// stay; a run control that runs it must be changed first.
func (a *Access) DeleteReport(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	d, present := a.room.Present()[id]
	if !present && a.room.whyUnread(id) == nil {
		return model.NoSuch("report", id, nil)
	}
	if err := a.room.ReportNeeded(ctx, id); err != nil {
		return err
	}
	title := id
	if present {
		title = d.Title
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.DeleteReport(ctx, a.Throws(model.ThrownReport, id, title)); err != nil {
		return err
	}
	a.room.mu.Lock()
	delete(a.room.catalog, id)
	delete(a.room.unread, id)
	delete(a.room.retired, id)
	a.room.changed()
	a.room.mu.Unlock()
	a.room.log.InfoContext(ctx, "report deleted", "report", id, "by", a.Person().Name)
	return a.room.people.Reopen(ctx)
}

// PutBackReport brings a report back that was deleted, open to whom it was open. One that cannot be read any
// more says so where it is listed.
func (a *Access) PutBackReport(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.PutBack(ctx, model.ThrownReport, id); err != nil {
		return err
	}
	reports, err := a.room.records.Reports(ctx)
	if err != nil {
		return err
	}
	for _, r := range reports {
		if r.ID == id {
			a.room.take(r)
		}
	}
	a.room.log.InfoContext(ctx, "report brought back", "report", id, "by", a.Person().Name)
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
	if err := a.room.records.DeleteSource(ctx, a.Throws(model.ThrownSource, id, id)); errors.Is(err, model.ErrNotFound) {
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

// PutBackSource brings a source back that was deleted, with the files that were brought for it. One that
// cannot be opened any more says so where it is listed.
func (a *Access) PutBackSource(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	if err := a.room.records.PutBack(ctx, model.ThrownSource, id); err != nil {
		return err
	}
	texts, err := a.room.records.Sources(ctx)
	if err != nil {
		return err
	}
	for _, text := range texts {
		if config, err := source.ParseConfig([]byte(text)); err != nil || config.ID != id {
			continue
		}
		s, err := a.room.openSource([]byte(text))
		if err == nil {
			if err = a.room.ready.Prepare(ctx, s.Config, id); err != nil {
				err = errors.Join(err, s.Close())
			}
		}
		a.room.replace(id, s, err)
	}
	a.room.log.InfoContext(ctx, "source brought back", "source", id, "by", a.Person().Name)
	return a.room.readAnew(ctx, id)
}
