package catalog

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"mantilla/core/definition"
	"mantilla/core/manuscript"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/store/catalog"
)

// RenameSource gives a source another id. Reports that read it get new versions that name it
// so, and drafts new texts; all or nothing.
func (a *Access) RenameSource(ctx context.Context, id, to string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	old, err := a.room.Source(id)
	if err != nil {
		return err
	}
	if _, err := a.room.Source(to); err == nil || a.room.sourceBroken(to) {
		return model.Refuse("to", "there is a source %s already", to)
	}
	again, err := a.room.openSource([]byte(manuscript.Rebased(old.Config.Text, to)))
	if err != nil {
		return model.Refuse("to", "%w", err)
	}
	if err := a.room.ready.Prepare(ctx, again.Config, id); err != nil {
		return errors.Join(model.Refuse("to", "%w", err), again.Close())
	}
	a.room.lay(to, again) // reports are read beside it
	err = a.rewrite(ctx, catalog.Rewriting{Kind: model.KindSource, From: id, To: to, Source: again.Config.Text,
		Draft: func(text string) string {
			if manuscript.SourceOf([]byte(text)) != id {
				return text
			}
			return manuscript.Rebased(text, to)
		}}, a.room.present())
	if err != nil {
		return errors.Join(err, a.room.drop(to).Close(), a.room.ready.Forget(again.Config))
	}
	a.room.log.InfoContext(ctx, "source renamed", "from", id, "to", to, "by", a.Person().Name)
	return errors.Join(a.room.drop(id).Close(), a.room.ready.Forget(old.Config), a.room.people.ReadRetired(ctx))
}

// lay lays a source beside the others; drop takes one away and returns it.
func (room *Room) lay(id string, s Source) {
	room.mu.Lock()
	defer room.mu.Unlock()
	room.sources[id] = s
}

func (room *Room) drop(id string) Source {
	room.mu.Lock()
	defer room.mu.Unlock()
	s := room.sources[id]
	delete(room.sources, id)
	return s
}

func (room *Room) sourceBroken(id string) bool {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.broken[id] != nil
}

// RenameParameter gives a shared parameter another id. Reports that use it go on knowing it
// by the id of before, so that nothing that was kept of them changes.
func (a *Access) RenameParameter(ctx context.Context, id, to string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	present := a.room.present()
	if known := present.IDs(); !slices.Contains(known, id) {
		return model.NoSuch("shared parameter", id, known)
	} else if slices.Contains(known, to) {
		return model.Refuse("to", "there is a shared parameter %s already", to)
	}
	shared, faults := definition.ParseShared([]byte(manuscript.Redeclared(present.Text, id, to)))
	if faults != nil {
		return model.Refuse("to", "%w", faults)
	}
	err := a.rewrite(ctx, catalog.Rewriting{Kind: model.KindParameter, From: id, To: to, Shared: shared.Text,
		Draft: func(text string) string { return manuscript.Reused(text, id, to) }}, shared)
	if err != nil {
		return err
	}
	a.room.mu.Lock()
	a.room.shared = shared
	a.room.mu.Unlock()
	a.room.log.InfoContext(ctx, "shared parameter renamed", "from", id, "to", to, "by", a.Person().Name)
	return a.room.people.ReadRetired(ctx)
}

// rewrite rewrites the reports of the catalog as drafts are rewritten, reads them beside
// shared parameters, and makes all of it the present.
func (a *Access) rewrite(ctx context.Context, r catalog.Rewriting, shared *definition.Shared) error {
	present := a.room.Present()
	r.Was = map[string]string{}
	var changed []*report.Definition
	for _, id := range slices.Sorted(maps.Keys(present)) {
		d := present[id]
		text := r.Draft(d.Text)
		if text == d.Text {
			continue
		}
		read, faults := definition.Parse([]byte(text), a.room.defaults(shared))
		if faults != nil {
			return model.Refuse("to", "%s would no longer be right: %w", id, faults)
		}
		changed = append(changed, read)
		r.Was[id] = d.Version
		r.Changed = append(r.Changed, model.Report{ID: id, Title: read.Title, Category: read.Category,
			Version: read.Version, Text: text, By: a.Person().Name,
			Note: fmt.Sprintf("the %s %s is %s now", model.SaidKind(r.Kind), r.From, r.To)})
	}
	err := a.room.records.Rewrite(ctx, r, a.room.org.Now())
	if errors.Is(err, catalog.ErrBusy) {
		return model.Refuse("report", "%w", err)
	}
	if err != nil {
		return fmt.Errorf("renaming %s: %w", r.From, err)
	}
	for _, d := range changed {
		a.room.remember(d)
	}
	return nil
}
