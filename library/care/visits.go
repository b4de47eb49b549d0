package care

import (
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"mantilla/library/access"
	"mantilla/model"
	"mantilla/store/care"
)

const (
	mostVisited = 8  // reports that are told to be recent, or popular
	popularFor  = 90 // days that count
	usedMonths  = 24
	popularTill = 5 * time.Minute // it is counted again
)

// counted is what some people use most, until it is counted again.
type counted struct {
	ids  []string
	till time.Time
}

// Visited counts what the person did with a report. What cannot be counted is logged: nobody
// is kept from reading because of it.
func (a *Access) Visited(ctx context.Context, report, what string) {
	if model.IsDraft(report) || a.Person().Name == access.ServiceName {
		return
	}
	err := a.room.records.Visit(context.WithoutCancel(ctx), a.Person().Name, report, what, a.room.org.Now())
	if err != nil {
		a.room.log.WarnContext(ctx, "counting a visit", "report", report, "error", err)
	}
}

// Recent are the open reports that the person had to do with last, the latest first.
func (a *Access) Recent(ctx context.Context) ([]string, error) {
	ids, err := a.room.records.Recent(ctx, a.Person().Name, 2*mostVisited)
	return a.present(ids), err
}

// Popular are the open reports that the people of the person's groups use most; of all people
// where the person is in no group. They are counted at most every few minutes.
func (a *Access) Popular(ctx context.Context) ([]string, error) {
	key, now := strings.Join(a.Person().Groups, " "), a.room.org.Now()
	a.room.mu.RLock()
	known, ok := a.room.popular[key]
	a.room.mu.RUnlock()
	if ok && now.Before(known.till) {
		return a.present(known.ids), nil
	}
	people, err := a.room.peopleIn(ctx, a.Person().Groups)
	if err != nil {
		return nil, err
	}
	ids, err := a.room.records.Popular(ctx, people, now.AddDate(0, 0, -popularFor), 2*mostVisited)
	if err != nil {
		return nil, err
	}
	a.room.mu.Lock()
	defer a.room.mu.Unlock()
	if len(a.room.popular) >= mostCounted {
		clear(a.room.popular)
	}
	a.room.popular[key] = counted{ids, now.Add(popularTill)}
	return a.present(ids), nil
}

// peopleIn are the people of some groups, or all where there are none.
func (room *Room) peopleIn(ctx context.Context, groups []string) (people []string, err error) {
	if len(groups) == 0 {
		accounts, err := room.people.Accounts(ctx)
		return slices.Collect(maps.Keys(accounts)), err
	}
	all, err := room.people.AllGroups(ctx)
	for _, g := range all {
		if slices.Contains(groups, g.ID) {
			people = append(people, g.Members...)
		}
	}
	return people, err
}

// mostCounted bounds for how many sets of groups it is remembered.
const mostCounted = 1000

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
