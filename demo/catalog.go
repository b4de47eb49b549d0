package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	rooms "mantilla/library/catalog"

	"mantilla/library"
	"mantilla/model"
)

//go:embed catalog
var catalog embed.FS

// Password is that of every account of the demo.
const Password = "honey-and-wax"

// People are the accounts of the demo: one of each role, and a runner who sees
// one district.
var People = []model.Person{
	{Name: "rhea", Title: "Rhea Ottermoss", Role: model.Reader},
	{Name: "dora", Title: "Dora Hollinfen", Role: model.Runner, Units: []string{"UF-HOL"}},
	{Name: "runa", Title: "Runa Askwith", Role: model.Runner},
	{Name: "aron", Title: "Aron Quillby", Role: model.Author},
	{Name: "lila", Title: "Lila Ferncastle", Role: model.Librarian},
	{Name: "adda", Title: "Adda Marrowell", Role: model.Administrator},
}

var groups = []model.Group{
	{ID: "field", Title: "Field offices", Members: []string{"dora", "runa"}},
	{ID: "accounts", Title: "Accounts", Members: []string{"rhea", "runa"}},
}

// GroupsOf are the groups that somebody of the demo is in.
func GroupsOf(person string) (ids []string) {
	for _, g := range groups {
		if slices.Contains(g.Members, person) {
			ids = append(ids, g.ID)
		}
	}
	return ids
}

// closedTo are the reports that are not open to everyone, with the group that
// they are open to.
var closedTo = map[string]string{"budget-position": "accounts", "ledger-lines": "accounts",
	"agent-commission": "accounts",
	"trial-balance":    "accounts", "consolidation-trail": "accounts"}

// Load takes the demo's catalog and people into the library.
func Load(ctx context.Context, l *library.Library) error {
	if err := errors.Join(LoadCatalog(ctx, l), loadPeople(ctx, l.AsService()), loadOpenings(ctx,
		l.AsService())); err != nil {
		return err
	}
	if err := loadGlossary(ctx, l.AsService()); err != nil {
		return err
	}
	if err := loadShelf(ctx, l.AsService()); err != nil {
		return err
	}
	return loadSending(ctx, l)
}

// loadGlossary takes in the terms that are not there yet.
func loadGlossary(ctx context.Context, a *library.Access) error {
	text, err := catalog.ReadFile("catalog/glossary.yaml")
	if err != nil {
		return err
	}
	var terms []model.Term
	if err := yaml.Unmarshal(text, &terms); err != nil {
		return fmt.Errorf("catalog/glossary.yaml: %w", err)
	}
	for _, t := range terms {
		if _, err := a.Meaning.PutTerm(ctx, t); err != nil && !errors.Is(err, model.ErrTaken) {
			return err
		}
	}
	return nil
}

// Source is the declaration of the cooperative's records.
func Source() (string, error) {
	text, err := catalog.ReadFile("catalog/sources/coop.yaml")
	return string(text), err
}

// LoadCatalog takes the demo's source and reports into the library.
func LoadCatalog(ctx context.Context, l *library.Library) error {
	return loadReports(ctx, l.AsService(), "*")
}

// loadReports takes the source and reports whose ids match a pattern into the library.
func loadReports(ctx context.Context, a *library.Access, ids string) error {
	for _, kind := range []struct {
		pattern string
		put     func(text []byte) error
	}{
		{"catalog/sources/*.yaml", func(text []byte) error { return a.Catalog.PutSource(ctx, "coop", text) }},
		{"catalog/parameters.yaml", func(text []byte) error { return a.Catalog.PutShared(ctx, text) }},
		{"catalog/reports/" + ids + ".yaml", func(text []byte) error {
			_, err := a.Catalog.PutReport(ctx, text, rooms.Put{Was: "*"})
			return err
		}},
	} {
		paths, err := fs.Glob(catalog, kind.pattern)
		if err != nil {
			return err
		}
		for _, file := range paths {
			text, err := catalog.ReadFile(file)
			if err == nil {
				err = kind.put(text)
			}
			if err != nil {
				return fmt.Errorf("%s: %w", file, err)
			}
		}
	}
	return nil
}

// loadPeople makes the accounts that are not there yet.
func loadPeople(ctx context.Context, a *library.Access) error {
	known, err := a.People(ctx)
	if err != nil {
		return err
	}
	for _, p := range People {
		if slices.ContainsFunc(known, func(k model.Person) bool { return k.Name == p.Name }) {
			continue
		}
		if err := a.PutPerson(ctx, p, Password); err != nil {
			return err
		}
	}
	return nil
}

// loadOpenings makes the groups, and opens reports, that are not there yet.
func loadOpenings(ctx context.Context, a *library.Access) error {
	for _, g := range groups {
		if err := a.PutGroup(ctx, g); err != nil && !errors.Is(err, model.ErrStale) {
			return err
		}
	}
	reports, err := fs.Glob(catalog, "catalog/reports/*.yaml")
	if err != nil {
		return err
	}
	for _, file := range reports {
		id := strings.TrimSuffix(path.Base(file), ".yaml")
		open := model.Opening{Kind: "everyone"}
		if group := closedTo[id]; group != "" {
			open = model.Opening{Kind: "group", Name: group}
		}
		present, err := a.Catalog.Opening(id)
		if err == nil && len(present) == 0 {
			_, err = a.Catalog.Open(ctx, id, []model.Opening{open})
		}
		if err != nil {
			return err
		}
	}
	return nil
}
