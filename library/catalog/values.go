package catalog

import (
	"context"
	"strings"

	"mantilla/core/report"
	"mantilla/core/search"
)

// valued is a list with an entry that was sought.
type valued struct{ source, list, label string }

// holding are the lists that have an entry of a name or code, cut to what the person sees.
// Lists that cannot be read now hold nothing: a search goes on without them.
func (a *Access) holding(ctx context.Context, name string) (found []valued) {
	if strings.TrimSpace(name) == "" {
		return nil
	}
	for _, s := range a.room.AllSources() {
		reach, err := a.Reach(ctx, s.Book)
		if err != nil {
			continue
		}
		lists := s.Book.For(reach)
		for _, id := range s.Config.ListNames() {
			entries, err := lists.Match(ctx, id, name)
			if err == nil && len(entries) > 0 {
				found = append(found, valued{s.Config.ID, id, entries[0].Label})
			}
		}
	}
	return found
}

// asksFor tells which parameter of a report draws on one of some lists; "" for none.
func asksFor(d *report.Definition, of []valued) string {
	for _, p := range d.Parameters {
		for _, v := range of {
			if p.From != "" && p.From == v.list && d.Source == v.source {
				return "it asks for " + p.Label + ", of which " + v.label + " is one"
			}
		}
	}
	return ""
}

// valueScore ranks what is found by the values of a parameter after what is found by words.
const valueScore = 50

// found are the hits of a search: by the words of reports, and those of reports that ask for
// something that is called as the search is, or as one of its words beside the others.
func (a *Access) found(ctx context.Context, x *index, sought string) []search.Hit {
	hits := x.Find(sought)
	known := map[int]bool{}
	for _, h := range hits {
		known[h.Doc] = true
	}
	add := func(among []search.Hit, of []valued) {
		for _, h := range among {
			says := asksFor(x.reports[x.ids[h.Doc]], of)
			if says == "" || known[h.Doc] {
				continue
			}
			known[h.Doc] = true
			hits = append(hits, search.Hit{Doc: h.Doc, Score: h.Score + valueScore, Says: says})
		}
	}
	words := strings.Fields(sought)
	if len(words) == 0 {
		return hits
	}
	if of := a.holding(ctx, sought); len(of) > 0 {
		add(x.Find(""), of)
	}
	if len(words) == 1 {
		return hits
	}
	for i, word := range words {
		if of := a.holding(ctx, word); len(of) > 0 {
			add(x.Find(strings.Join(append(append([]string{}, words[:i]...), words[i+1:]...), " ")), of)
		}
	}
	return hits
}
