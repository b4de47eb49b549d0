package access

import (
	"context"
	"errors"
	"slices"

	"mantilla/core/nearest"
	"mantilla/model"
)

// DeletePerson deletes an account that nothing is kept for. What people did is
// known by their names, so an account that did something is closed instead.
func (a *Access) DeletePerson(ctx context.Context, name string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	if name == a.person.Name {
		return model.Refuse("person", "you cannot delete your own account; let another administrator do it")
	}
	p, err := a.room.records.Person(ctx, name)
	if err != nil {
		return a.missingPerson(ctx, name, err)
	}
	kept, err := a.room.records.KeptFor(ctx, name)
	if err != nil {
		return err
	}
	if len(kept) > 0 {
		return model.Refuse("person", "%s has %s; close the account instead, or let somebody else take them over first", name,
			nearest.And(kept))
	}
	if err := a.room.records.DeletePerson(ctx, a.Throws(model.ThrownAccount, name, p.Title)); err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, "account deleted", "name", name, "by", a.person.Name)
	return a.room.Reopen(ctx)
}

func (a *Access) missingPerson(ctx context.Context, name string, err error) error {
	if !errors.Is(err, model.ErrNotFound) {
		return err
	}
	people, _ := a.room.records.People(ctx) // only to offer what was meant
	var known []string
	for _, p := range people {
		known = append(known, p.Name)
	}
	return model.NoSuch("account", name, known)
}

// DeleteGroup deletes a group. What was open to it or shared with it no longer
// is, until it is put back; its people stay.
func (a *Access) DeleteGroup(ctx context.Context, id string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	groups, err := a.room.records.Groups(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(groups, func(g model.Group) bool { return g.ID == id })
	if at < 0 {
		return model.NoSuch("group", id, nil)
	}
	if err := a.room.records.DeleteGroup(ctx, a.Throws(model.ThrownGroup, id, groups[at].Title)); err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, "group deleted", "group", id, "by", a.person.Name)
	return a.room.Reopen(ctx)
}

// Throws is something that the person deletes now, for the trash.
func (a *Access) Throws(kind, id, name string) model.Thrown {
	return model.Thrown{Kind: kind, ID: id, Name: name, Owner: a.person.Name, At: a.room.org.Now()}
}

// PutBack brings an account or a group back that was deleted, with what was open to it or shared with it.
// An account's sessions stay ended.
func (a *Access) PutBack(ctx context.Context, kind, id string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	if err := a.room.records.PutBack(ctx, kind, id); err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, kind+" brought back", kind, id, "by", a.person.Name)
	return a.room.Reopen(ctx)
}
