package access

import (
	"context"
	"errors"

	"mantilla/model"
)

// checkOwner says what is wrong with who answers for a service account: what the account may do is what
// its owner has scripts do by its tokens, so it is at most what they may do themselves.
func (a *Access) checkOwner(ctx context.Context, before, p model.Person) error {
	if p.Owner == "" {
		return nil
	}
	if before.Name != "" && before.Owner == "" {
		return model.Refuse("owner", "%s is a person's account, and stays one; make another for scripts", p.Name)
	}
	owner, err := a.room.records.Person(ctx, p.Owner)
	switch {
	case errors.Is(err, model.ErrNotFound):
		return model.Refuse("owner", "there is no account %q to answer for this one", p.Owner)
	case err != nil:
		return err
	case owner.Owner != "":
		return model.Refuse("owner", "%s is a service account itself; a person answers for one", owner.Name)
	case owner.Closed && !p.Closed:
		return model.Refuse("owner", "the account %s is closed; name somebody who answers for this one", owner.Name)
	case ranks[p.Role] > ranks[owner.Role]:
		return model.Refuse("role", "%s, who answers for it, is %s; a service account does not do more", owner.Name,
			owner.Role)
	}
	return nil
}

// answered is what a service account may do as long as its owner is here: at most what their role may.
func (room *Room) answered(ctx context.Context, p model.Person) (model.Person, error) {
	owner, err := room.records.Person(ctx, p.Owner)
	if errors.Is(err, model.ErrNotFound) || err == nil && owner.Closed {
		return p, ErrNotSignedIn
	}
	if ranks[p.Role] > ranks[owner.Role] {
		p.Role = owner.Role
	}
	return p, err
}

// answersFor tells whether the person is who answers for a service account.
func (a *Access) answersFor(ctx context.Context, name string) bool {
	p, err := a.room.records.Person(ctx, name)
	return err == nil && p.Owner != "" && p.Owner == a.person.Name
}
