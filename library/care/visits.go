package care

import (
	"context"
	"slices"

	"mantilla/library/access"
	"mantilla/model"
	"mantilla/store/care"
)

const (
	mostVisited = 8  // reports that are told to be recent, or popular
	popularFor  = 90 // days that count
	usedMonths  = 24
)

// Visited counts what the person did with a report. What cannot be counted is logged: nobody
// is kept from reading because of it.
func (a *Access) Visited(ctx context.Context, report, what string) {
	if model.IsDraft(report) || a.Person().Name == access.ServiceName {
		return
	}
	err := a.room.records.Visit(context.WithoutCancel(ctx), a.Person().Name, report, what, a.room.org.Now())
	if err != nil {
		a.room.log.Warn("counting a visit", "report", report, "error", err)
	}
}

// Recent are the open reports that the person had to do with last, the latest first.
func (a *Access) Recent(ctx context.Context) ([]string, error) {
	ids, err := a.room.records.Recent(ctx, a.Person().Name, 2*mostVisited)
	return a.present(ids), err
}

// Popular are the open reports that the people of the person's groups use most; of all people
// where the person is in no group.
func (a *Access) Popular(ctx context.Context) ([]string, error) {
	groups, err := a.room.people.AllGroups(ctx)
	if err != nil {
		return nil, err
	}
	var people []string
	for _, g := range groups {
		if slices.Contains(a.Person().Groups, g.ID) {
			people = append(people, g.Members...)
		}
	}
	if len(people) == 0 {
		accounts, err := a.room.people.Accounts(ctx)
		if err != nil {
			return nil, err
		}
		for name := range accounts {
			people = append(people, name)
		}
	}
	ids, err := a.room.records.Popular(ctx, people, a.room.org.Now().AddDate(0, 0, -popularFor), 2*mostVisited)
	return a.present(ids), err
}

// present are those of some reports that are open to the person.
func (a *Access) present(ids []string) []string {
	out := []string{}
	present := a.room.catalog.Present()
	for _, id := range ids {
		if _, gone := a.room.catalog.Retired(id); present[id] != nil && !gone && a.Opens(id) && len(out) < mostVisited {
			out = append(out, id)
		}
	}
	return out
}

// Used is how often a report was opened, read and taken away, by month, the newest first.
func (a *Access) Used(ctx context.Context, report string) ([]care.Used, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	if _, err := a.catalog.Report(report); err != nil {
		return nil, err
	}
	return a.room.records.Used(ctx, report, usedMonths)
}
