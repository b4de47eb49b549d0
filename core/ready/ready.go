// Package ready makes a view ready to be laid out: what a reader changed is applied,
// everything that is spoken of has a column in the table, and groups have what stands
// in their lines.
package ready

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/core/table"
)

// Setting is what a view is made ready with beside its rows.
type Setting struct {
	Given    map[string]frame.Value // single values that formulas speak of
	Calendar period.Calendar        // of the reader: moving ranges in filters, the zone
	Form     shown.Form             // in which figures are said to the reader
	Cache    table.Cache            // keeps what is dear to compute; [table.Fresh] where nothing does
}

// View is a dataset made ready for a view: the changes are applied, and
// the table has a column for everything that rows are shown, filtered, sorted
// and grouped by.
type View struct {
	Set     *report.Dataset // with the reader's own columns
	As      *report.View    // with the changes
	Setting Setting
	Rows    table.Table // with a column for everything that is computed of rows
	Scope   formula.Scope
	Shown   []string // columns of the sheet
	Levels  []Level
	Down    []Level // of a crosstab
	Across  []Level
	Filters []ask.Filter
	Key     string // tells the selected rows and all formulas apart

	source table.Table // as the result has it
	atRows []report.Calculated
	atAll  []report.Calculated // at groups
	asked  []string            // formulas of all rows that will be computed
	need   map[string]bool     // columns that the view speaks of, and what these are computed from
	extra  []*formula.Formula  // what the table has beyond the scope, in its order
	texts  []string            // of these
	places map[string]int      // of these by their text
}

// Level is what rows are grouped by, and its place in the table.
type Level struct {
	Text, Label string
	Field       frame.Field
	Place       int
	code        string // the column that tells namesakes apart, where there are some
}

// Of makes a view of the rows ready. Figures are formulas of all rows that will be
// computed. It fails with an [*ask.Fault] when the changes do not fit the dataset, and
// otherwise when rows cannot be loaded.
func Of(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes, setting Setting,
	figures ...string) (*View, error) {
	if err := c.Check(); err != nil {
		return nil, err
	}
	p := &View{Setting: setting, source: rows, places: map[string]int{}, asked: figures}
	set, view := *d.Typed(), *v
	p.Set, p.As = &set, &view
	p.Scope = formula.Scope{Given: setting.Given, Calendar: setting.Calendar}
	if err := p.addColumns(c.Add); err != nil {
		return nil, err
	}
	if err := p.total(c.Totals); err != nil {
		return nil, err
	}
	var faults map[string]error
	p.atRows, p.atAll, p.Scope, faults = p.Set.Calculate(p.Scope)
	for id, err := range faults {
		return nil, fmt.Errorf("column %s: %w", id, err)
	}
	if err := p.apply(ctx, c); err != nil {
		return nil, err
	}
	if err := p.choose(); err != nil {
		return nil, err
	}
	for _, text := range ask.Given(c.Filters) {
		f, err := p.Filter(text)
		if err != nil {
			return nil, &ask.Fault{Part: "filter", Err: err}
		}
		p.Filters = append(p.Filters, f)
	}
	p.compute()
	return p, nil
}

// apply lays the changes over the view.
func (p *View) apply(ctx context.Context, c ask.Changes) error {
	v := p.As
	if c.Columns != nil {
		v.Columns = slices.Clone(c.Columns)
		for _, own := range p.Set.Columns[len(p.Set.Columns)-len(c.Add):] {
			if !slices.Contains(v.Columns, own.ID) {
				v.Columns = append(v.Columns, own.ID)
			}
		}
	}
	for _, part := range []struct {
		name    string
		to      *string
		typed   string
		allowed []string
	}{
		{"show", (*string)(&v.Show), c.Show, []string{"table", "crosstab", "chart"}},
		{"show", &v.Drawn, c.Drawn, []string{"bar", "line", "area", "pie"}},
		{"names", &v.Names, c.Names, []string{"names", "codes", "both"}},
		{"zeros", &v.Zeros, c.Zeros, []string{"show", "omit"}},
	} {
		if part.typed == "" {
			continue
		}
		if !slices.Contains(part.allowed, part.typed) {
			return ask.Faultf(part.name, "%q is not allowed here; use %s", part.typed, nearest.Or(part.allowed))
		}
		*part.to = part.typed
	}
	if v.Show == report.Chart && v.Drawn == "" {
		v.Drawn = "bar"
	}
	if c.Limit != nil {
		v.Limit = *c.Limit
	}
	if c.Sort != nil {
		v.Sort = nil
		for _, text := range ask.Given(c.Sort) {
			v.Sort = append(v.Sort, report.SortKey(text))
		}
	}
	for to, list := range map[*[]string][]string{&v.Levels: c.Group, &v.Down: c.Down, &v.Across: c.Across,
		&v.Cells: c.Cells} {
		if list != nil {
			*to = slices.DeleteFunc(ask.Given(list), func(s string) bool { return s == "" })
		}
	}
	if c.Open != nil {
		v.Open = *c.Open
	}
	return p.readLevels(ctx)
}

// readLevels reads what rows are grouped by.
func (p *View) readLevels(ctx context.Context) error {
	v := p.As
	if v.Show == report.Crosstab && len(v.Down)+len(v.Across) == 0 {
		v.Down = v.Levels
	}
	for _, part := range []struct {
		name  string
		to    *[]Level
		texts []string
	}{{"group", &p.Levels, v.Levels}, {"down", &p.Down, v.Down}, {"across", &p.Across, v.Across}} {
		for _, text := range part.texts {
			l, err := p.level(ctx, text)
			if err != nil {
				return ask.Faultf(part.name, "grouping by %s: %w", text, err)
			}
			*part.to = append(*part.to, l)
		}
	}
	switch v.Show {
	case report.Timeline, report.Form:
		p.Levels = nil
	case report.Crosstab:
		p.Levels = p.Down
	}
	return nil
}

func (p *View) level(ctx context.Context, text string) (Level, error) {
	f, err := report.Level(text, p.Scope)
	if err != nil {
		return Level{}, err
	}
	l := Level{Text: text, Label: p.LabelOf(text, f), Field: f.Field, Place: p.place(text, f)}
	if at := p.Scope.Columns.Index(text); at >= 0 {
		l.Field = p.Scope.Columns[at]
	}
	return p.namesakes(ctx, l)
}

var plainName = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// LabelOf names a level: its column's label, with the function before it, or what is computed with
// the labels of the columns in it.
func (p *View) LabelOf(text string, f *formula.Formula) string {
	if c := p.Set.Column(text); c != nil {
		return c.Label
	}
	function, _, call := strings.Cut(text, "(")
	names := f.Names()
	if !call || !plainName.MatchString(function) { // net_kg > 300
		for _, name := range names {
			if c := p.Set.Column(name); c != nil {
				word := regexp.MustCompile(`\b` + regexp.QuoteMeta(name) + `\b`)
				text = word.ReplaceAllLiteralString(text, shown.Uncapitalised(c.Label))
			}
		}
		return shown.Capitalised(text)
	}
	if len(names) > 0 {
		if c := p.Set.Column(names[0]); c != nil && function != "band" {
			return shown.Capitalised(strings.ReplaceAll(function, "_", " ")) + " of " + shown.Uncapitalised(c.Label)
		} else if c != nil {
			return c.Label
		}
	}
	return text
}

// place returns where a formula of rows stands in the table; one that is more
// than a column gets a place of its own.
func (p *View) place(text string, f *formula.Formula) int {
	if at := p.Scope.Columns.Index(text); at >= 0 {
		return at
	}
	at, ok := p.places[text]
	if !ok && p.Rows != nil {
		return -1 // the table is made, and has no such column
	}
	if !ok {
		at = len(p.Scope.Columns) + len(p.extra)
		p.places[text] = at
		p.extra, p.texts = append(p.extra, f), append(p.texts, text)
	}
	return at
}

// choose settles the columns shown.
func (p *View) choose() error {
	var ids, usual []string
	for _, c := range p.Set.Columns {
		ids = append(ids, c.ID)
		if c.TypedOf == "" {
			usual = append(usual, c.ID)
		}
	}
	for _, part := range []struct {
		name string
		list []string
	}{{"columns", p.As.Columns}, {"cells", p.As.Cells}} {
		for _, id := range part.list {
			if !slices.Contains(ids, id) {
				return ask.Faultf(part.name, "there is no column %q; %s", id, Offer(id, ids))
			}
		}
	}
	for _, k := range p.As.Sort {
		if !slices.Contains(ids, k.Column) && !slices.Contains(p.As.Levels, k.Column) &&
			!slices.Contains(p.As.Down, k.Column) {
			return ask.Faultf("sort", "there is no column %q to sort by; %s", k.Column, Offer(k.Column, ids))
		}
	}
	wanted := p.As.Columns
	if len(wanted) == 0 {
		wanted = slices.DeleteFunc(usual, p.isCode)
	}
	for _, id := range wanted {
		if p.As.Show == report.Table && slices.Contains(p.As.Levels, id) {
			continue // stands in the groups
		}
		c := p.Set.Column(id)
		if c.Code == "" || p.As.Names == "names" || p.Set.Column(c.Code) == nil {
			p.Shown = append(p.Shown, id)
			continue
		}
		p.Shown = append(p.Shown, c.Code)
		if p.As.Names == "both" {
			p.Shown = append(p.Shown, id)
		}
	}
	return nil
}

// isCode tells whether a column is there for the codes of another.
func (p *View) isCode(id string) bool {
	return slices.ContainsFunc(p.Set.Columns, func(c report.Column) bool { return c.Code == id })
}

// FieldOf returns what the cells of a column are, with names of numbers.
func (p *View) FieldOf(c *report.Column) frame.Field {
	if at := p.Scope.Columns.Index(c.ID); at >= 0 {
		return p.Scope.Columns[at]
	}
	return c.Field()
}

// PlacesOf returns where columns stand in the table; those of groups stand
// nowhere and are left out.
func (p *View) PlacesOf(ids []string) (places []int) {
	for _, id := range ids {
		if at := p.Scope.Columns.Index(id); at >= 0 && !slices.Contains(places, at) {
			places = append(places, at)
		}
	}
	return places
}

// Offer says what was probably meant by a name, or which there are.
func Offer(typed string, known []string) string {
	if near := nearest.Names(typed, known, 2); len(near) > 0 {
		return "did you mean " + nearest.Or(near) + "?"
	}
	return "there are " + nearest.And(known)
}
