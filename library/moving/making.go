package moving

import (
	"context"
	"encoding/json"
	"io"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/bundle"
	"mantilla/core/manuscript"
	"mantilla/library/access"
	"mantilla/model"
)

// Wish is what a bundle is to have.
type Wish struct {
	Reports    []string
	Controls   bool // run controls that run these reports alone
	Recipients bool // with those to whom they send
}

// Openings, criteria, views and controls as they travel. Values are as they were typed,
// so that moving ranges stay moving; owners do not travel.
type (
	openings struct {
		Everyone bool     `yaml:"everyone,omitempty"`
		Groups   []string `yaml:"groups,omitempty"`
		People   []string `yaml:"people,omitempty"`
	}
	criteria struct {
		Report string            `yaml:"report"`
		Name   string            `yaml:"name"`
		Shared string            `yaml:"shared"`
		Values map[string]string `yaml:"values"`
	}
	view struct {
		Report  string         `yaml:"report"`
		Base    string         `yaml:"view"`
		Name    string         `yaml:"name"`
		Changes map[string]any `yaml:"changes"`
		Seen    []string       `yaml:"seen"`
	}
	control struct {
		ID     string         `yaml:"id"`
		Title  string         `yaml:"title"`
		Shared string         `yaml:"shared"`
		Body   map[string]any `yaml:"body"`
	}
)

// Make writes a bundle of reports with what they need.
func (a *Access) Make(ctx context.Context, w io.Writer, wish Wish) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if len(wish.Reports) == 0 {
		return model.Refuse("reports", "name at least one report")
	}
	b := &bundle.Bundle{Manifest: bundle.Manifest{Made: a.room.org.Now().UTC(), By: a.Person().Name,
		From: a.room.org.Name}, Files: map[string][]byte{}}
	m := maker{a: a, Bundle: b}
	for _, id := range wish.Reports {
		if err := m.report(ctx, id); err != nil {
			return err
		}
	}
	if err := m.rest(ctx, wish); err != nil {
		return err
	}
	return bundle.Write(w, b)
}

// maker gathers the files of a bundle.
type maker struct {
	*bundle.Bundle

	a        *Access
	reports  []string
	used     []string // shared parameters
	terms    []string // of the glossary
	criteria []criteria
	all      map[int64]model.Criteria // by number, for controls that run under them
	views    []view
}

func (m *maker) report(ctx context.Context, id string) error {
	d, err := m.a.catalog.Report(id)
	if err != nil {
		return err
	}
	if model.IsDraft(id) {
		return model.Refuse("reports", "%s is a draft; take it into the catalog first", id)
	}
	m.reports = append(m.reports, d.ID)
	m.Files["reports/"+d.ID+".yaml"] = []byte(d.Text)
	m.used = append(m.used, manuscript.Uses([]byte(d.Text))...)
	m.terms = append(m.terms, pointed(d)...)
	src, err := m.a.room.catalog.Source(d.Source)
	if err != nil {
		return err
	}
	m.Files["sources/"+d.Source+".yaml"] = []byte(src.Config.Text)
	var to openings
	for _, o := range m.a.room.people.Openings(d.ID) {
		switch o.Kind {
		case "everyone":
			to.Everyone = true
		case "group":
			to.Groups = append(to.Groups, o.Name)
		case "person":
			to.People = append(to.People, o.Name)
		}
	}
	if err := m.Put("openings/"+d.ID+".yaml", to); err != nil {
		return err
	}
	return m.kept(ctx, d.ID)
}

// kept gathers the criteria that are shared and the views that are for everyone.
func (m *maker) kept(ctx context.Context, id string) error {
	all, err := m.a.room.kept.Criteria(ctx, id)
	if err != nil {
		return err
	}
	if m.all == nil {
		m.all = map[int64]model.Criteria{}
	}
	for _, c := range all {
		m.all[c.Number] = c
		if c.Shared != "" {
			m.criteria = append(m.criteria, criteria{id, c.Name, c.Shared, c.Typed})
		}
	}
	views, err := m.a.room.kept.Views(ctx, id)
	if err != nil {
		return err
	}
	for _, v := range views {
		if !v.Everyone {
			continue
		}
		changes, err := plain(v.Changes)
		if err != nil {
			return err
		}
		m.views = append(m.views, view{id, v.Base, v.Name, changes, v.Seen})
	}
	return nil
}

// plain is a value as JSON would have it, for YAML.
func plain(v any) (out map[string]any, err error) {
	text, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(text, &out)
	}
	return out, err
}

// changesOf reads what [plain] wrote of the changes of a view.
func changesOf(v map[string]any) (c ask.Changes, err error) {
	text, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(text, &c)
	}
	return c, err
}

func (m *maker) rest(ctx context.Context, wish Wish) error {
	slices.Sort(m.used)
	shared := m.a.catalog.SharedParameters()
	var items []string
	for _, id := range slices.Compact(m.used) {
		items = append(items, shared.Item(id))
	}
	if len(items) > 0 {
		m.Files["shared.yaml"] = []byte("parameters:\n  - " + strings.Join(items, "\n  - ") + "\n")
	}
	if err := m.glossary(); err != nil {
		return err
	}
	if err := m.resources(ctx); err != nil {
		return err
	}
	if len(m.criteria) > 0 {
		if err := m.Put("criteria.yaml", m.criteria); err != nil {
			return err
		}
	}
	if len(m.views) > 0 {
		if err := m.Put("views.yaml", m.views); err != nil {
			return err
		}
	}
	if !wish.Controls {
		return nil
	}
	return m.controls(ctx, wish.Recipients)
}

// controls gathers those that run the bundle's reports alone. Criteria that they run
// under become values of their own, since the numbers of criteria do not travel.
func (m *maker) controls(ctx context.Context, recipients bool) error {
	all, err := m.a.room.records.Controls(ctx)
	if err != nil {
		return err
	}
	var out []control
	for _, kept := range all {
		var body map[string]any
		if err := json.Unmarshal(kept.Body, &body); err != nil {
			continue // it says itself that it cannot be read
		}
		steps, _ := body["steps"].([]any)
		if len(steps) == 0 || !m.holds(steps) {
			continue
		}
		for _, s := range steps {
			m.settle(s.(map[string]any))
		}
		if !recipients {
			delete(body, "send")
		}
		out = append(out, control{kept.ID, kept.Title, kept.Shared, body})
	}
	if len(out) == 0 {
		return nil
	}
	return m.Put("controls.yaml", out)
}

func (m *maker) holds(steps []any) bool {
	return !slices.ContainsFunc(steps, func(s any) bool {
		step, _ := s.(map[string]any)
		id, _ := step["report"].(string)
		return !slices.Contains(m.reports, id)
	})
}

func (m *maker) settle(step map[string]any) {
	number, ok := step["criteria"].(float64)
	if !ok {
		return
	}
	delete(step, "criteria")
	values := map[string]any{}
	for name, text := range m.all[int64(number)].Typed {
		values[name] = text
	}
	if own, ok := step["typed"].(map[string]any); ok {
		for name, text := range own {
			values[name] = text
		}
	}
	step["typed"] = values
}
