package moving

import (
	"context"
	"slices"

	"mantilla/core/report"
	"mantilla/model"
)

// term is a term of the glossary as it travels, without who answers for it.
type term struct {
	ID      string   `yaml:"id"`
	Name    string   `yaml:"name"`
	Also    []string `yaml:"also,omitempty"`
	Meaning string   `yaml:"meaning"`
}

// glossary gathers the terms that the columns of the bundle's reports point to.
func (m *maker) glossary() error {
	var out []term
	for _, t := range m.a.room.meaning.Terms() {
		if slices.Contains(m.terms, t.ID) {
			out = append(out, term{t.ID, t.Name, t.Also, t.Meaning})
		}
	}
	if len(out) == 0 {
		return nil
	}
	return m.Put("glossary.yaml", out)
}

// pointed are the terms that a report's columns point to.
func pointed(d *report.Definition) (ids []string) {
	for i := range d.Datasets {
		for _, c := range d.Datasets[i].Columns {
			if c.Means != "" {
				ids = append(ids, c.Means)
			}
		}
	}
	return ids
}

// glossary takes in the terms that there are not here; what a word means here stays.
func (t *taking) glossary(context.Context) error {
	list, err := read[term](t, "glossary.yaml")
	if err != nil {
		return err
	}
	here := t.a.room.meaning.Terms()
	for _, theirs := range list {
		at := slices.IndexFunc(here, func(own model.Term) bool { return own.ID == theirs.ID })
		switch {
		case at < 0:
			t.add("term", theirs.ID, theirs.Name, New)
			t.load.Terms = append(t.load.Terms, model.Term{ID: theirs.ID, Name: theirs.Name, Also: theirs.Also,
				Meaning: theirs.Meaning, ChangedAt: t.a.room.org.Now(), ChangedBy: t.a.Person().Name})
		case here[at].Meaning == theirs.Meaning && here[at].Name == theirs.Name:
			t.add("term", theirs.ID, theirs.Name, Same)
		default:
			t.add("term", theirs.ID, theirs.Name, Left, "here it means: "+here[at].Meaning)
		}
	}
	return nil
}
