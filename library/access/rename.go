package access

import (
	"context"
	"errors"
	"fmt"

	"mantilla/model"
)

// Renames calls what reads anew what it knows of people and groups when one was renamed. It is
// called before anybody is let in.
func (room *Room) Renames(again func(ctx context.Context) error) {
	room.renamed = append(room.renamed, again)
}

// RenameAccount gives an account another name; what is kept for it goes on under that. What is
// sealed, and who did what, keeps the name of then.
func (a *Access) RenameAccount(ctx context.Context, name, to string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	if !accountName.MatchString(to) || to == ServiceName {
		return model.Refuse("to", "%q is not the name of an account; use small letters, digits, points and hyphens, a "+
			"letter first", to)
	}
	if _, err := a.room.records.Person(ctx, name); err != nil {
		return a.missingPerson(ctx, name, err)
	}
	if _, err := a.room.records.Person(ctx, to); !errors.Is(err, model.ErrNotFound) {
		return errors.Join(err, model.Refuse("to", "there is an account %s already", to))
	}
	return a.rename(ctx, model.KindAccount, name, to)
}

// RenameGroup gives a group another id; what is open to it or shared with it stays so.
func (a *Access) RenameGroup(ctx context.Context, id, to string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	if err := isGroupID("to", to); err != nil {
		return err
	}
	known := a.room.keeps[model.KindGroup]
	if err := known.has(ctx, model.KindGroup, "id", id); err != nil {
		return err
	}
	if there, err := known(ctx, to); err != nil || there {
		return errors.Join(err, model.Refuse("to", "there is a group %s already", to))
	}
	return a.rename(ctx, model.KindGroup, id, to)
}

func (a *Access) rename(ctx context.Context, kind, from, to string) error {
	if err := a.room.records.Rename(ctx, kind, from, to); err != nil {
		return fmt.Errorf("renaming the %s %s: %w", kind, from, err)
	}
	a.room.log.InfoContext(ctx, "renamed", "kind", kind, "from", from, "to", to, "by", a.person.Name)
	for _, again := range append(a.room.renamed, a.room.ReadRetired, a.room.Reopen) {
		if err := again(ctx); err != nil {
			return err
		}
	}
	return nil
}
