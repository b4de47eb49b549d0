package moving

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/bundle"
	"mantilla/core/definition"
	"mantilla/core/manuscript"
	"mantilla/core/report"
	"mantilla/core/revision"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/store/moving"
)

// What becomes of an item of a bundle.
const (
	New     = "new"
	Changed = "changed"
	Same    = "same"
	Left    = "left"    // something of that name is here and stays as it is
	Blocked = "blocked" // it stands in the way of everything
)

// Item is something that a bundle brings.
type Item struct {
	Kind, ID, Title string
	State           string
	Says            []string
}

// Look is what a bundle is, and what taking it would do.
type Look struct {
	bundle.Manifest
	Items []Item
}

// Blocked tells whether something stands in the way.
func (l *Look) Blocked() bool {
	return slices.ContainsFunc(l.Items, func(i Item) bool { return i.State == Blocked })
}

// Mapping says what is called otherwise here: sources, groups and codes of units.
type Mapping struct{ Sources, Groups, Units map[string]string }

func to(mapped map[string]string, name string) string {
	if here, ok := mapped[name]; ok {
		return here
	}
	return name
}

// Look reads a bundle and tells what taking it would do.
func (a *Access) Look(ctx context.Context, text []byte, m Mapping) (Look, error) {
	t, err := a.plan(ctx, text, m)
	if err != nil {
		return Look{}, err
	}
	return t.look, nil
}

// Taken is what was done, and how to go back.
type Taken struct {
	Look
	Back []string // commands, one a line
}

// Take takes a bundle in, all or nothing.
func (a *Access) Take(ctx context.Context, text []byte, m Mapping, note string) (out Taken, err error) {
	if a.room.org.TwoPeople && a.Person().Name != access.ServiceName {
		b, err := bundle.Read(text)
		if err == nil && b.By == a.Person().Name {
			return out, model.Forbid("here another person takes into the catalog what somebody made: let somebody else take it")
		}
	}
	t, err := a.plan(ctx, text, m)
	if err != nil {
		return out, err
	}
	out.Look = t.look
	if t.look.Blocked() {
		var why []string
		for _, i := range t.look.Items {
			if i.State == Blocked {
				why = append(why, i.Kind+" "+i.ID+": "+strings.Join(i.Says, "; "))
			}
		}
		return out, model.Refuse("bundle", "nothing was taken in, since something stands in the way:\n%s",
			strings.Join(why, "\n"))
	}
	for i := range t.load.Reports {
		t.load.Reports[i].By, t.load.Reports[i].Note = a.Person().Name, note
	}
	before := map[string]int{}
	for _, r := range t.load.Reports {
		versions, err := a.catalog.Versions(ctx, r.ID)
		if err != nil {
			return out, err
		}
		if len(versions) > 0 {
			before[r.ID] = versions[0].Number
		}
	}
	err = a.catalog.Changing(func() error { return a.room.records.Take(ctx, t.load, a.room.org.Now()) }, t.shared,
		t.definitions)
	if err != nil {
		return out, err
	}
	for _, r := range t.load.Reports {
		if n := before[r.ID]; n > 0 {
			out.Back = append(out.Back, fmt.Sprintf("mantilla definition restore %s %d", r.ID, n))
		} else {
			out.Back = append(out.Back, "mantilla definition delete "+r.ID)
		}
	}
	for _, own := range t.load.Terms {
		out.Back = append(out.Back, "mantilla glossary delete "+own.ID)
	}
	for _, r := range t.load.Resources {
		if r.New {
			out.Back = append(out.Back, "mantilla shelf delete "+r.ID)
		}
	}
	for _, c := range t.load.Controls {
		out.Back = append(out.Back, "mantilla control delete "+c.ID)
	}
	a.room.log.InfoContext(ctx, "bundle taken in", "from", t.look.From, "reports", len(t.load.Reports), "by",
		a.Person().Name)
	if err := a.room.meaning.Reload(ctx); err != nil {
		return out, err
	}
	if err := a.room.shelf.Reload(ctx); err != nil {
		return out, err
	}
	return out, a.room.people.Reopen(ctx)
}

// taking plans what a bundle does.
type taking struct {
	a           *Access
	of          *bundle.Bundle
	m           Mapping
	look        Look
	load        moving.Load
	shared      *definition.Shared // as it would be then
	definitions []*report.Definition
	here        map[string]*report.Definition // reports as they would be
}

func (t *taking) add(kind, id, title, state string, says ...string) {
	t.look.Items = append(t.look.Items, Item{kind, id, title, state, says})
}

func (a *Access) plan(ctx context.Context, text []byte, m Mapping) (*taking, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	b, err := bundle.Read(text)
	if err != nil {
		return nil, model.Refuse("bundle", "%w", err)
	}
	t := &taking{a: a, of: b, m: m, look: Look{Manifest: b.Manifest, Items: []Item{}}, here: a.room.catalog.Present(),
		load: moving.Load{Openings: map[string][]model.Opening{}}, shared: a.catalog.SharedParameters()}
	for _, step := range []func(context.Context) error{t.sources, t.sharedParameters, t.glossary, t.reports, t.resources,
		t.openings,
		t.criteria,
		t.views, t.controls} {
		if err := step(ctx); err != nil {
			return nil, err
		}
	}
	return t, nil
}

func (t *taking) sources(context.Context) error {
	for _, id := range slices.Sorted(maps.Keys(t.of.Below("sources"))) {
		here := to(t.m.Sources, id)
		if _, err := t.a.room.catalog.Source(here); err != nil {
			t.add("source", id, "", Blocked, fmt.Sprintf("this service has no source %s; say which one it is here, or declare "+
				"it first (the bundle has its declaration)", here))
			continue
		}
		t.add("source", id, "", Same, "it is "+here+" here")
	}
	return nil
}

func (t *taking) sharedParameters(context.Context) error {
	text, ok := t.of.Files["shared.yaml"]
	if !ok {
		return nil
	}
	theirs, faults := definition.ParseShared(text)
	if faults != nil {
		return model.Refuse("bundle", "its shared parameters cannot be read: %w", faults)
	}
	var items []string
	for _, id := range theirs.IDs() {
		switch {
		case !slices.Contains(t.shared.IDs(), id):
			items = append(items, theirs.Item(id))
			t.add("shared parameter", id, "", New)
		case theirs.Same(id, t.shared):
			t.add("shared parameter", id, "", Same)
		default:
			t.add("shared parameter", id, "", Blocked, "it means something else here: "+t.shared.Item(id)+"; there it is "+
				theirs.Item(id))
		}
	}
	if len(items) == 0 {
		return nil
	}
	t.load.Shared = t.shared.With(items)
	whole, faults := definition.ParseShared([]byte(t.load.Shared))
	if faults != nil {
		return model.Refuse("bundle", "the shared parameters cannot be put together: %w", faults)
	}
	t.shared = whole
	return nil
}

func (t *taking) reports(ctx context.Context) error {
	files := t.of.Below("reports")
	for _, id := range slices.Sorted(maps.Keys(files)) {
		text := string(files[id])
		for from, here := range t.m.Sources {
			if manuscript.SourceOf([]byte(text)) == from {
				text = manuscript.Rebased(text, here)
			}
		}
		d, err := t.a.catalog.CheckWith(ctx, []byte(text), t.shared)
		var faults definition.Faults
		if errors.As(err, &faults) {
			t.add("report", id, "", Blocked, "it is not right here: "+strings.ReplaceAll(faults.Error(), "\n", "; "))
			continue
		}
		if err != nil {
			return err
		}
		if d.ID != id {
			t.add("report", id, d.Title, Blocked, "its text is of the report "+d.ID)
			continue
		}
		t.report(d)
	}
	return nil
}

func (t *taking) report(d *report.Definition) {
	present := t.here[d.ID]
	switch {
	case present != nil && present.Version == d.Version:
		t.add("report", d.ID, d.Title, Same)
		return
	case present != nil:
		t.add("report", d.ID, d.Title, Changed, revision.Words(present, d)...)
	default:
		t.add("report", d.ID, d.Title, New)
	}
	t.here[d.ID] = d
	t.definitions = append(t.definitions, d)
	t.load.Reports = append(t.load.Reports,
		model.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version,
			Text: d.Text})
}

func (t *taking) openings(ctx context.Context) error {
	groups, err := t.a.Groups(ctx)
	if err != nil {
		return err
	}
	known := func(id string) bool {
		return slices.ContainsFunc(groups, func(g model.Group) bool { return g.ID == id })
	}
	files := t.of.Below("openings")
	for _, id := range slices.Sorted(maps.Keys(files)) {
		var o openings
		if err := t.of.Get("openings/"+id+".yaml", &o); err != nil {
			return model.Refuse("bundle", "%w", err)
		}
		var open []model.Opening
		var says []string
		if o.Everyone {
			open = append(open, model.Opening{Kind: "everyone"})
		}
		state := New
		for _, g := range o.Groups {
			here := to(t.m.Groups, g)
			if !known(here) {
				state, says = Blocked, append(says, "there is no group "+here+" here; make it, or say which one it is")
				continue
			}
			open = append(open, model.Opening{Kind: "group", Name: here})
		}
		for _, p := range o.People {
			if _, err := t.a.room.people.Person(ctx, p); err != nil {
				says = append(says, "there is no account "+p+" here; it is not opened to them")
				continue
			}
			open = append(open, model.Opening{Kind: "person", Name: p})
		}
		present := t.a.room.people.Openings(id)
		open = slices.DeleteFunc(open, func(o model.Opening) bool { return slices.Contains(present, o) })
		if t.a.room.org.OpenByTwo && len(open) > 0 {
			open, says = nil, append(says, "reports are opened by two people here; it is opened to nobody")
		}
		if len(open) == 0 && state == New {
			state = Same
		}
		t.load.Openings[id] = open
		t.add("opening", id, "", state, says...)
	}
	return nil
}
