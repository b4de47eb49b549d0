package sheet

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/report"
	"mantilla/core/table"
)

// prepared is a dataset made ready for a view: the changes are applied, and
// the table has a column for everything that rows are shown, filtered, sorted
// and grouped by.
type prepared struct {
	set     *report.Dataset
	view    *report.View
	setting Setting
	source  table.Table // as the result has it
	rows    table.Table // with a column for everything that is computed of rows
	scope   formula.Scope
	atRows  []report.Calculated
	atAll   []report.Calculated // at groups
	shown   []string            // columns of the sheet
	levels  []level
	down    []level
	across  []level
	filters []Filter
	key     string // tells the selected rows and all formulas apart

	need   map[string]bool    // columns that the view speaks of, and what these are computed from
	extra  []*formula.Formula // what the table has beyond the scope, in its order
	texts  []string           // of these
	places map[string]int     // of these by their text
}

// level is what rows are grouped by, and its place in the table.
type level struct {
	text, label string
	field       frame.Field
	place       int
	code        string // the column that tells namesakes apart, where there are some
}

func prepare(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c Changes,
	setting Setting) (*prepared, error) {
	if err := c.check(); err != nil {
		return nil, err
	}
	p := &prepared{setting: setting, source: rows, places: map[string]int{}}
	set, view := *d, *v
	p.set, p.view = &set, &view
	p.scope = formula.Scope{Given: setting.Given, Calendar: setting.Calendar}
	if err := p.addColumns(c.Add); err != nil {
		return nil, err
	}
	var faults map[string]error
	p.atRows, p.atAll, p.scope, faults = p.set.Calculate(p.scope)
	for id, err := range faults {
		return nil, fmt.Errorf("column %s: %w", id, err)
	}
	if err := p.apply(ctx, c); err != nil {
		return nil, err
	}
	if err := p.choose(); err != nil {
		return nil, err
	}
	for _, text := range c.Filters {
		f, err := p.parseFilter(text)
		if err != nil {
			return nil, &Fault{"filter", err}
		}
		p.filters = append(p.filters, f)
	}
	p.compute()
	return p, nil
}

// apply lays the changes over the view.
func (p *prepared) apply(ctx context.Context, c Changes) error {
	v := p.view
	if c.Columns != nil {
		v.Columns = slices.Clone(c.Columns)
		for _, own := range p.set.Columns[len(p.set.Columns)-len(c.Add):] {
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
			return &Fault{part.name, fmt.Errorf("%q is not allowed here; use %s", part.typed, nearest.Or(part.allowed))}
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
		for _, text := range c.Sort {
			v.Sort = append(v.Sort, report.SortKey(text))
		}
	}
	for to, list := range map[*[]string][]string{&v.Levels: c.Group, &v.Down: c.Down, &v.Across: c.Across,
		&v.Cells: c.Cells} {
		if list != nil {
			*to = slices.DeleteFunc(slices.Clone(list), func(s string) bool { return s == "none" || s == "" })
		}
	}
	if c.Open != nil {
		v.Open = *c.Open
	}
	return p.readLevels(ctx)
}

// readLevels reads what rows are grouped by.
func (p *prepared) readLevels(ctx context.Context) error {
	v := p.view
	if v.Show == report.Crosstab && len(v.Down)+len(v.Across) == 0 {
		v.Down = v.Levels
	}
	for _, part := range []struct {
		name  string
		to    *[]level
		texts []string
	}{{"group", &p.levels, v.Levels}, {"down", &p.down, v.Down}, {"across", &p.across, v.Across}} {
		for _, text := range part.texts {
			l, err := p.level(ctx, text)
			if err != nil {
				return &Fault{part.name, fmt.Errorf("grouping by %s: %w", text, err)}
			}
			*part.to = append(*part.to, l)
		}
	}
	switch v.Show {
	case report.Timeline, report.Form:
		p.levels = nil
	case report.Crosstab:
		p.levels = p.down
	}
	return nil
}

func (p *prepared) level(ctx context.Context, text string) (level, error) {
	f, err := report.Level(text, p.scope)
	if err != nil {
		return level{}, err
	}
	l := level{text: text, label: p.labelOf(text, f), field: f.Field, place: p.place(text, f)}
	if at := p.scope.Columns.Index(text); at >= 0 {
		l.field = p.scope.Columns[at]
	}
	return p.namesakes(ctx, l)
}

// labelOf names a level: its column's label, with the function before it.
func (p *prepared) labelOf(text string, f *formula.Formula) string {
	if c := p.set.Column(text); c != nil {
		return c.Label
	}
	function, _, _ := strings.Cut(text, "(")
	if names := f.Names(); len(names) > 0 {
		if c := p.set.Column(names[0]); c != nil && function != "band" {
			return capitalised(strings.ReplaceAll(function, "_", " ")) + " of " + uncapitalised(c.Label)
		} else if c != nil {
			return c.Label
		}
	}
	return text
}

// place returns where a formula of rows stands in the table; one that is more
// than a column gets a place of its own.
func (p *prepared) place(text string, f *formula.Formula) int {
	if at := p.scope.Columns.Index(text); at >= 0 {
		return at
	}
	at, ok := p.places[text]
	if !ok && p.rows != nil {
		return -1 // the table is made, and has no such column
	}
	if !ok {
		at = len(p.scope.Columns) + len(p.extra)
		p.places[text] = at
		p.extra, p.texts = append(p.extra, f), append(p.texts, text)
	}
	return at
}

// addColumns adds a reader's own columns: a label, = and a formula.
func (p *prepared) addColumns(added []string) error {
	p.set.Columns = slices.Clone(p.set.Columns)
	for _, text := range added {
		label, source, ok := strings.Cut(text, "=")
		label, source = strings.TrimSpace(label), strings.TrimSpace(source)
		if !ok || label == "" || source == "" {
			return &Fault{"add", fmt.Errorf("the column %q is written as a name, = and a formula: Margin = value - cost", text)}
		}
		id := idOf(label)
		if p.set.Column(id) != nil {
			return &Fault{"add", fmt.Errorf("there is a column %q already; choose another name", id)}
		}
		_, _, scope, _ := p.set.Calculate(p.scope)
		f, err := formula.Parse(source, scope)
		if err != nil {
			var wrong *formula.Fault
			if errors.As(err, &wrong) {
				err = &formula.Fault{
					At:      wrong.At + strings.Index(text, source),
					Message: fmt.Sprintf("the column %s, character %d: %s", label, wrong.At+1, wrong.Message),
				}
			}
			return &Fault{"add", err}
		}
		c := report.Column{
			ID:       id,
			Label:    label,
			Kind:     f.Field.Kind,
			Scale:    min(f.Field.Scale, 4),
			Currency: f.Field.Currency,
			Formula:  source,
			AtGroups: f.OfGroups(),
		}
		switch {
		case f.Field.Names != nil:
			c.Kind, c.Scale = frame.Text, 0
		case c.Kind == frame.Money:
			c.Scale = min(c.Scale, p.placesOfMoney(c.Currency))
		}
		if c.Kind.Numeric() && !c.AtGroups {
			c.Total = frame.Sum
		}
		p.set.Columns = append(p.set.Columns, c)
		if len(p.view.Columns) > 0 {
			p.view.Columns = append(slices.Clone(p.view.Columns), id)
		}
	}
	return nil
}

func (p *prepared) placesOfMoney(currency string) int32 {
	for _, c := range p.set.Columns {
		if c.Kind == frame.Money && c.Currency == currency {
			return c.Scale
		}
	}
	return 2
}

// idOf makes a column's id of its label.
func idOf(label string) string {
	id := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '_'
	}, fold.Text(label))
	return "own_" + strings.Trim(id, "_")
}

// choose settles the columns shown.
func (p *prepared) choose() error {
	var ids []string
	for _, c := range p.set.Columns {
		ids = append(ids, c.ID)
	}
	for _, part := range []struct {
		name string
		list []string
	}{{"columns", p.view.Columns}, {"cells", p.view.Cells}} {
		for _, id := range part.list {
			if !slices.Contains(ids, id) {
				return &Fault{part.name, fmt.Errorf("there is no column %q; %s", id, offer(id, ids))}
			}
		}
	}
	for _, k := range p.view.Sort {
		if !slices.Contains(ids, k.Column) && !slices.Contains(p.view.Levels, k.Column) &&
			!slices.Contains(p.view.Down, k.Column) {
			return &Fault{"sort", fmt.Errorf("there is no column %q to sort by; %s", k.Column, offer(k.Column, ids))}
		}
	}
	wanted := p.view.Columns
	if len(wanted) == 0 {
		wanted = slices.DeleteFunc(ids, p.isCode)
	}
	for _, id := range wanted {
		if p.view.Show == report.Table && slices.Contains(p.view.Levels, id) {
			continue // stands in the groups
		}
		c := p.set.Column(id)
		if c.Code == "" || p.view.Names == "names" || p.set.Column(c.Code) == nil {
			p.shown = append(p.shown, id)
			continue
		}
		p.shown = append(p.shown, c.Code)
		if p.view.Names == "both" {
			p.shown = append(p.shown, id)
		}
	}
	return nil
}

// isCode tells whether a column is there for the codes of another.
func (p *prepared) isCode(id string) bool {
	return slices.ContainsFunc(p.set.Columns, func(c report.Column) bool { return c.Code == id })
}

// fieldOf returns what the cells of a column are, with names of numbers.
func (p *prepared) fieldOf(c *report.Column) frame.Field {
	if at := p.scope.Columns.Index(c.ID); at >= 0 {
		return p.scope.Columns[at]
	}
	return c.Field()
}

// placesOf returns where columns stand in the table; those of groups stand
// nowhere and are left out.
func (p *prepared) placesOf(ids []string) (places []int) {
	for _, id := range ids {
		if at := p.scope.Columns.Index(id); at >= 0 && !slices.Contains(places, at) {
			places = append(places, at)
		}
	}
	return places
}
