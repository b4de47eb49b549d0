package access

import (
	"context"
	"errors"
	"fmt"

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

// Unanswered says that a service account may do nothing, since who answers for it is not here.
type Unanswered struct{ Account, Owner string }

func (e *Unanswered) Error() string {
	return fmt.Sprintf("nobody answers for the service account %s: the account %s is closed or gone", e.Account, e.Owner)
}

// answered is a service account as it may act as long as its owner is here: at most as their role may, and
// within the units that they see. People are as they were.
func (room *Room) answered(ctx context.Context, a *Access) (*Access, error) {
	if a.person.Owner == "" {
		return a, nil
	}
	owner, err := room.records.Person(ctx, a.person.Owner)
	switch {
	case errors.Is(err, model.ErrNotFound), err == nil && owner.Closed:
		return nil, &Unanswered{Account: a.person.Name, Owner: a.person.Owner}
	case err != nil:
		return nil, err
	}
	if ranks[a.person.Role] > ranks[owner.Role] {
		a.person.Role = owner.Role
	}
	switch {
	case len(owner.Units) == 0:
	case a.Limited():
		a.within = append(a.within, owner.Units)
	default:
		a.person.Units = owner.Units
	}
	return a, nil
}

// answersFor tells whether the person is who answers for a service account.
func (a *Access) answersFor(ctx context.Context, name string) bool {
	p, err := a.room.records.Person(ctx, name)
	return err == nil && p.Owner != "" && p.Owner == a.person.Name
}
