package drafting

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/source/lookup"
	"mantilla/store/drafting"
)

// Effect is what a change of a report does to something that depends on it.
type Effect struct {
	model.Dependent
	Unfit []string // what of it fits no longer; none where it goes on
}

// Dependents tell what depends on a report: what would be without it.
func (a *Access) Dependents(ctx context.Context, id string) ([]Effect, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	if _, err := a.catalog.Report(id); err != nil {
		return nil, err
	}
	return a.effects(ctx, &report.Definition{ID: id})
}

func (a *Access) effects(ctx context.Context, to *report.Definition) ([]Effect, error) {
	was := a.room.catalog.Present()[to.ID]
	if was == nil {
		return []Effect{}, nil // nothing depends on what is not there yet
	}
	c := concerned{a: a, was: was, is: to, gone: to.Version == "", all: []Effect{}}
	if src, err := a.room.catalog.Source(was.Source); err == nil {
		c.lists = src.Book.For(report.Reach{})
	} else if !c.gone {
		return nil, err // nobody can tell what values come to
	}
	for _, find := range []func(context.Context) error{c.criteria, c.views, c.controls, c.tiles} {
		if err := find(ctx); err != nil {
			return nil, err
		}
	}
	c.links()
	return c.all, nil
}

// concerned gathers what depends on a report.
type concerned struct {
	a       *Access
	was, is *report.Definition
	gone    bool // the report leaves the catalog
	lists   *lookup.Lists
	all     []Effect

	unfitCriteria map[int64]bool
	unfitViews    map[string]bool
	steps         []drafting.Step
}

func (c *concerned) add(kind, id, name, owner string, unfit []string) {
	if c.gone {
		unfit = []string{"the report leaves the catalog"}
	}
	c.all = append(c.all, Effect{model.Dependent{Kind: kind, ID: id, Name: name, Owner: owner}, unfit})
}

// values tells what of typed values fits no longer: what was right before, or was
// spoken of, and is not now.
func (c *concerned) values(ctx context.Context, typed map[string]string) (unfit []string, err error) {
	if c.gone {
		return nil, nil
	}
	for _, id := range slices.Sorted(maps.Keys(typed)) {
		if typed[id] != "" && c.was.Parameter(id) != nil && c.is.Parameter(id) == nil {
			text := fmt.Sprintf("the parameter %s is gone", id)
			if near := nearest.Names(id, parameterIDs(c.is), 1); len(near) > 0 {
				text += "; there is " + near[0]
			}
			unfit = append(unfit, text)
		}
	}
	before, err := c.faults(ctx, c.was, typed)
	if err != nil {
		return nil, err
	}
	now, err := c.faults(ctx, c.is, typed)
	if err != nil {
		return nil, err
	}
	for _, f := range now {
		if !slices.Contains(before, f) {
			unfit = append(unfit, f)
		}
	}
	return unfit, nil
}

func (c *concerned) faults(ctx context.Context, d *report.Definition, typed map[string]string) (out []string,
	err error) {
	known := map[string]string{}
	for id, text := range typed {
		if d.Parameter(id) != nil {
			known[id] = text
		}
	}
	_, faults, err := param.Resolve(ctx, d.Parameters, known, param.Setting{Calendar: c.a.room.org.Calendar(),
		Lists: c.lists})
	for _, f := range faults {
		out = append(out, f.Parameter+": "+f.Message)
	}
	return out, err
}

func parameterIDs(d *report.Definition) (ids []string) {
	for _, p := range d.Parameters {
		ids = append(ids, p.ID)
	}
	return ids
}

func (c *concerned) criteria(ctx context.Context) error {
	all, err := c.a.room.records.Criteria(ctx, c.was.ID)
	if err != nil {
		return err
	}
	c.unfitCriteria = map[int64]bool{}
	for _, kept := range all {
		unfit, err := c.values(ctx, kept.Typed)
		if err != nil {
			return err
		}
		c.unfitCriteria[kept.Number] = len(unfit) > 0
		c.add("criteria", fmt.Sprintf("C-%d", kept.Number), kept.Name, kept.Owner, unfit)
	}
	return nil
}

func (c *concerned) views(ctx context.Context) error {
	all, err := c.a.room.records.Views(ctx, c.was.ID)
	if err != nil {
		return err
	}
	c.unfitViews = map[string]bool{}
	for _, kept := range all {
		var unfit []string
		if v := reading.ViewOf(c.is, kept.Base); v == nil && !c.gone {
			unfit = []string{"the view " + kept.Base + ", which it is based on, is gone"}
		} else if v != nil {
			_, dropped := kept.Changes.Fit(c.is.Dataset(v.Of), v, kept.Seen)
			for _, d := range dropped {
				unfit = append(unfit, d+" is left out")
			}
		}
		id := fmt.Sprintf("V-%d", kept.Number)
		c.unfitViews[id] = len(unfit) > 0
		c.add("view", id, kept.Name, kept.Owner, unfit)
	}
	return nil
}

func (c *concerned) controls(ctx context.Context) (err error) {
	if c.steps, err = c.a.room.records.Steps(ctx, c.was.ID); err != nil {
		return err
	}
	for _, s := range c.steps {
		unfit, err := c.values(ctx, s.Typed)
		if err != nil {
			return err
		}
		if c.unfitCriteria[s.Criteria] {
			unfit = append(unfit, fmt.Sprintf("it runs under the criteria C-%d, which fit no longer", s.Criteria))
		}
		unfit = append(unfit, c.view(s.View)...)
		c.add("control", s.Control, s.Title, s.Owner, unfit)
	}
	return nil
}

// view tells what is wrong with a view that is named somewhere.
func (c *concerned) view(id string) []string {
	switch {
	case id == "" || c.gone:
		return nil
	case c.unfitViews[id]:
		return []string{"it shows the kept view " + id + ", which fits no longer"}
	case strings.HasPrefix(id, "V-") || reading.ViewOf(c.is, id) != nil:
		return nil
	}
	return []string{"it shows the view " + id + ", which is gone"}
}

func (c *concerned) tiles(ctx context.Context) error {
	all, err := c.a.room.records.Tiles(ctx)
	if err != nil {
		return err
	}
	for _, t := range all {
		of := slices.IndexFunc(c.steps, func(s drafting.Step) bool { return s.Control == t.Control && s.Step == t.Step })
		if of < 0 {
			continue
		}
		unfit := c.view(t.View)
		if v := reading.ViewOf(c.is, t.View); v != nil && t.Measure != "" && c.lost(v, t.Measure) {
			unfit = append(unfit, "its figure is of "+t.Measure+", which is gone")
		}
		name := t.Title
		if name == "" {
			name = c.steps[of].Title
		}
		c.add("tile", t.Control, name, t.Owner, unfit)
	}
	return nil
}

// lost tells whether a measure speaks of a column that there was and that is no more.
func (c *concerned) lost(v *report.View, measure string) bool {
	is := c.is.Dataset(v.Of)
	was := c.was.Dataset(v.Of)
	if is == nil || was == nil {
		return true
	}
	return slices.ContainsFunc(was.Columns, func(col report.Column) bool {
		return is.Column(col.ID) == nil && slices.Contains(strings.FieldsFunc(measure, notName), col.ID)
	})
}

func notName(r rune) bool { return r != '_' && (r < 'a' || r > 'z') && (r < '0' || r > '9') }

// links are other reports that open this one or stand beside it.
func (c *concerned) links() {
	present := c.a.room.catalog.Present()
	for _, id := range slices.Sorted(maps.Keys(present)) {
		d := present[id]
		if id == c.was.ID {
			continue
		}
		linked := slices.Contains(d.Companions, c.was.ID)
		var unfit []string
		for i := range d.Datasets {
			for _, col := range d.Datasets[i].Columns {
				if col.Opens == nil || col.Opens.Report != c.was.ID {
					continue
				}
				linked = true
				for _, f := range col.Opens.With {
					if !c.gone && c.was.Parameter(f.Parameter) != nil && c.is.Parameter(f.Parameter) == nil {
						unfit = append(unfit, fmt.Sprintf("column %s fills the parameter %s, which is gone", col.ID, f.Parameter))
					}
				}
			}
		}
		if linked {
			c.add("report", id, d.Title, "", unfit)
		}
	}
}

// tellConcerned tells the owners of what fits a report no longer.
func (a *Access) tellConcerned(ctx context.Context, d *report.Definition, all []Effect) error {
	for _, e := range all {
		if len(e.Unfit) == 0 || e.Owner == "" {
			continue
		}
		to := "/reports/" + d.ID
		if e.Kind == "control" {
			to = "/controls/" + e.ID
		}
		err := a.tell(ctx, []string{e.Owner}, "report", to,
			"The report “%s” changed, and your %s “%s” no longer fits: %s. Open it, choose anew and keep it.", d.Title, e.Kind,
			e.Name, strings.Join(e.Unfit, "; "))
		if err != nil {
			return err
		}
	}
	return nil
}
