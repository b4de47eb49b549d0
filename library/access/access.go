package access

import (
	"context"
	"slices"
	"time"

	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/model"
)

// Access is what one person may do. Every room of the library is used with one.
type Access struct {
	room    *Room
	person  model.Person
	moment  time.Time     // that was due, for runs of the timetable: what today means for them
	within  [][]string    // what the units are cut to besides, each as a person's units are written
	parted  bool          // the units are those of a part of a run control, not the person's own
	eyes    *model.Person // whose rights tell what personal columns show; nil for their own
	wants   bool          // a second factor, before they do more than read
	present bool          // it is somebody who signed in, not the service on their behalf
	here    string        // how numbers are written where they sit, as their browser has it
	less    bool          // by a token that may do less than who signed in
}

// Calendar is today's, or that of the moment that was due.
func (a *Access) Calendar() period.Calendar {
	if a.moment.IsZero() {
		return a.room.org.Calendar()
	}
	return period.At(a.moment, a.room.org.Zone, a.room.org.FiscalStart)
}

// Person returns who this is.
func (a *Access) Person() model.Person { return a.person }

// At is the person at a moment that was due, which is now for what they run.
func (a *Access) At(due time.Time) *Access {
	then := *a
	then.moment = due
	return &then
}

// Due is the moment that was due; zero for what somebody asks for now.
func (a *Access) Due() time.Time { return a.moment }

// LimitedTo is the person with less in sight, as for a part of a run control.
func (a *Access) LimitedTo(units []string) *Access {
	less := *a
	if a.Limited() {
		less.within = append(slices.Clone(a.within), a.person.Units)
	}
	less.person.Units, less.parted = units, true
	return &less
}

// Parted tells that the units are those of a part of a run control.
func (a *Access) Parted() bool { return a.parted }

// MayBring says why the person may not bring files for a table: who keeps the catalog may, and
// members of the groups that the table names.
func (a *Access) MayBring(groups []string) error {
	if slices.ContainsFunc(groups, func(g string) bool { return slices.Contains(a.person.Groups, g) }) {
		return nil
	}
	return a.May(KeepCatalog)
}

// MayChange tells whether a person may change what somebody owns: the owner
// may, and so may librarians.
func (a *Access) MayChange(what, owner string) error {
	if owner == a.person.Name || a.Has(KeepCatalog) {
		return nil
	}
	return model.Forbid("%s belongs to %s; keep a copy of your own under another name", what, owner)
}

// Opens tells whether a report is open to the person. Who writes definitions
// sees them all.
func (a *Access) Opens(id string) bool {
	if a.Has(KeepCatalog) || a.Has(Write) && !model.IsDraft(id) {
		return true
	}
	a.room.mu.RLock()
	defer a.room.mu.RUnlock()
	return slices.ContainsFunc(a.room.openings[id], func(o model.Opening) bool {
		return o.Kind == "everyone" || o.Kind == "person" && o.Name == a.person.Name || o.Kind == "group" &&
			slices.Contains(a.person.Groups, o.Name)
	})
}

// Limited tells whether the person sees the rows of some units only.
func (a *Access) Limited() bool { return len(a.person.Units) > 0 }

// PlainUnits are the units that the person is limited to, without their kinds and exceptions.
func (a *Access) PlainUnits() []string {
	units, _ := report.Plain(a.person.Units)
	return units
}

// Units are those of a source, as a tree.
type Units interface {
	// Reach has the units of some codes with all that lie below them.
	Reach(ctx context.Context, units []string) (report.Reach, error)
}

// Reach is how far the person sees in a source: everything, or their units
// with all below.
func (a *Access) Reach(ctx context.Context, of Units) (report.Reach, error) {
	if !a.Limited() {
		return report.Reach{}, nil
	}
	reach, err := of.Reach(ctx, a.person.Units)
	for _, units := range a.within {
		if err != nil {
			break
		}
		var outer report.Reach
		outer, err = of.Reach(ctx, units)
		reach.Units = slices.DeleteFunc(reach.Units, func(u string) bool { return !slices.Contains(outer.Units, u) })
	}
	return reach, err
}

// Sight says whose runs and results the person sees.
func (a *Access) Sight(ctx context.Context) (model.Sight, error) {
	v := model.Sight{Person: a.person.Name, All: a.Has(Write) && !a.Limited()}
	if v.All {
		return v, nil
	}
	for _, id := range a.room.catalog.ReportIDs() { // results of reports that can no longer be read stay
		if a.Opens(id) {
			v.Reports = append(v.Reports, id)
		}
	}
	v.Reach.Limited = a.Limited()
	for _, units := range a.room.catalog.Units() {
		reach, err := a.Reach(ctx, units)
		if err != nil {
			return v, err
		}
		v.Reach.Units = append(v.Reach.Units, reach.Units...)
	}
	return v, nil
}

// Sees tells whether the person sees a run or result of a report whose rows
// were cut to a reach.
func (a *Access) Sees(ctx context.Context, report string, rows report.Reach) (bool, error) {
	v, err := a.Sight(ctx)
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
