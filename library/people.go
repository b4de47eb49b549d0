package library

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"time"

	"mantilla/model"

	passwordvalidator "github.com/wagslane/go-password-validator"
	"golang.org/x/crypto/bcrypt"
)

// How signing in is guarded.
const (
	browserLasts   = 12 * time.Hour
	tokenLasts     = 90 * 24 * time.Hour
	leastPassword  = 10
	longestForHash = 72 // bytes that bcrypt looks at
	leastEntropy   = 50 // bits that a password takes to guess
)

// What can be wrong when somebody signs in.
var (
	ErrNotSignedIn = errors.New("sign in first")
	ErrSignIn      = errors.New("the name or the password is not right")
)

// nobody is compared with when there is no such account, so that the answer
// takes as long.
var nobody, _ = bcrypt.GenerateFromPassword([]byte("nobody"), bcrypt.DefaultCost)

// Knock says who tries to sign in, with what, and from where.
type Knock struct {
	Name, Password string
	Kind           string // browser, or token for a command line
	Label          string // of a token
	Address        string // of the machine that asks
}

// Waits says that somebody has to wait before signing in is tried again.
type Waits struct{ For time.Duration }

func (w *Waits) Error() string {
	return fmt.Sprintf("signing in failed too often; try again in %s", w.For.Round(time.Second)+time.Second)
}

// SignIn checks a password and returns a secret that stands for the person
// from then on: for a browser, or for a token that a command line keeps. After
// some failures it fails with [*Waits]; see [doors]. Whether there is an account
// of the name is not told, neither by the answer nor by the time it takes.
func (l *Library) SignIn(ctx context.Context, k Knock) (secret string, p model.Person, ends time.Time, err error) {
	now := l.settings.Now()
	if wait := l.doors.wait(k.Name, k.Address, now); wait > 0 {
		return "", p, ends, &Waits{wait}
	}
	if accountName.MatchString(k.Name) {
		p, err = l.store.Person(ctx, k.Name)
	} else {
		err = model.ErrNotFound
	}
	if err != nil && !errors.Is(err, model.ErrNotFound) {
		return "", p, ends, err
	}
	known := err == nil && !p.Closed
	hash := nobody
	if known {
		hash = []byte(p.Password)
	}
	password := k.Password
	if len(password) > longestForHash {
		known, password = false, password[:longestForHash] // no account has such
	}
	good := bcrypt.CompareHashAndPassword(hash, []byte(password)) == nil && known
	l.doors.tried(k.Name, k.Address, good, now)
	if !good {
		l.log.Warn("signing in failed", "name", fmt.Sprintf("%.40q", k.Name), "from", k.Address)
		return "", model.Person{}, ends, ErrSignIn
	}
	lasts := browserLasts
	if k.Kind == "token" {
		lasts = tokenLasts
	}
	secret, ends = random(), now.Add(lasts)
	err = l.store.AddSession(ctx, model.Session{Digest: digest(secret), Person: p.Name, Kind: k.Kind, Label: k.Label, MadeAt: now, EndsAt: ends})
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
	if errors.Is(err, model.ErrNotFound) {
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
	return name, password, l.AsService().PutPerson(ctx, model.Person{Name: name, Title: "Administrator", Role: model.Administrator}, password)
}

// People returns all accounts.
func (a *Access) People(ctx context.Context) ([]model.Person, error) {
	if err := a.may(keepPeople); err != nil {
		return nil, err
	}
	return a.store.People(ctx)
}

var accountName = regexp.MustCompile(`^[a-z][a-z0-9._-]{1,39}$`)

// PutPerson keeps an account; an empty password leaves the one there is.
func (a *Access) PutPerson(ctx context.Context, p model.Person, password string) error {
	if err := a.may(keepPeople); err != nil {
		return err
	}
	_, known := ranks[p.Role]
	switch {
	case !accountName.MatchString(p.Name):
		return model.Refuse("name", "%q is not a name to sign in with; use small letters, digits, points and hyphens, a letter first", p.Name)
	case p.Title == "":
		return model.Refuse("title", "the person's name is missing")
	case !known:
		return model.Refuse("role", "%q is not a role; use reader, runner, author, librarian or administrator", p.Role)
	case len(p.Units) > 0 && ranks[p.Role] >= ranks[model.Author]:
		return model.Refuse("units", "a person who writes definitions cannot be limited to units, since a definition says what is cut")
	case p.Revision == 0 && password == "":
		return model.Refuse("password", "a new account needs a password")
	case p.Name == a.person.Name && (p.Closed || p.Role != model.Administrator):
		return model.Refuse("role", "you cannot take your own administrator's role away; let another administrator do it")
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
		return "", model.Refuse("password", "a password has %d to %d characters", leastPassword, longestForHash)
	}
	if err := passwordvalidator.Validate(password, leastEntropy); err != nil {
		return "", model.Refuse("password", "this password is too easy to guess: use more different letters, digits and signs, or several words")
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
			return model.Refuse("units", "%q is not the code of a unit", u)
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
		return model.Refuse("old", "the present password is not right")
	}
	if p.Password, err = hashed(password); err != nil {
		return err
	}
	return a.store.PutPerson(ctx, p)
}

// Zone is the zone in which moments are said to the person: their own, else the
// organisation's. What is computed, as the day of a row, stays in the organisation's.
func (a *Access) Zone() *time.Location {
	if a.person.Zone != "" {
		if zone, err := time.LoadLocation(a.person.Zone); err == nil {
			return zone
		}
	}
	return a.settings.Zone
}

// SetZone sets the person's own zone; "" for the organisation's.
func (a *Access) SetZone(ctx context.Context, zone string) error {
	if zone != "" {
		if _, err := time.LoadLocation(zone); err != nil || zone == "Local" {
			return model.Refuse("zone", "%q is not an IANA time zone such as Europe/Lisbon", zone)
		}
	}
	return a.store.SetZone(ctx, a.person.Name, zone)
}

// Groups returns all groups; to those who do not keep them, without members.
func (a *Access) Groups(ctx context.Context) ([]model.Group, error) {
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
func (a *Access) PutGroup(ctx context.Context, g model.Group) error {
	if err := a.may(keepPeople); err != nil {
		return err
	}
	if !groupID.MatchString(g.ID) || g.ID == "everyone" {
		return model.Refuse("id", "%q is not the id of a group; use small letters, digits and hyphens, a letter first", g.ID)
	}
	for _, m := range g.Members {
		if _, err := a.store.Person(ctx, m); err != nil {
			return model.Refuse("members", "%q is not an account", m)
		}
	}
	return a.store.PutGroup(ctx, g)
}

// Opening returns to whom a report is open.
func (a *Access) Opening(id string) ([]model.Opening, error) {
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
func (a *Access) Open(ctx context.Context, id string, to []model.Opening) error {
	if err := a.may(keepCatalog); err != nil {
		return err
	}
	if _, err := a.Report(id); err != nil {
		return err
	}
	if err := a.knownOpenings(ctx, to); err != nil {
		return err
	}
	a.office.Lock()
	defer a.office.Unlock()
	if err := a.store.PutOpenings(ctx, id, to); err != nil {
		return err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	openings := maps.Clone(a.openings)
	openings[id] = slices.Clone(to)
	a.openings = openings
	return nil
}

func (a *Access) knownOpenings(ctx context.Context, to []model.Opening) error {
	groups, err := a.store.Groups(ctx)
	if err != nil {
		return err
	}
	for _, o := range to {
		switch o.Kind {
		case "everyone":
		case "group":
			if !slices.ContainsFunc(groups, func(g model.Group) bool { return g.ID == o.Name }) {
				return model.Refuse("open", "there is no group %q", o.Name)
			}
		case "person":
			if _, err := a.store.Person(ctx, o.Name); err != nil {
				return model.Refuse("open", "there is no account %q", o.Name)
			}
		default:
			return model.Refuse("open", "%q is neither everyone, group nor person", o.Kind)
		}
	}
	return nil
}
