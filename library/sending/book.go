package sending

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"regexp"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/library/access"
	"mantilla/model"
)

// Addresses returns the address book.
func (a *Access) Addresses(ctx context.Context) ([]model.Address, error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	return a.room.records.Addresses(ctx)
}

var nickname = regexp.MustCompile(`^[a-z][a-z0-9._-]{0,39}$`)

// PutAddress keeps an entry of the address book. Revision is the one seen
// before, 0 for a new one.
func (a *Access) PutAddress(ctx context.Context, e model.Address) (model.Address, error) {
	if err := a.May(access.Run); err != nil {
		return e, err
	}
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return e, err
	}
	e.Owner = a.Person().Name
	var before model.Address
	for _, known := range book {
		if strings.EqualFold(known.Nickname, e.Nickname) && e.Revision > 0 {
			if err := a.MayChange("the address "+known.Nickname, known.Owner); err != nil {
				return e, err
			}
			before, e.Owner = known, known.Owner
		}
		if slices.Contains(known.Groups, e.Nickname) {
			return e, model.Refuse("nickname", "%q is the name of a group of the address book", e.Nickname)
		}
		if slices.Contains(e.Groups, known.Nickname) {
			return e, model.Refuse("groups", "%q is the nickname of %s; a group has another name", known.Nickname, known.Name)
		}
	}
	parsed, err := mail.ParseAddress(e.Mail)
	switch {
	case !nickname.MatchString(e.Nickname):
		return e, badNickname("nickname", e.Nickname)
	case strings.TrimSpace(e.Name) == "":
		return e, model.Refuse("name", "the name is missing")
	case err != nil || parsed.Address != e.Mail:
		return e, model.Refuse("mail", "%q is not a mail address such as ada@example.org", e.Mail)
	}
	for _, g := range e.Groups {
		if !nickname.MatchString(g) {
			return e, model.Refuse("groups", "%q is not the name of a group; use small letters, digits, points and hyphens, a "+
				"letter first", g)
		}
	}
	if e.Person != "" {
		if _, err := a.room.people.Person(ctx, e.Person); err != nil {
			return e, model.Refuse("person", "there is no account %q", e.Person)
		}
	}
	if err := a.mayLead(before, e); err != nil {
		return e, err
	}
	if err := a.room.mailable(e.Mail); err != nil {
		return e, model.Refuse("mail", "%w", err)
	}
	if err := a.KnownUnits(ctx, e.Units); err != nil {
		return e, err
	}
	if err := a.room.records.PutAddress(ctx, e, a.Person().Name, a.room.org.Now()); err != nil {
		return e, fmt.Errorf("the address %s: %w", e.Nickname, err)
	}
	return a.address(ctx, e.Nickname)
}

func badNickname(part, nick string) error {
	return model.Refuse(part, "%q is not a nickname; use small letters, digits, points and hyphens, a letter first", nick)
}

// mayLead refuses changes of where data goes by itself: the units that an entry
// stands for, its groups and its account decide who is sent what, so librarians
// set them, and the mail address of an entry that has any.
func (a *Access) mayLead(before, e model.Address) error {
	leads := len(before.Units) > 0 || len(before.Groups) > 0 || before.Person != ""
	switch {
	case a.Has(access.KeepCatalog):
		return nil
	case !slices.Equal(append([]string{}, before.Units...), append([]string{}, e.Units...)),
		!slices.Equal(append([]string{}, before.Groups...), append([]string{}, e.Groups...)), before.Person != e.Person:
		return model.Forbid("units, groups and account of an address decide who is sent what; a librarian sets them")
	case leads && before.Mail != e.Mail:
		return model.Forbid("%s stands for units, groups or an account; a librarian changes its mail address",
			before.Nickname)
	}
	return nil
}

// mailable tells whether mail may go to an address at all.
func (room *Room) mailable(address string) error {
	_, domain, _ := strings.Cut(address, "@")
	domains := room.settings.MailDomains
	if len(domains) == 0 || slices.ContainsFunc(domains, func(d string) bool { return strings.EqualFold(d, domain) }) {
		return nil
	}
	return fmt.Errorf("mail goes to %s only, not to %s; an administrator sets this with --mail-domains",
		nearest.And(domains), address)
}

// AddressHistory tells what became of an entry of the address book, the newest
// first.
func (a *Access) AddressHistory(ctx context.Context, nick string) ([]model.AddressChange, error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	changes, err := a.room.records.AddressHistory(ctx, nick)
	if err == nil && len(changes) == 0 {
		_, err = a.address(ctx, nick)
	}
	return changes, err
}

func (a *Access) address(ctx context.Context, nick string) (model.Address, error) {
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return model.Address{}, err
	}
	var known []string
	for _, e := range book {
		if strings.EqualFold(e.Nickname, nick) {
			return e, nil
		}
		known = append(known, e.Nickname)
	}
	return model.Address{}, model.NoSuch("address", nick, known)
}

// DeleteAddress deletes an entry of the address book.
func (a *Access) DeleteAddress(ctx context.Context, nick string) error {
	if err := a.May(access.Run); err != nil {
		return err
	}
	e, err := a.address(ctx, nick)
	if err == nil {
		err = a.MayChange("the address "+e.Nickname, e.Owner)
	}
	if err == nil {
		err = a.mayLead(e, model.Address{Mail: e.Mail})
	}
	if err == nil {
		err = a.room.records.DeleteAddress(ctx, e.Nickname, a.Person().Name, a.room.org.Now())
	}
	return err
}

// mostWritten is how many names may stand in one line of recipients.
const mostWritten = 500

// instead is who is written to where an entry is retired; the error says that nobody is.
func (room *Room) instead(book []model.Address, written string) (string, error) {
	at := slices.IndexFunc(book, func(e model.Address) bool { return strings.EqualFold(e.Nickname, written) })
	if at < 0 {
		return written, nil
	}
	r, gone := room.people.Retired(model.KindAddress, book[at].Nickname)
	switch {
	case !gone:
		return written, nil
	case r.Successor == "":
		return "", fmt.Errorf("the address %s is retired, and nothing takes its place", written)
	}
	return r.Successor, nil
}

// addressed finds who is meant by what is written in a line of recipients:
// nicknames, groups of the address book, and mail addresses.
//
// An address written in full stands for an entry only where a librarian said so:
// otherwise whoever makes an entry for somebody's address could narrow what
// others may send there.
func (room *Room) addressed(book []model.Address, written []string) (out []model.Address, err error) {
	if len(written) > mostWritten {
		return nil, fmt.Errorf("%d recipients are too many for one line; at most %d can be written to, a group in the "+
			"address book counts once", len(written), mostWritten)
	}
	add := func(e model.Address) {
		if r, gone := room.people.Retired(model.KindAddress, e.Nickname); gone { // one of a group
			at := slices.IndexFunc(book, func(o model.Address) bool { return o.Nickname == r.Successor })
			if at < 0 {
				return
			}
			e = book[at]
		}
		if !slices.ContainsFunc(out, func(o model.Address) bool { return o.Mail == e.Mail }) {
			out = append(out, e)
		}
	}
	var wrong []error
	for _, text := range written {
		text, err = room.instead(book, strings.TrimSpace(text))
		if err != nil {
			wrong = append(wrong, err)
			continue
		}
		found := text == ""
		var known []string
		for _, e := range book {
			if strings.EqualFold(e.Nickname, text) || slices.Contains(e.Groups, text) ||
				strings.EqualFold(e.Mail, text) && (len(e.Units) > 0 || e.Person != "") {
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
			if err := room.mailable(parsed.Address); err != nil {
				wrong = append(wrong, err)
				continue
			}
			add(model.Address{Name: parsed.Name, Mail: parsed.Address})
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
