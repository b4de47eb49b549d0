package library

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"regexp"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/store"
)

// Addresses returns the address book.
func (a *Access) Addresses(ctx context.Context) ([]store.Address, error) {
	if err := a.may(run); err != nil {
		return nil, err
	}
	return a.store.Addresses(ctx)
}

var nickname = regexp.MustCompile(`^[a-z][a-z0-9._-]{0,39}$`)

// PutAddress keeps an entry of the address book. Revision is the one seen
// before, 0 for a new one.
func (a *Access) PutAddress(ctx context.Context, e store.Address) (store.Address, error) {
	if err := a.may(run); err != nil {
		return e, err
	}
	book, err := a.store.Addresses(ctx)
	if err != nil {
		return e, err
	}
	e.Owner = a.person.Name
	for _, known := range book {
		if strings.EqualFold(known.Nickname, e.Nickname) && e.Revision > 0 {
			if err := a.mayChange("the address "+known.Nickname, known.Owner); err != nil {
				return e, err
			}
		}
		if slices.Contains(known.Groups, e.Nickname) {
			return e, refused("nickname", "%q is the name of a group of the address book", e.Nickname)
		}
		if slices.Contains(e.Groups, known.Nickname) {
			return e, refused("groups", "%q is the nickname of %s; a group has another name", known.Nickname, known.Name)
		}
	}
	parsed, err := mail.ParseAddress(e.Mail)
	switch {
	case !nickname.MatchString(e.Nickname):
		return e, refused("nickname", "%q is not a nickname; use small letters, digits, points and hyphens, a letter first", e.Nickname)
	case strings.TrimSpace(e.Name) == "":
		return e, refused("name", "the name is missing")
	case err != nil || parsed.Address != e.Mail:
		return e, refused("mail", "%q is not a mail address such as ada@example.org", e.Mail)
	}
	for _, g := range e.Groups {
		if !nickname.MatchString(g) {
			return e, refused("groups", "%q is not the name of a group; use small letters, digits, points and hyphens, a letter first", g)
		}
	}
	if e.Person != "" {
		if _, err := a.store.Person(ctx, e.Person); err != nil {
			return e, refused("person", "there is no account %q", e.Person)
		}
	}
	if err := a.knownUnits(ctx, e.Units); err != nil {
		return e, err
	}
	if err := a.store.PutAddress(ctx, e); err != nil {
		return e, fmt.Errorf("the address %s: %w", e.Nickname, err)
	}
	return a.address(ctx, e.Nickname)
}

func (a *Access) address(ctx context.Context, nick string) (store.Address, error) {
	book, err := a.store.Addresses(ctx)
	if err != nil {
		return store.Address{}, err
	}
	var known []string
	for _, e := range book {
		if strings.EqualFold(e.Nickname, nick) {
			return e, nil
		}
		known = append(known, e.Nickname)
	}
	return store.Address{}, missing("address", nick, known)
}

// DeleteAddress deletes an entry of the address book.
func (a *Access) DeleteAddress(ctx context.Context, nick string) error {
	if err := a.may(run); err != nil {
		return err
	}
	e, err := a.address(ctx, nick)
	if err == nil {
		err = a.mayChange("the address "+e.Nickname, e.Owner)
	}
	if err == nil {
		err = a.store.DeleteAddress(ctx, e.Nickname)
	}
	return err
}

// addressed finds who is meant by what is written in a line of recipients:
// nicknames, groups of the address book, and mail addresses.
func addressed(book []store.Address, written []string) (out []store.Address, err error) {
	add := func(e store.Address) {
		if !slices.ContainsFunc(out, func(o store.Address) bool { return o.Mail == e.Mail }) {
			out = append(out, e)
		}
	}
	var wrong []error
	for _, text := range written {
		text = strings.TrimSpace(text)
		found := text == ""
		var known []string
		for _, e := range book {
			if strings.EqualFold(e.Nickname, text) || slices.Contains(e.Groups, text) || strings.EqualFold(e.Mail, text) {
				add(e)
				found = true
			}
			known = append(append(known, e.Nickname), e.Groups...)
		}
		if found {
			continue
		}
		parsed, err := mail.ParseAddress(text)
		if err == nil && strings.Contains(text, "@") {
			add(store.Address{Name: parsed.Name, Mail: parsed.Address})
			continue
		}
		said := fmt.Sprintf("nobody in the address book is called %q, and it is no mail address", text)
		if near := nearest.Names(text, known, 3); len(near) > 0 {
			said += "; did you mean " + nearest.Or(near) + "?"
		}
		wrong = append(wrong, errors.New(said))
	}
	return out, errors.Join(wrong...)
}
