package catalog

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/report"
	"mantilla/model"
)

// Entry is a report as the catalog lists it.
type Entry struct {
	*report.Definition
	Used   *model.Use // its last good run, nil when there was none
	Broken string     // why its text cannot be read; "" where it can
	Marked bool       // it is a favourite of the person's
	Found  string     // where a search found it, beside its title and purpose; "" for there
	Closed bool       // it is not open to the person, who may ask for it
}

// Present returns the reports at their present versions.
func (room *Room) Present() map[string]*report.Definition {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return maps.Clone(room.catalog)
}

// listed returns what the catalog lists: the reports at their present versions, and
// those whose text cannot be read by their titles alone.
func (room *Room) listed() map[string]*report.Definition {
	all := room.Present()
	room.mu.RLock()
	defer room.mu.RUnlock()
	for id, r := range room.unread {
		all[id] = &report.Definition{ID: id, Title: r.Title, Category: r.Category, Version: r.Version}
	}
	return all
}

// Category is a category of the catalog with how many reports stand in it.
type Category struct {
	Name  string
	Count int
}

// Catalog lists the reports open to the person that meet a search, in a category when one is
// named, and counts those that meet the search in each category. A search
// forgives typing: every word of it must be near a word of the report. Without
// one, reports stand by category and title; with one, the best come first. Columns,
// parameters and their values are found too, which is told.
func (a *Access) Catalog(ctx context.Context, search, category string) (entries []Entry, categories []Category,
	err error) {
	marked, err := a.Favourites(ctx)
	if err != nil {
		return nil, nil, fmt.Errorf("reading the catalog: %w", err)
	}
	counts, scores := map[string]int{}, map[string]int{}
	x := a.room.searched()
	for id, d := range x.reports {
		if _, known := counts[d.Category]; !known && (a.Opens(id) || a.room.lists(id)) {
			counts[d.Category] = 0
		}
	}
	for _, hit := range a.found(ctx, x, search) {
		id := x.ids[hit.Doc]
		d := x.reports[id]
		closed := !a.Opens(id)
		if closed && (!a.room.lists(id) || hit.Says != "") {
			continue // what its columns are is not told
		}
		counts[d.Category]++
		if category != "" && fold.Text(category) != fold.Text(d.Category) {
			continue
		}
		e := Entry{Definition: d, Found: hit.Says, Marked: marked[id], Closed: closed}
		if why := a.room.whyUnread(id); why != nil {
			e.Broken = why.Error()
		}
		entries, scores[id] = append(entries, e), hit.Score
	}
	if err := a.used(ctx, entries); err != nil {
		return nil, nil, fmt.Errorf("reading the catalog: %w", err)
	}
	slices.SortFunc(entries, func(a, b Entry) int {
		return cmp.Or(cmp.Compare(scores[a.ID], scores[b.ID]), strings.Compare(a.Category, b.Category),
			depths[a.Depth]-depths[b.Depth], strings.Compare(a.Title, b.Title))
	})
	for name, n := range counts {
		categories = append(categories, Category{name, n})
	}
	slices.SortFunc(categories, func(a, b Category) int { return strings.Compare(a.Name, b.Name) })
	return entries, categories, nil
}

// used tells of entries when they were last run.
func (a *Access) used(ctx context.Context, entries []Entry) error {
	ids := make([]string, len(entries))
	for i := range entries {
		if !entries[i].Closed {
			ids[i] = entries[i].ID
		}
	}
	uses, err := a.room.records.Uses(ctx, ids)
	for i := range entries {
		if u, ok := uses[ids[i]]; ok {
			if a.Limited() {
				u.Rows = -1 // counted over units that may be foreign to the person
			}
			entries[i].Used = &u
		}
	}
	return err
}

var depths = map[string]int{"overview": 0, "breakdown": 1, "lines": 2}
