package library

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"time"

	"golang.org/x/crypto/bcrypt"

	"mantilla/store"
)

// How signing in is guarded.
const (
	mostFailures   = 5
	lockedFor      = 15 * time.Minute
	browserLasts   = 12 * time.Hour
	tokenLasts     = 90 * 24 * time.Hour
	leastPassword  = 10
	longestForHash = 72 // bytes that bcrypt looks at
)

// What can be wrong when somebody signs in.
var (
	ErrNotSignedIn = errors.New("sign in first")
	ErrSignIn      = errors.New("the name or the password is not right")
	ErrLocked      = fmt.Errorf("signing in failed %d times; it is locked for %d minutes", mostFailures, int(lockedFor.Minutes()))
)

// nobody is compared with when there is no such account, so that the answer
// takes as long.
var nobody, _ = bcrypt.GenerateFromPassword([]byte("nobody"), bcrypt.DefaultCost)

// SignIn checks a password and returns a secret that stands for the person
// from then on: for a browser, or for a token that a command line keeps. After
// some failures an account is locked for a while.
func (l *Library) SignIn(ctx context.Context, name, password, kind, label string) (secret string, p store.Person, ends time.Time, err error) {
	now := l.settings.Now()
	p, err = l.store.Person(ctx, name)
	known := err == nil && !p.Closed
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return "", p, ends, err
	}
	if known && p.Locked.After(now) {
		return "", p, ends, ErrLocked
	}
	hash := nobody
	if known {
		hash = []byte(p.Password)
	}
	good := bcrypt.CompareHashAndPassword(hash, []byte(password)) == nil && known
	if known {
		if err := l.store.Tried(ctx, name, good, mostFailures, now.Add(lockedFor)); err != nil {
			return "", p, ends, err
		}
	}
	if !good {
		l.log.Warn("signing in failed", "name", name)
		return "", p, ends, ErrSignIn
	}
	lasts := browserLasts
	if kind == "token" {
		lasts = tokenLasts
	}
	secret, ends = random(), now.Add(lasts)
	err = l.store.AddSession(ctx, store.Session{Digest: digest(secret), Person: name, Kind: kind, Label: label, MadeAt: now, EndsAt: ends})
	return secret, p, ends, err
}

func random() string {
	var b [32]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}

func digest(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// WhoHas returns the library as the person whose secret it is.
func (l *Library) WhoHas(ctx context.Context, secret string) (*Access, error) {
	p, err := l.store.SessionPerson(ctx, digest(secret), l.settings.Now())
	if errors.Is(err, store.ErrNotFound) {
		return nil, ErrNotSignedIn
	}
	return l.As(p), err
}

// SignOut makes a secret worthless.
func (l *Library) SignOut(ctx context.Context, secret string) error {
	return l.store.EndSession(ctx, digest(secret))
}

// FirstAdministrator makes an account when there is none at all, and returns
// its name and password; both are empty when there are accounts.
func (l *Library) FirstAdministrator(ctx context.Context) (name, password string, err error) {
	people, err := l.store.People(ctx)
	if err != nil || len(people) > 0 {
		return "", "", err
	}
	name, password = "administrator", random()[:16]
	return name, password, l.AsService().PutPerson(ctx, store.Person{Name: name, Title: "Administrator", Role: store.Administrator}, password)
}

// People returns all accounts.
func (a *Access) People(ctx context.Context) ([]store.Person, error) {
	if err := a.may(keepPeople); err != nil {
		return nil, err
	}
	return a.store.People(ctx)
}

var accountName = regexp.MustCompile(`^[a-z][a-z0-9._-]{1,39}$`)

// PutPerson keeps an account; an empty password leaves the one there is.
func (a *Access) PutPerson(ctx context.Context, p store.Person, password string) error {
	if err := a.may(keepPeople); err != nil {
		return err
	}
	_, known := ranks[p.Role]
	switch {
	case !accountName.MatchString(p.Name):
		return refused("name", "%q is not a name to sign in with; use small letters, digits, points and hyphens, a letter first", p.Name)
	case p.Title == "":
		return refused("title", "the person's name is missing")
	case !known:
		return refused("role", "%q is not a role; use reader, runner, author, librarian or administrator", p.Role)
	case len(p.Units) > 0 && ranks[p.Role] >= ranks[store.Author]:
		return refused("units", "a person who writes definitions cannot be limited to units, since a definition says what is cut")
	case p.Revision == 0 && password == "":
		return refused("password", "a new account needs a password")
	case p.Name == a.person.Name && (p.Closed || p.Role != store.Administrator):
		return refused("role", "you cannot take your own administrator's role away; let another administrator do it")
	}
	if err := a.knownUnits(ctx, p.Units); err != nil {
		return err
	}
	if password != "" {
		hash, err := hashed(password)
		if err != nil {
			return err
		}
		p.Password = hash
	}
	if err := a.store.PutPerson(ctx, p); err != nil {
		return fmt.Errorf("the account %s: %w", p.Name, err)
	}
	a.log.Info("account kept", "name", p.Name, "role", p.Role, "by", a.person.Name)
	return nil
}

func hashed(password string) (string, error) {
	if len(password) < leastPassword || len(password) > longestForHash {
		return "", refused("password", "a password has %d to %d characters", leastPassword, longestForHash)
	}
	hash, err := bcrypt.GenerateFromPassword([]byte(password), bcrypt.DefaultCost)
	return string(hash), err
}

// knownUnits checks that some source has each of the units.
func (a *Access) knownUnits(ctx context.Context, units []string) error {
	if len(units) == 0 {
		return nil
	}
	known := map[string]bool{}
	a.mu.RLock()
	defer a.mu.RUnlock()
	for _, s := range a.sources {
		if s.config.Units == "" {
			continue
		}
		items, err := s.List(ctx, s.config.Units)
		if err != nil {
			return err
		}
		for _, i := range items {
			known[i.Code] = true
		}
	}
	for _, u := range units {
		if !known[u] {
			return refused("units", "%q is not the code of a unit", u)
		}
	}
	return nil
}

// ChangePassword gives the person a new password, against the old one, and
// signs them out everywhere.
func (a *Access) ChangePassword(ctx context.Context, old, password string) error {
	p, err := a.store.Person(ctx, a.person.Name)
	if err != nil {
		return err
	}
	if bcrypt.CompareHashAndPassword([]byte(p.Password), []byte(old)) != nil {
		return refused("old", "the present password is not right")
	}
	if p.Password, err = hashed(password); err != nil {
		return err
	}
	return a.store.PutPerson(ctx, p)
}

// Groups returns all groups; to those who do not keep them, without members.
func (a *Access) Groups(ctx context.Context) ([]store.Group, error) {
	groups, err := a.store.Groups(ctx)
	if !a.has(keepPeople) {
		for i := range groups {
			groups[i].Members = []string{}
		}
	}
	return groups, err
}

var groupID = regexp.MustCompile(`^[a-z][a-z0-9-]{1,39}$`)

// PutGroup keeps a group with its members.
func (a *Access) PutGroup(ctx context.Context, g store.Group) error {
	if err := a.may(keepPeople); err != nil {
		return err
	}
	if !groupID.MatchString(g.ID) || g.ID == "everyone" {
		return refused("id", "%q is not the id of a group; use small letters, digits and hyphens, a letter first", g.ID)
	}
	for _, m := range g.Members {
		if _, err := a.store.Person(ctx, m); err != nil {
			return refused("members", "%q is not an account", m)
		}
	}
	return a.store.PutGroup(ctx, g)
}

// Opening returns to whom a report is open.
func (a *Access) Opening(id string) ([]store.Opening, error) {
	if err := a.may(keepCatalog); err != nil {
		return nil, err
	}
	if _, err := a.Report(id); err != nil {
		return nil, err
	}
	a.mu.RLock()
	defer a.mu.RUnlock()
	return slices.Clone(a.openings[id]), nil
}

// Open says to whom a report is open from now on.
func (a *Access) Open(ctx context.Context, id string, to []store.Opening) error {
	if err := a.may(keepCatalog); err != nil {
		return err
	}
	if _, err := a.Report(id); err != nil {
		return err
	}
	if err := a.knownOpenings(ctx, to); err != nil {
		return err
	}
	if err := a.store.PutOpenings(ctx, id, to); err != nil {
		return err
	}
	openings, err := a.store.Openings(ctx)
	a.mu.Lock()
	defer a.mu.Unlock()
	if err == nil {
		a.openings = openings
	}
	return err
}

func (a *Access) knownOpenings(ctx context.Context, to []store.Opening) error {
	groups, err := a.store.Groups(ctx)
	if err != nil {
		return err
	}
	for _, o := range to {
		switch o.Kind {
		case "everyone":
		case "group":
			if !slices.ContainsFunc(groups, func(g store.Group) bool { return g.ID == o.Name }) {
				return refused("open", "there is no group %q", o.Name)
			}
		case "person":
			if _, err := a.store.Person(ctx, o.Name); err != nil {
				return refused("open", "there is no account %q", o.Name)
			}
		default:
			return refused("open", "%q is neither everyone, group nor person", o.Kind)
		}
	}
	return nil
}
