package library

import (
	"context"
	"fmt"
	"slices"
	"time"

	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/model"
	"mantilla/source/lookup"
)

// Access is the library as one person may use it.
type Access struct {
	*Library
	person model.Person
	moment time.Time // that was due, for runs of the timetable: what today means for them
	parted bool      // the units are those of a part of a run control, not the person's own
}

// As returns the library as a person may use it.
func (l *Library) As(p model.Person) *Access { return &Access{Library: l, person: p} }

// AsPerson returns the library as the person with that account.
func (l *Library) AsPerson(ctx context.Context, name string) (*Access, error) {
	p, err := l.store.Person(ctx, name)
	if err != nil {
		return nil, fmt.Errorf("the account %s: %w", name, err)
	}
	return l.As(p), nil
}

// AsService returns the library as the service itself uses it, to load the
// demo or to answer on its own behalf.
func (l *Library) AsService() *Access {
	return l.As(model.Person{Name: "service", Title: "The service", Role: model.Administrator})
}

// Calendar is today's, or that of the moment that was due.
func (a *Access) Calendar() period.Calendar {
	if a.moment.IsZero() {
		return a.Library.Calendar()
	}
	return period.At(a.moment, a.settings.Zone, a.settings.FiscalStart)
}

// Person returns who this is.
func (a *Access) Person() model.Person { return a.person }

// right is something that a role is needed for.
type right struct {
	what string
	need model.Role
}

// The rights. Opening what is open to a person needs no more than an account.
var (
	run         = right{"running reports", model.Runner}
	write       = right{"writing definitions", model.Author}
	keepCatalog = right{"keeping the catalog", model.Librarian}
	keepPeople  = right{"keeping people and groups", model.Administrator}
)

var ranks = map[model.Role]int{model.Reader: 0, model.Runner: 1, model.Author: 2, model.Librarian: 3, model.Administrator: 4}

func (a *Access) has(r right) bool { return ranks[a.person.Role] >= ranks[r.need] }

func (a *Access) may(r right) error {
	if a.has(r) {
		return nil
	}
	return model.Forbid("%s needs the role %s; yours is %s", r.what, r.need, a.person.Role)
}

// Rights names what the person may do beyond opening what is open to them.
func (a *Access) Rights() []string {
	rights := []string{}
	for name, r := range map[string]right{"run": run, "write": write, "catalog": keepCatalog, "people": keepPeople} {
		if a.has(r) {
			rights = append(rights, name)
		}
	}
	slices.Sort(rights)
	return rights
}

// mayChange tells whether a person may change what somebody owns: the owner
// may, and so may librarians.
func (a *Access) mayChange(what, owner string) error {
	if owner == a.person.Name || a.has(keepCatalog) {
		return nil
	}
	return model.Forbid("%s belongs to %s; keep a copy of your own under another name", what, owner)
}

// opens tells whether a report is open to the person. Who writes definitions
// sees them all.
func (a *Access) opens(id string) bool {
	if a.has(write) {
		return true
	}
	a.mu.RLock()
	defer a.mu.RUnlock()
	return slices.ContainsFunc(a.openings[id], func(o model.Opening) bool {
		return o.Kind == "everyone" || o.Kind == "person" && o.Name == a.person.Name || o.Kind == "group" && slices.Contains(a.person.Groups, o.Name)
	})
}

// Limited tells whether the person sees the rows of some units only.
func (a *Access) Limited() bool { return len(a.person.Units) > 0 }

// reach is how far the person sees in a source: everything, or their units
// with all below.
func (a *Access) reach(ctx context.Context, s opened) (report.Reach, error) {
	if !a.Limited() {
		return report.Reach{}, nil
	}
	return s.book.Reach(ctx, a.person.Units)
}

// lists are the lists of a source as the person sees them.
func (a *Access) lists(ctx context.Context, s opened) (*lookup.Lists, error) {
	reach, err := a.reach(ctx, s)
	return s.book.For(reach), err
}

// sight says whose runs and results the person sees.
func (a *Access) sight(ctx context.Context) (model.Sight, error) {
	v := model.Sight{Person: a.person.Name, All: a.has(write) && !a.Limited()}
	if v.All {
		return v, nil
	}
	for id := range a.listed() { // results of reports that can no longer be read stay
		if a.opens(id) {
			v.Reports = append(v.Reports, id)
		}
	}
	v.Reach.Limited = a.Limited()
	for _, s := range a.allSources() {
		reach, err := a.reach(ctx, s)
		if err != nil {
			return v, err
		}
		v.Reach.Units = append(v.Reach.Units, reach.Units...)
	}
	return v, nil
}

// sees tells whether the person sees a run or result of a report whose rows
// were cut to a reach.
func (a *Access) sees(ctx context.Context, report string, rows report.Reach) (bool, error) {
	v, err := a.sight(ctx)
	switch {
	case err != nil || v.All:
		return err == nil, err
	case !slices.Contains(v.Reports, report):
		return false, nil
	case !v.Reach.Limited:
		return true, nil
	}
	beyond := func(unit string) bool { return !slices.Contains(v.Reach.Units, unit) }
	return rows.Limited && !slices.ContainsFunc(rows.Units, beyond), nil
}
