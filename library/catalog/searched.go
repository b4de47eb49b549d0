package catalog

import (
	"strings"

	"mantilla/core/report"
	"mantilla/core/search"
)

// index is the catalog as it is searched.
type index struct {
	*search.Index

	ids     []string // by the places of documents
	reports map[string]*report.Definition
}

// searched returns the index of the catalog as it is, which is made anew after a change.
func (room *Room) searched() *index {
	room.mu.RLock()
	x, changes := room.index, room.changes
	room.mu.RUnlock()
	if x != nil {
		return x
	}
	x = &index{reports: room.listed()}
	var docs [][]search.Field
	for id, d := range x.reports {
		if _, gone := room.Retired(id); gone {
			delete(x.reports, id)
			continue
		}
		x.ids = append(x.ids, id)
		doc := fields(d)
		for _, k := range room.beside {
			doc = append(doc, k.Found(d)...)
		}
		docs = append(docs, doc)
	}
	x.Index = search.New(docs)
	room.mu.Lock()
	defer room.mu.Unlock()
	if changes == room.changes {
		room.index = x
	}
	return x
}

// fields are what a report is found by.
func fields(d *report.Definition) []search.Field {
	out := []search.Field{{Text: d.Title + " " + strings.ReplaceAll(d.ID, "-", " ")},
		{Text: d.Category + " " + d.Depth + " " + d.About, Weight: 2}}
	for _, p := range d.Parameters {
		out = append(out, search.Field{Text: p.Label, Weight: 3, Exact: true, Says: "it asks for " + p.Label})
		for _, o := range p.Options {
			out = append(out, search.Field{Text: o.Label, Weight: 3, Exact: true,
				Says: "it asks for " + p.Label + ", of which " + o.Label + " is one"})
		}
	}
	for i := range d.Datasets {
		for _, c := range d.Datasets[i].Columns {
			out = append(out, search.Field{Text: c.Label, Weight: 3, Exact: true, Says: "it has the column " + c.Label})
		}
	}
	return out
}
