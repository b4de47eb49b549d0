package catalog

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/definition"
	"mantilla/core/manuscript"
	"mantilla/core/report"
	"mantilla/model"
	"mantilla/store/catalog"
)

// Rename gives a report another id. Everything that is kept of it goes on under that, and
// reports that link to it get new versions whose links lead there; all or nothing. Results
// keep, in what is sealed, the id that they were made under.
func (a *Access) Rename(ctx context.Context, id, to, note string) (*report.Definition, error) {
	if err := a.mayRetire(id); err != nil {
		return nil, err
	}
	a.room.office.Lock()
	defer a.room.office.Unlock()
	present := a.room.listed()
	switch {
	case present[to] != nil || to == id:
		return nil, model.Refuse("to", "there is a report %s already", to)
	case model.IsDraft(to):
		return nil, model.Refuse("to", "the id %s is that of a draft; choose another", to)
	}
	if note == "" {
		note = "renamed from " + id
	}
	var changed []*report.Definition
	for _, name := range slices.Sorted(maps.Keys(present)) {
		d := a.room.Present()[name]
		if d == nil {
			continue // it cannot be read, and nothing of it is known
		}
		text := manuscript.Relinked(d.Text, id, to)
		if name == id {
			text = manuscript.Renamed(text, to, "")
		}
		if text == d.Text {
			continue
		}
		read, faults := definition.Parse([]byte(text), a.room.defaults(a.room.present()))
		if faults != nil {
			return nil, model.Refuse("to", "%s would no longer be right: %w", name, faults)
		}
		changed = append(changed, read)
	}
	if err := a.putRenamed(ctx, id, to, note, changed); err != nil {
		return nil, err
	}
	a.room.log.InfoContext(ctx, "report renamed", "from", id, "to", to, "relinked", len(changed)-1, "by", a.Person().Name)
	for _, again := range a.room.renamed {
		if err := again(ctx); err != nil {
			return nil, err
		}
	}
	return a.room.Present()[to], a.room.people.Reopen(ctx)
}

func (a *Access) putRenamed(ctx context.Context, id, to, note string, changed []*report.Definition) error {
	var put []model.Report
	for _, d := range changed {
		put = append(put, model.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version, Text: d.Text,
			By: a.Person().Name, Note: note})
	}
	draft := func(text string) string {
		if own, _ := manuscript.Head([]byte(text)); own == id {
			text = manuscript.Renamed(text, to, "")
		}
		return manuscript.Relinked(text, id, to)
	}
	was := ""
	if d := a.room.Present()[id]; d != nil {
		was = d.Version
	}
	err := a.room.records.Rename(ctx, catalog.Renaming{From: id, To: to, Was: was, Changed: put, Draft: draft},
		a.room.org.Now())
	if errors.Is(err, catalog.ErrBusy) {
		return model.Refuse("report", "%s: %w", id, err)
	}
	if err != nil {
		return fmt.Errorf("renaming %s: %w", id, err)
	}
	a.room.mu.Lock()
	delete(a.room.catalog, id)
	if successor, gone := a.room.retired[id]; gone {
		delete(a.room.retired, id)
		a.room.retired[to] = successor
	}
	for name, successor := range a.room.retired {
		if successor == id {
			a.room.retired[name] = to
		}
	}
	for was, is := range a.room.names {
		if is == id {
			a.room.names[was] = to
		}
	}
	delete(a.room.names, to)
	a.room.names[id] = to
	for key := range a.room.versions {
		if strings.HasPrefix(key, id+"/") {
			delete(a.room.versions, key)
		}
	}
	a.room.mu.Unlock()
	for _, d := range changed {
		a.room.remember(d)
	}
	return nil
}

// CalledNow is the id that a report has now, by one that it had at some time: links in results
// are sealed with the ids of then.
func (a *Access) CalledNow(id string) string {
	if now := a.room.calledNow(id); now != "" && a.room.Present()[id] == nil {
		return now
	}
	return id
}

// Renames calls what reads anew what it knows of reports when one was renamed.
func (room *Room) Renames(again func(ctx context.Context) error) {
	room.renamed = append(room.renamed, again)
}
