package access

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/trustelem/zxcvbn"

	"golang.org/x/crypto/bcrypt"

	"mantilla/core/nearest"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/library/acting"
	"mantilla/model"
)

// FirstAdministrator makes an account when there is none at all, and returns
// its name and password; both are empty when there are accounts.
func (room *Room) FirstAdministrator(ctx context.Context) (name, password string, err error) {
	people, err := room.records.People(ctx)
	if err != nil || len(people) > 0 {
		return "", "", err
	}
	name, password = "administrator", model.NewSecret()[:16]
	return name, password,
		room.AsService().PutPerson(ctx, model.Person{Name: name, Title: "Administrator", Role: model.Administrator}, password)
}

// People returns all accounts.
func (a *Access) People(ctx context.Context) ([]model.Person, error) {
	if err := a.May(KeepPeople); err != nil {
		return nil, err
	}
	return a.room.records.People(ctx)
}

var accountName = regexp.MustCompile(`^[a-z][a-z0-9._-]{1,39}$`)

// PutPerson keeps an account; an empty password leaves the one there is, and so do single rights that are
// nil and an owner that is not named.
func (a *Access) PutPerson(ctx context.Context, p model.Person, password string) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	before, err := a.room.records.Person(ctx, p.Name)
	if err != nil && !errors.Is(err, model.ErrNotFound) {
		return err
	}
	p.Given, p.Withheld = orElse(p.Given, before.Given), orElse(p.Withheld, before.Withheld)
	if p.Owner == "" {
		p.Owner = before.Owner
	}
	_, known := ranks[p.Role]
	switch {
	case !accountName.MatchString(p.Name):
		return model.Refuse("name", "%q is not a name to sign in with; use small letters, digits, points and hyphens, a "+
			"letter first", p.Name)
	case p.Name == ServiceName:
		return model.Refuse("name", "%q is the service's own name; choose another", p.Name)
	case p.Title == "":
		return model.Refuse("title", "the person's name is missing")
	case !known:
		return model.Refuse("role", "%q is not a role; use reader, runner, author, librarian or administrator", p.Role)
	case len(p.Units) > 0 && ranks[p.Role] >= ranks[model.Author]:
		return model.Refuse("units", "a person who writes definitions cannot be limited to units, since a definition says "+
			"what is cut")
	case p.Owner != "" && password != "":
		return model.Refuse("password", "a service account has no password; it signs in by tokens, which its owner makes")
	case p.Revision == 0 && password == "" && p.Owner == "" && !a.room.trust.Asked:
		return model.Refuse("password", "a new account needs a password")
	case p.Name == a.person.Name && (p.Closed || p.Role != model.Administrator):
		return model.Refuse("role", "you cannot take your own administrator's role away; let another administrator do it")
	}
	if err := a.KnownUnits(ctx, p.Units); err != nil {
		return err
	}
	if password != "" {
		hash, err := hashed(password, p.Name, p.Title, a.room.org.Name)
		if err != nil {
			return err
		}
		p.Password = hash
	}
	if err := a.checkOwner(ctx, before, p); err != nil {
		return err
	}
	if err := checkSingle(p); err != nil {
		return err
	}
	if err := a.room.records.PutPerson(ctx, p); err != nil {
		return fmt.Errorf("the account %s: %w", p.Name, err)
	}
	acting.Changes(ctx, noted(before), noted(p)+newPassword(password))
	if password != "" && before.Name != "" {
		a.room.tell(ctx, p.Name, "An administrator gave you a new password.")
	}
	a.room.log.InfoContext(ctx, "account kept", "name", p.Name, "role", p.Role, "by", a.person.Name)
	return nil
}

// noted is what the audit has of an account.
func noted(p model.Person) string {
	if p.Name == "" {
		return ""
	}
	text := p.Title + ", " + string(p.Role)
	if p.Owner != "" {
		text += ", a service account that " + p.Owner + " answers for"
	}
	if len(p.Units) > 0 {
		text += ", limited to " + strings.Join(p.Units, ", ")
	}
	if len(p.Given) > 0 {
		text += ", given " + strings.Join(p.Given, ", ")
	}
	if len(p.Withheld) > 0 {
		text += ", without " + strings.Join(p.Withheld, ", ")
	}
	if p.Closed {
		text += ", closed"
	}
	return text
}

func newPassword(password string) string {
	if password == "" {
		return ""
	}
	return ", with a new password"
}

func hashed(password string, of ...string) (string, error) {
	if len(password) < leastPassword || len(password) > longestForHash {
		return "", model.Refuse("password", "a password has %d to %d characters", leastPassword, longestForHash)
	}
	if zxcvbn.PasswordStrength(password, of).Score < leastScore {
		return "", model.Refuse("password", "this password is too easy to guess: it is, or is like, one of those that are "+
			"tried first; use several words, or one that a program made up")
	}
	hash, err := bcrypt.GenerateFromPassword([]byte(password), bcrypt.DefaultCost)
	return string(hash), err
}

// KnownUnits checks that some source has each of the units.
func (a *Access) KnownUnits(ctx context.Context, units []string) error {
	if len(units) == 0 {
		return nil
	}
	known, err := a.room.catalog.UnitCodes(ctx)
	if err != nil {
		return err
	}
	seen := false
	for i, b := range report.BoundsOf(units) {
		kinds, is := known[b.Unit]
		switch {
		case !is:
			return model.Refuse("units", "%q is not the code of a unit", b.Unit)
		case b.Kind != "" && !slices.Contains(kinds, b.Kind):
			return model.Refuse("units", "%s: below %s there is no unit of the kind %q; there are %s", units[i], b.Unit, b.Kind,
				nearest.And(kinds))
		}
		seen = seen || !b.Except
	}
	if !seen {
		return model.Refuse("units", "there are exceptions alone; name the units that they are excepted from")
	}
	return nil
}

// ChangePassword gives the person a new password, against the old one, and
// signs them out everywhere.
func (a *Access) ChangePassword(ctx context.Context, old, password string) error {
	if err := a.whole("changing the password"); err != nil {
		return err
	}
	p, err := a.room.records.Person(ctx, a.person.Name)
	if err != nil {
		return err
	}
	if bcrypt.CompareHashAndPassword([]byte(p.Password), []byte(old)) != nil {
		return model.Refuse("old", "the present password is not right")
	}
	if p.Password, err = hashed(password, p.Name, p.Title, a.room.org.Name); err != nil {
		return err
	}
	if err := a.room.records.PutPerson(ctx, p); err != nil {
		return err
	}
	a.room.tell(ctx, p.Name, "Your password was changed.")
	return nil
}

// Zone is the zone in which moments are said to the person: their own, else the
// organisation's. What is computed, as the day of a row, stays in the organisation's.
func (a *Access) Zone() *time.Location {
	if a.person.Zone != "" {
		if zone, err := time.LoadLocation(a.person.Zone); err == nil {
			return zone
		}
	}
	return a.room.org.Zone
}

// Form is how figures and days are written for the person: as they chose, else numbers
// as where they sit.
func (a *Access) Form() shown.Form {
	ways := a.person.Ways
	return shown.Form{Zone: a.Zone(), Numbers: cmp.Or(ways.Numbers, a.here, shown.NumberForms[0]),
		Days: cmp.Or(ways.Days, shown.DayForms[0])}
}

// Sits says how numbers are written where the person sits, as their browser has it.
func (a *Access) Sits(numbers string) { a.here = numbers }

// SetZone sets the person's own zone; "" for the organisation's.
func (a *Access) SetZone(ctx context.Context, zone string) error {
	if zone != "" {
		if _, err := time.LoadLocation(zone); err != nil || zone == "Local" {
			return model.Refuse("zone", "%q is not an IANA time zone such as Europe/Lisbon", zone)
		}
	}
	acting.Changes(ctx, a.person.Zone, zone)
	return a.room.records.SetZone(ctx, a.person.Name, zone)
}

// SetWays keeps how the person likes the console.
func (a *Access) SetWays(ctx context.Context, w model.Ways) error {
	for name, chosen := range map[string]string{"opens": w.Opens, "density": w.Density, "scheme": w.Scheme,
		"week": w.Week, "numbers": w.Numbers, "days": w.Days} {
		if may := model.WaysToChoose[name]; chosen != "" && !slices.Contains(may, chosen) {
			return model.Refuse(name, "%q is none of %s", chosen, strings.Join(may, ", "))
		}
	}
	return a.room.records.SetWays(ctx, a.person.Name, w)
}

// members is what the audit has of a group.
func members(groups []model.Group, id string) string {
	for _, g := range groups {
		if g.ID == id {
			return g.Title + ": " + strings.Join(g.Members, ", ")
		}
	}
	return ""
}

// Groups returns all groups; to those who do not keep them, without members.
func (a *Access) Groups(ctx context.Context) ([]model.Group, error) {
	groups, err := a.room.records.Groups(ctx)
	if !a.Has(KeepPeople) {
		for i := range groups {
			groups[i].Members = []string{}
		}
	}
	return groups, err
}

// AllGroups are the groups with their members, for rooms that count by them.
func (room *Room) AllGroups(ctx context.Context) ([]model.Group, error) {
	return room.records.Groups(ctx)
}

var groupID = regexp.MustCompile(`^[a-z][a-z0-9-]{1,39}$`)

func isGroupID(part, id string) error {
	if !groupID.MatchString(id) || id == "everyone" {
		return model.Refuse(part, "%q is not the id of a group; use small letters, digits and hyphens, a letter first", id)
	}
	return nil
}

// PutGroup keeps a group with its members.
func (a *Access) PutGroup(ctx context.Context, g model.Group) error {
	if err := a.May(KeepPeople); err != nil {
		return err
	}
	if err := isGroupID("id", g.ID); err != nil {
		return err
	}
	for _, m := range g.Members {
		if _, err := a.room.records.Person(ctx, m); err != nil {
			return model.Refuse("members", "%q is not an account", m)
		}
	}
	before, err := a.room.records.Groups(ctx)
	if err != nil {
		return err
	}
	acting.Changes(ctx, members(before, g.ID), g.Title+": "+strings.Join(g.Members, ", "))
	return a.room.records.PutGroup(ctx, g)
}
