package access

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"mantilla/core/report"
	"mantilla/library/acting"
	"mantilla/model"
)

// Trust says how people are let in whom a provider knows.
type Trust struct {
	Asked bool       // there is a provider: accounts need no password
	Makes bool       // accounts are made at the first sign-in; otherwise only those that are there come in
	Role  model.Role // of accounts that are made
	Local string     // the one account that still signs in by a password; "" for all
	// SecondFor is the role from which on those who sign in by a password need a second factor to do
	// more than read; "" for none.
	SecondFor model.Role
}

// Introduced is somebody as a provider knows them.
type Introduced struct {
	Subject     string // that nobody else ever has
	Name, Title string
	Groups      []string // nil where the provider says nothing of groups
	Units       []string // nil likewise; * for all
}

// Stranger says why somebody whom a provider knows is not let in.
type Stranger struct {
	Reason string // unknown, closed, taken, name or units
	says   string
}

func (s *Stranger) Error() string { return s.says }

func stranger(reason, says string, args ...any) error {
	return &Stranger{reason, fmt.Sprintf(says, args...)}
}

// Trusts says how people are let in whom a provider knows, before anybody is.
func (room *Room) Trusts(t Trust) { room.trust = t }

// byPassword tells whether an account may still sign in by a password.
func (room *Room) byPassword(name string) bool {
	return room.trust.Local == "" || room.trust.Local == name
}

// SignInAs lets somebody in whom a provider knows, as their account: the one that is theirs, else the
// one of their name that is nobody's yet, else, where that is wanted, a new one. Groups and units that
// the provider speaks of become theirs.
func (room *Room) SignInAs(ctx context.Context, who Introduced) (secret string, p model.Person, ends time.Time,
	err error) {
	acting.By(ctx, who.Name)
	if p, err = room.account(ctx, who); err != nil {
		room.log.WarnContext(ctx, "somebody whom the provider knows is not let in", "name", fmt.Sprintf("%.40q", who.Name),
			"error", err)
		return "", p, ends, err
	}
	acting.By(ctx, p.Name)
	before := noted(p)
	p.Subject = who.Subject
	if who.Units != nil {
		if p.Units, err = room.unitsOf(ctx, p, who); err != nil {
			return "", p, ends, err
		}
	}
	if err := room.records.Introduce(ctx, p, who.Groups); err != nil {
		return "", p, ends, err
	}
	if p.Revision == 0 {
		before = ""
	}
	acting.Changes(ctx, before, noted(p))
	if p, err = room.records.Person(ctx, p.Name); err != nil {
		return "", p, ends, err
	}
	now := room.org.Now()
	secret, ends = model.NewSecret(), now.Add(browserLasts)
	return secret, p, ends, room.records.AddSession(ctx, model.Session{Digest: model.Digest(secret), Person: p.Name,
		Kind: "browser", MadeAt: now, EndsAt: ends})
}

// account is that of somebody whom a provider knows, or the one that is to be made.
func (room *Room) account(ctx context.Context, who Introduced) (p model.Person, err error) {
	p, err = room.records.PersonOf(ctx, who.Subject)
	if errors.Is(err, model.ErrNotFound) {
		p, err = room.records.Person(ctx, who.Name)
	}
	switch {
	case errors.Is(err, model.ErrNotFound):
		switch {
		case !room.trust.Makes:
			return p, stranger("unknown", "there is no account %s; ask an administrator for one", who.Name)
		case !accountName.MatchString(who.Name) || who.Name == ServiceName:
			return p, stranger("name", "%q cannot be the name of an account", who.Name)
		}
		return model.Person{Name: who.Name, Title: who.Title, Role: room.trust.Role}, nil
	case err != nil:
		return p, err
	case p.Closed:
		return p, stranger("closed", "the account %s is closed", p.Name)
	case p.Subject != "" && p.Subject != who.Subject, p.Owner != "", p.Name == room.trust.Local:
		return p, stranger("taken", "the account %s is somebody else's", p.Name)
	}
	return p, nil
}

// unitsOf are the units that somebody is limited to, as the provider says.
func (room *Room) unitsOf(ctx context.Context, p model.Person, who Introduced) ([]string, error) {
	if ranks[p.Role] >= ranks[model.Author] {
		return nil, nil // who writes definitions sees everything
	}
	if slices.Contains(who.Units, "*") {
		return nil, nil
	}
	if len(who.Units) == 0 { // which would let them see everything
		return nil, stranger("units", "the provider names no unit that %s sees; * stands for all", p.Name)
	}
	known, err := room.catalog.UnitCodes(ctx)
	if err != nil {
		return nil, err
	}
	for _, b := range report.BoundsOf(who.Units) {
		if _, is := known[b.Unit]; !is {
			return nil, stranger("units", "the unit %s, which the provider names, is not known here", b.Unit)
		}
	}
	units := slices.Clone(who.Units)
	slices.Sort(units)
	return slices.Compact(units), nil
}
