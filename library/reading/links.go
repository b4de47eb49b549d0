package reading

import (
	"context"
	"maps"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/report"
	"mantilla/model"
)

// Link is what a row opens: a report with values from the row and from the run. Nobody
// but [Access.Link] makes one, so that its values are those of a row which the person sees.
type Link struct {
	report  string
	values  map[string]string
	readers bool
}

// Report is the id of the report that opens.
func (l Link) Report() string { return l.report }

// Values are what its parameters are filled with, as typed.
func (l Link) Values() map[string]string { return maps.Clone(l.values) }

// ForReaders tells whether the report may be run by following a link, by who may not run
// reports otherwise.
func (l Link) ForReaders() bool { return l.readers }

// Link finds what a column of a row opens.
func (a *Access) Link(ctx context.Context, r *Result, view string, row int, column string) (Link, error) {
	read, err := a.Read(ctx, r, view, ask.Changes{})
	if err != nil {
		return Link{}, err
	}
	c := read.Dataset.Column(column)
	if c == nil || c.Opens == nil || c.Opens.Report == "" {
		return Link{}, model.Refuse("column", "no report opens from the column %q of %s", column, read.Dataset.ID)
	}
	if row < 0 || row >= read.rows.Rows() {
		return Link{}, model.Refuse("row", "there is no row %d; %s has %d", row, read.Dataset.ID, read.rows.Rows())
	}
	columns, line, err := read.Row(ctx, row)
	if err != nil {
		return Link{}, err
	}
	l := Link{report: a.catalog.CalledNow(c.Opens.Report), values: r.Fixed(c.Opens)}
	for _, f := range c.Opens.With {
		if strings.HasPrefix(f.From, ":") {
			continue
		}
		for i := range columns {
			if columns[i].ID == f.From && !line.Cells[i].Null {
				l.values[f.Parameter] = line.Cells[i].String()
			}
		}
		if l.values[f.Parameter] == "" {
			return Link{}, model.Refuse("row", "row %d has no %s to open %s with", row, f.From, l.report)
		}
	}
	l.readers = a.Followed(l.report)
	return l, nil
}

// Followed tells whether readers may run a report by following links to it.
func (a *Access) Followed(id string) bool {
	d, err := a.catalog.Report(id)
	return err == nil && d.Follow == "readers"
}

// Fixed is what a link fills in with facts of the run itself, by parameter.
func (r *Result) Fixed(o *report.Opens) map[string]string {
	fixed := map[string]string{}
	for _, f := range o.With {
		for _, fact := range r.Manifest.Facts {
			if f.From != ":"+fact.Parameter {
				continue
			}
			fixed[f.Parameter] = fact.Resolved
			if v, ok := r.Values.Of(fact.Parameter); ok && f.Companion > 0 && f.Companion <= len(v.Companions) {
				fixed[f.Parameter] = v.Companions[f.Companion-1].Range.String()
			}
		}
	}
	return fixed
}
