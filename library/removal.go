package library

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"mantilla/core/nearest"
	"mantilla/model"
)

// What is deleted here is gone. So that nothing else is lost or left hanging by
// it, what others still need is refused, with what needs it.

// DeletePerson deletes an account that nothing is kept for. What people did is
// known by their names, so an account that did something is closed instead.
func (a *Access) DeletePerson(ctx context.Context, name string) error {
	if err := a.may(keepPeople); err != nil {
		return err
	}
	if name == a.person.Name {
		return model.Refuse("person", "you cannot delete your own account; let another administrator do it")
	}
	if _, err := a.store.Person(ctx, name); err != nil {
		return a.missingPerson(ctx, name, err)
	}
	kept, err := a.store.KeptFor(ctx, name)
	if err != nil {
		return err
	}
	if len(kept) > 0 {
		return model.Refuse("person", "%s has %s; close the account instead, or let somebody else take them over first", name, nearest.And(kept))
	}
	if err := a.store.DeletePerson(ctx, name); err != nil {
		return err
	}
	a.log.Info("account deleted", "name", name, "by", a.person.Name)
	return a.reopen(ctx)
}

func (a *Access) missingPerson(ctx context.Context, name string, err error) error {
	if !errors.Is(err, model.ErrNotFound) {
		return err
	}
	people, _ := a.store.People(ctx) // only to offer what was meant
	var known []string
	for _, p := range people {
		known = append(known, p.Name)
	}
	return model.NoSuch("account", name, known)
}

// DeleteGroup deletes a group. What was open to it or shared with it no longer
// is; its people stay.
func (a *Access) DeleteGroup(ctx context.Context, id string) error {
	if err := a.may(keepPeople); err != nil {
		return err
	}
	if err := a.store.DeleteGroup(ctx, id); errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("group", id, nil)
	} else if err != nil {
		return err
	}
	a.log.Info("group deleted", "group", id, "by", a.person.Name)
	return a.reopen(ctx)
}

// reopen reads anew to whom reports are open.
func (a *Access) reopen(ctx context.Context) error {
	a.office.Lock()
	defer a.office.Unlock()
	openings, err := a.store.Openings(ctx)
	if err != nil {
		return err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.openings = openings
	return nil
}

// DeleteReport takes a report out of the catalog. Its versions and results
// stay; a run control that runs it must be changed first.
func (a *Access) DeleteReport(ctx context.Context, id string) error {
	if err := a.may(keepCatalog); err != nil {
		return err
	}
	_, present := a.present()[id]
	if !present && a.whyUnread(id) == nil {
		return model.NoSuch("report", id, nil)
	}
	controls, err := a.store.Controls(ctx, model.Seen{All: true}, "", 100_000)
	if err != nil {
		return err
	}
	for _, k := range controls {
		c := a.readControl(k)
		if slices.ContainsFunc(c.Steps, func(s Step) bool { return s.Report == id }) {
			return model.Refuse("report", "the run control %q of %s runs it; change or delete that first", c.Title, c.Owner)
		}
	}
	a.office.Lock()
	defer a.office.Unlock()
	if err := a.store.DeleteReport(ctx, id); err != nil {
		return err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.catalog, id)
	delete(a.openings, id)
	delete(a.unread, id)
	a.log.Info("report deleted", "report", id, "by", a.person.Name)
	return nil
}

// DeleteSource takes a source that no report reads out of the catalog.
func (a *Access) DeleteSource(ctx context.Context, id string) error {
	if err := a.may(keepCatalog); err != nil {
		return err
	}
	for _, d := range a.present() {
		if d.Source == id {
			return model.Refuse("source", "the report %s reads it; change or delete that first", d.ID)
		}
	}
	a.office.Lock()
	defer a.office.Unlock()
	if err := a.store.DeleteSource(ctx, id); errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("source", id, nil)
	} else if err != nil {
		return err
	}
	a.mu.Lock()
	old, known := a.sources[id]
	delete(a.sources, id)
	delete(a.broken, id)
	a.mu.Unlock()
	a.log.Info("source deleted", "source", id, "by", a.person.Name)
	if known {
		return old.Close()
	}
	return nil
}

// Session is a browser or command line that is signed in.
type Session struct {
	ID          string
	Kind, Label string
	Made, Ends  time.Time
	Present     bool // it is the one that asks
}

// shortID is how much of a session's digest names it.
const shortID = 16

// Sessions lists what is signed in: of the person, or of another for
// administrators. Secret is that of who asks.
func (a *Access) Sessions(ctx context.Context, person, secret string) (out []Session, err error) {
	if person, err = a.whoseSessions(person); err != nil {
		return nil, err
	}
	all, err := a.store.Sessions(ctx, person, a.settings.Now())
	for _, s := range all {
		out = append(out, Session{s.Digest[:shortID], s.Kind, s.Label, s.MadeAt, s.EndsAt, s.Digest == digest(secret)})
	}
	return out, err
}

func (a *Access) whoseSessions(person string) (string, error) {
	if person == "" || person == a.person.Name {
		return a.person.Name, nil
	}
	return person, a.may(keepPeople)
}

// EndSession signs a browser or command line out.
func (a *Access) EndSession(ctx context.Context, person, id string) error {
	person, err := a.whoseSessions(person)
	if err != nil {
		return err
	}
	all, err := a.store.Sessions(ctx, person, a.settings.Now())
	if err != nil {
		return err
	}
	for _, s := range all {
		if s.Digest[:shortID] == id {
			return a.store.EndSession(ctx, s.Digest)
		}
	}
	return fmt.Errorf("session %s: %w", id, model.ErrNotFound)
}
