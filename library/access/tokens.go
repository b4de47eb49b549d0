package access

import (
	"context"
	"strings"
	"time"

	"mantilla/library/acting"
	"mantilla/model"
)

// NewToken says what a token is to be: for a script, or for the command line of who signs in
// elsewhere.
type NewToken struct {
	Person string // "" for one's own; another's for administrators
	Label  string // what it is for
	Days   int    // how long it lasts
	As     model.Role
}

// longestToken is how many days a token may last.
const longestToken = 366

// MakeToken makes a token that acts as its owner, at most as a role. It returns the secret, which is
// told once.
func (a *Access) MakeToken(ctx context.Context, n NewToken) (secret string, ends time.Time, err error) {
	if err := a.whole("making tokens"); err != nil {
		return "", ends, err
	}
	if a.person.Owner != "" && (n.Person == "" || n.Person == a.person.Name) {
		return "", ends, model.Forbid("a service account makes no tokens; %s, who answers for it, does", a.person.Owner)
	}
	if n.Person, err = a.whoseSessions(ctx, n.Person); err != nil {
		return "", ends, err
	}
	owner, err := a.room.records.Person(ctx, n.Person)
	if err != nil {
		return "", ends, a.missingPerson(ctx, n.Person, err)
	}
	_, known := ranks[n.As]
	n.Label = strings.TrimSpace(n.Label)
	switch {
	case n.Label == "":
		return "", ends, model.Refuse("label", "say what the token is for, such as nightly export")
	case n.Days < 1 || n.Days > longestToken:
		return "", ends, model.Refuse("days", "a token lasts from 1 to %d days, not %d", longestToken, n.Days)
	case n.As != "" && !known:
		return "", ends, model.Refuse("as", "%q is not a role; use reader, runner, author, librarian or administrator", n.As)
	case n.As != "" && ranks[n.As] > ranks[owner.Role]:
		return "", ends, model.Refuse("as", "%s is %s; a token does not do more than its owner", owner.Name, owner.Role)
	}
	now := a.room.org.Now()
	secret, ends = model.NewSecret(), now.AddDate(0, 0, n.Days)
	acting.On(ctx, "person", owner.Name)
	acting.Changes(ctx, "", "token "+n.Label+", "+string(n.As)+" until "+ends.UTC().Format(time.DateOnly))
	err = a.room.records.AddSession(ctx, model.Session{Digest: model.Digest(secret), Person: owner.Name,
		Kind: "token", Label: n.Label, MadeAt: now, EndsAt: ends, As: n.As})
	switch {
	case err != nil:
	case owner.Owner != "":
		a.room.tell(ctx, owner.Owner,
			"The token “"+n.Label+"” was made, which acts as "+owner.Title+", which you answer for.")
	default:
		a.room.tell(ctx, owner.Name, "The token “"+n.Label+"” was made, which acts as you.")
	}
	return secret, ends, err
}

// whole refuses what only somebody does who signed in themselves, and no token that may do less.
func (a *Access) whole(what string) error {
	if a.less {
		return model.Forbid("%s is for who signed in; this token acts as %s at most", what, a.person.Role)
	}
	return nil
}

// usedAgain is how long a use of a session is not noted again.
const usedAgain = 5 * time.Minute

// capped is a person as a session of theirs may act.
func (room *Room) capped(p model.Person, s model.Session) *Access {
	a := room.As(p)
	a.present = true
	if s.As != "" {
		a.less = true
		if ranks[s.As] < ranks[p.Role] {
			a.person.Role = s.As
		}
	}
	if s.As == "" && !s.Strong && p.Owner == "" && room.wants(p) {
		a.person.Role, a.wants = model.Reader, true
	}
	return a
}

// Wants tells whether the person has to set up a second factor before they do more than read.
func (a *Access) Wants() bool { return a.wants }
