package access

import (
	"context"
	"crypto/rand"
	"fmt"
	"strings"

	"mantilla/library/acting"
	"mantilla/model"
)

// Erases calls what takes a person out of what it keeps, who is called by an alias from then on. It is
// said before anybody is let in.
func (room *Room) Erases(from func(ctx context.Context, name, title, alias string) error) {
	room.erased = append(room.erased, from)
}

// DataOf is what the service keeps of a person, by what it is kept under: for themselves, and for who keeps
// accounts.
func (a *Access) DataOf(ctx context.Context, name string) (map[string][]map[string]any, error) {
	if name != a.person.Name {
		if err := a.May(KeepPeople); err != nil {
			return nil, err
		}
	}
	if _, err := a.room.records.Person(ctx, name); err != nil {
		return nil, a.missingPerson(ctx, name, err)
	}
	acting.On(ctx, "person", name)
	return a.room.records.Data(ctx, name)
}

// Erase takes a person out of the service: their account, which is closed by then, is called by an alias;
// what was theirs alone is deleted, and what they did goes on under the alias, in the audit too. What is
// sealed keeps the name of then until it is deleted, as do back-ups and what was sent away.
func (a *Access) Erase(ctx context.Context, name string) (alias string, err error) {
	if err := a.May(KeepPeople); err != nil {
		return "", err
	}
	p, err := a.room.records.Person(ctx, name)
	switch {
	case err != nil:
		return "", a.missingPerson(ctx, name, err)
	case name == a.person.Name:
		return "", model.Refuse("person", "you cannot erase yourself; let another administrator do it")
	case !p.Closed:
		return "", model.Refuse("person",
			"the account %s is open; close it first, and let somebody else take over what others "+
				"need of it", name)
	}
	alias = "gone-" + strings.ToLower(rand.Text()[:8])
	acting.On(ctx, "person", alias)
	if err := a.rename(ctx, model.KindAccount, name, alias); err != nil {
		return "", err
	}
	if err := a.room.records.Erase(ctx, alias); err != nil {
		return "", fmt.Errorf("erasing %s, who is called %s now: %w", name, alias, err)
	}
	for _, from := range a.room.erased {
		if err := from(ctx, name, p.Title, alias); err != nil {
			return "", fmt.Errorf("erasing %s, who is called %s now: %w", name, alias, err)
		}
	}
	a.room.log.InfoContext(ctx, "account erased", "alias", alias, "by", a.person.Name)
	return alias, a.room.Reopen(ctx)
}
