package meaning

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/nearest"
	"mantilla/core/report"
	"mantilla/core/search"
	"mantilla/library/access"
	"mantilla/model"
)

// Bounds of a term, in characters.
const (
	longestName    = 100
	longestMeaning = 2000
	mostAlso       = 20
)

// Used is a term with the columns that point to it.
type Used struct {
	model.Term
	By []Column // of reports that are open to the person
}

// Glossary is the terms that have a text in their name, another word for it or their
// meaning, with what points to them.
func (a *Access) Glossary(sought string) []Used {
	out := []Used{}
	points := a.points()
	for _, t := range a.room.all() {
		text := fold.Text(strings.Join(append([]string{t.ID, t.Name, t.Meaning}, t.Also...), " "))
		if strings.Contains(text, fold.Text(sought)) {
			out = append(out, Used{t, points[t.ID]})
		}
	}
	return out
}

// points are the columns of open reports by the term that they point to.
func (a *Access) points() map[string][]Column {
	out := map[string][]Column{}
	present := a.room.catalog.Present()
	for _, id := range sorted(present) {
		if !a.Opens(id) {
			continue
		}
		for i := range present[id].Datasets {
			set := &present[id].Datasets[i]
			for j := range set.Columns {
				if c := &set.Columns[j]; c.Means != "" {
					out[c.Means] = append(out[c.Means], Column{Report: id, Dataset: set.ID, Column: c})
				}
			}
		}
	}
	return out
}

func (room *Room) all() []model.Term {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.terms
}

// Terms are all terms, for whoever moves them.
func (room *Room) Terms() []model.Term { return slices.Clone(room.all()) }

// term returns a term; nil where there is none of that id.
func (room *Room) term(id string) *model.Term {
	for _, t := range room.all() {
		if t.ID == id {
			return &t
		}
	}
	return nil
}

func (room *Room) ids() (ids []string) {
	for _, t := range room.all() {
		ids = append(ids, t.ID)
	}
	return ids
}

// PutTerm keeps a term. Its revision is that which the person saw, 0 for a new one.
func (a *Access) PutTerm(ctx context.Context, t model.Term) (model.Term, error) {
	if err := a.May(access.Write); err != nil {
		return t, err
	}
	t.Name, t.Meaning = strings.TrimSpace(t.Name), strings.TrimSpace(t.Meaning)
	if err := check(&t); err != nil {
		return t, err
	}
	for _, other := range a.room.all() {
		if other.ID == t.ID {
			continue
		}
		for _, word := range append([]string{t.Name}, t.Also...) {
			if slices.ContainsFunc(append([]string{other.Name}, other.Also...),
				func(w string) bool { return fold.Text(w) == fold.Text(word) }) {
				return t, model.Refuse("name", "the term %s says %q already; add what is new there, or choose another word",
					other.ID, word)
			}
		}
	}
	if t.Owner != "" {
		if _, err := a.room.people.Person(ctx, t.Owner); err != nil {
			return t, model.Refuse("owner", "%w", err)
		}
	}
	t.ChangedAt, t.ChangedBy = a.room.org.Now(), a.Person().Name
	if err := a.room.records.PutTerm(ctx, t); err != nil {
		return t, fmt.Errorf("the term %s: %w", t.ID, err)
	}
	if err := a.room.Reload(ctx); err != nil {
		return t, err
	}
	return *a.room.term(t.ID), nil
}

// check looks whether a term can be kept, and tidies the other words for it.
func check(t *model.Term) error {
	for i, r := range t.ID {
		if r >= 'a' && r <= 'z' || i > 0 && (r == '-' || r >= '0' && r <= '9') {
			continue
		}
		return model.Refuse("id", "%q is not the id of a term; use small letters, digits and -, a letter first", t.ID)
	}
	switch {
	case t.ID == "" || len(t.ID) > longestName:
		return model.Refuse("id", "a term needs an id of at most %d letters", longestName)
	case t.Name == "" || len([]rune(t.Name)) > longestName:
		return model.Refuse("name", "a term needs a name of at most %d characters", longestName)
	case t.Meaning == "" || len([]rune(t.Meaning)) > longestMeaning:
		return model.Refuse("meaning", "say what it means, in at most %d characters", longestMeaning)
	case len(t.Also) > mostAlso:
		return model.Refuse("also", "a term has at most %d other words", mostAlso)
	}
	var also []string
	for _, word := range t.Also {
		word = strings.TrimSpace(word)
		switch {
		case len([]rune(word)) > longestName:
			return model.Refuse("also", "%q has more than %d characters", word, longestName)
		case word != "" && !slices.Contains(also, word):
			also = append(also, word)
		}
	}
	t.Also = also
	return nil
}

// DeleteTerm forgets a term that no column points to.
func (a *Access) DeleteTerm(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if a.room.term(id) == nil {
		return model.NoSuch("term", id, a.room.ids())
	}
	present := a.room.catalog.Present()
	for _, name := range sorted(present) {
		for i := range present[name].Datasets {
			set := &present[name].Datasets[i]
			for _, c := range set.Columns {
				if c.Means == id {
					return model.Refuse("term", "the column %s of the report %s points to it; change that first", c.ID, name)
				}
			}
		}
	}
	err := a.room.records.DeleteTerm(ctx, id)
	if err != nil && !errors.Is(err, model.ErrNotFound) {
		return err
	}
	return a.room.Reload(ctx)
}

// Found are the words that a report is found by: those of its columns and of the terms
// that they point to.
func (room *Room) Found(d *report.Definition) (out []search.Field) {
	for i := range d.Datasets {
		for _, c := range d.Datasets[i].Columns {
			if c.About != "" {
				out = append(out, search.Field{Text: c.About, Weight: 3, Exact: true,
					Says: "by what is said of its column " + c.Label})
			}
			if t := room.term(c.Means); t != nil {
				out = append(out, search.Field{Text: strings.Join(append([]string{t.Name, t.Meaning}, t.Also...), " "),
					Weight: 3, Exact: true, Says: "by what its column " + c.Label + " means"})
			}
		}
	}
	return out
}

// Warnings tell of columns that point to no term.
func (room *Room) Warnings(d *report.Definition) (out []string) {
	known := room.ids()
	for i := range d.Datasets {
		for _, c := range d.Datasets[i].Columns {
			if c.Means == "" || slices.Contains(known, c.Means) {
				continue
			}
			says := fmt.Sprintf("%s, column %s means %s, which the glossary does not have", d.Datasets[i].ID, c.ID, c.Means)
			if near := nearest.Names(c.Means, known, 2); len(near) > 0 {
				says += "; did you mean " + nearest.Or(near) + "?"
			}
			out = append(out, says)
		}
	}
	return out
}
