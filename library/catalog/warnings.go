package catalog

import (
	"context"
	"fmt"
	"slices"

	"mantilla/core/manuscript"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
)

// Warnings tell what of a definition works but is probably not meant: links to
// reports and parameters that there are not, companions that are missing, and
// datasets that cannot be cut to units.
func (a *Access) Warnings(ctx context.Context, d *report.Definition) (out []string, err error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	present := a.room.Present()
	present[d.ID] = d
	var known []string
	for id := range present {
		known = append(known, id)
	}
	slices.Sort(known)
	for _, id := range d.Companions {
		if present[id] == nil {
			out = append(out, fmt.Sprintf("the companion %s is not in the catalog%s", id, meant(id, known)))
		}
	}
	for i := range d.Datasets {
		set := &d.Datasets[i]
		for _, c := range set.Columns {
			if c.Opens != nil && c.Opens.Report != "" {
				out = append(out, linkWarnings(set.ID, &c, present, known)...)
			}
		}
	}
	if !d.Cuts() {
		out = append(out, "a dataset names no scope: people who are limited to units cannot run the report; write scope: "+
			"with the column of units, or everyone where the rows are not about units")
	}
	if r, gone := a.room.people.Retired(model.KindSource, d.Source); gone {
		out = append(out, fmt.Sprintf("the source %s is retired; %s", d.Source, r.Instead()))
	}
	for _, id := range manuscript.Uses([]byte(d.Text)) {
		if r, gone := a.room.people.Retired(model.KindParameter, id); gone {
			out = append(out, fmt.Sprintf("the shared parameter %s is retired; %s", id, r.Instead()))
		}
	}
	for _, k := range a.room.beside {
		out = append(out, k.Warnings(d)...)
	}
	return out, nil
}

// linkWarnings tell what is wrong with where a column leads.
func linkWarnings(dataset string, c *report.Column, present map[string]*report.Definition,
	known []string) (out []string) {
	to := present[c.Opens.Report]
	if to == nil {
		return []string{fmt.Sprintf("%s, column %s opens the report %s, which is not in the catalog%s", dataset, c.ID,
			c.Opens.Report, meant(c.Opens.Report, known))}
	}
	filled := map[string]bool{}
	for _, f := range c.Opens.With {
		filled[f.Parameter] = true
		if to.Parameter(f.Parameter) == nil {
			out = append(out,
				fmt.Sprintf("%s, column %s fills the parameter %s, which %s does not have%s", dataset, c.ID, f.Parameter, to.ID,
					meant(f.Parameter, ParameterIDs(to))))
		}
	}
	for _, p := range to.Parameters {
		if p.Required && p.Default == "" && !filled[p.ID] && p.Type != param.Flag {
			out = append(out,
				fmt.Sprintf("%s, column %s opens %s, which needs %s, and leaves that to be filled in", dataset, c.ID, to.ID, p.ID))
		}
	}
	return out
}

func meant(name string, known []string) string {
	if near := nearest.Names(name, known, 2); len(near) > 0 {
		return "; did you mean " + nearest.Or(near) + "?"
	}
	return ""
}
