package drafting

import (
	"maps"
	"slices"

	"mantilla/library/access"
	"mantilla/model"
)

// Names are what a definition may name.
type Names struct {
	Shared     []string            // shared parameters
	Lists      map[string][]string // of each source
	Reports    map[string][]string // the parameters of each report
	Categories []string
	Terms      []string // of the glossary
}

// Names returns what a definition may name now.
func (a *Access) Names() (n Names, err error) {
	if err := a.May(access.Write); err != nil {
		return n, err
	}
	shared := slices.DeleteFunc(slices.Clone(a.catalog.SharedIDs()), func(id string) bool {
		_, gone := a.room.people.Retired(model.KindParameter, id)
		return gone
	})
	n = Names{Shared: shared, Lists: map[string][]string{}, Reports: map[string][]string{}}
	for _, s := range a.room.catalog.AllSources() {
		n.Lists[s.Config.ID] = s.Config.ListNames()
	}
	for _, t := range a.room.meaning.Terms() {
		n.Terms = append(n.Terms, t.ID)
	}
	categories := map[string]bool{}
	for id, d := range a.room.catalog.Present() {
		n.Reports[id] = parameterIDs(d)
		categories[d.Category] = true
	}
	n.Categories = slices.Sorted(maps.Keys(categories))
	return n, nil
}
