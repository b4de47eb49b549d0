package drafting

import (
	"context"
	"maps"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/manuscript"
	"mantilla/core/report"
	"mantilla/core/starter"
	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/source"
)

// Table is a table of a source with the reports that read it.
type Table struct {
	source.Table
	Lists  map[string]string // by column: the declared list that is made of it
	UsedBy []string
	ReadBy map[string][]string // by column: the reports that speak of it
}

// Tables are those tables of a source whose name or a column's has a text in it.
func (a *Access) Tables(ctx context.Context, id, search string) ([]Table, error) {
	src, err := a.source(id)
	if err != nil {
		return nil, err
	}
	all, err := src.Tables(ctx)
	if err != nil {
		return nil, err
	}
	present := a.room.catalog.Present()
	out := []Table{}
	for _, t := range all {
		if !found(t, fold.Text(search)) {
			continue
		}
		looked := Table{Table: t, UsedBy: []string{}, Lists: map[string]string{}, ReadBy: map[string][]string{}}
		for _, c := range t.Columns {
			if list := listOf(src.Config, t, c); list != "" {
				looked.Lists[c.Name] = list
			}
		}
		for _, id := range slices.Sorted(maps.Keys(present)) {
			d := present[id]
			if d.Source != src.Config.ID || !reads(d, t.Name, "") {
				continue
			}
			looked.UsedBy = append(looked.UsedBy, id)
			for _, c := range t.Columns {
				if reads(d, t.Name, c.Name) {
					looked.ReadBy[c.Name] = append(looked.ReadBy[c.Name], id)
				}
			}
		}
		out = append(out, looked)
	}
	return out, nil
}

func (a *Access) source(id string) (catalog.Source, error) {
	if err := a.May(access.SeeSources); err != nil {
		return catalog.Source{}, err
	}
	return a.room.catalog.Source(id)
}

func found(t source.Table, search string) bool {
	return strings.Contains(fold.Text(t.Name), search) || slices.ContainsFunc(t.Columns, func(c source.TableColumn) bool {
		return strings.Contains(fold.Text(c.Name), search)
	})
}

// reads tells whether a dataset of a report reads a table and, where one is named, its
// column.
func reads(d *report.Definition, table, column string) bool {
	for i := range d.Datasets {
		if set := &d.Datasets[i]; set.From.Speaks(table) && (column == "" || set.Reads(column)) {
			return true
		}
	}
	return false
}

// listOf is the declared list whose codes a column holds: one made of the table that
// it is a key of, or of the column itself.
func listOf(config *source.Config, t source.Table, c source.TableColumn) string {
	for _, id := range config.ListNames() {
		l := config.Lists[id]
		code := l.Code[strings.LastIndex(l.Code, ".")+1:]
		first, _, _ := strings.Cut(strings.TrimSpace(l.From), " ")
		switch {
		case c.References != "" && first == c.References:
			return id
		case first != t.Name && report.Word(l.From, t.Name) && code == c.Name && strings.HasPrefix(l.From, "("):
			return id
		}
	}
	return ""
}

// Sample is the first rows of a table.
func (a *Access) Sample(ctx context.Context, id, table string, rows int) (source.Sample, error) {
	src, err := a.source(id)
	if err != nil {
		return source.Sample{}, err
	}
	return src.Sample(ctx, table, rows)
}

// Beginning is what a new draft begins from: columns of a table, another report, or
// nothing where neither is named.
type Beginning struct {
	Report, Title, Category string // of the new report
	Source, Table           string
	Columns                 []string // of the table; none for all
	Copy                    string   // the report to begin from
	View                    string   // a kept view to begin from, as V-12
}

// manyRows is how many rows a table may have to be read as a whole.
const manyRows = 10_000

// sampled is how many rows are looked at to tell what a column holds.
const sampled = 500

// Begin makes a draft from a beginning.
func (a *Access) Begin(ctx context.Context, b Beginning) (model.Draft, error) {
	if err := a.May(access.Write); err != nil {
		return model.Draft{}, err
	}
	if b.View != "" {
		return a.viewed(ctx, b)
	}
	if b.Copy != "" {
		return a.copied(ctx, b)
	}
	if b.Report == "" {
		b.Report = idOf(b.Title)
	}
	if b.Title == "" {
		b.Title = b.Report
	}
	if b.Category == "" {
		b.Category = "New reports"
	}
	if b.Table == "" {
		return a.add(ctx, starter.Empty(b.Report, b.Title, b.Category, b.Source), "")
	}
	text, err := a.fromTable(ctx, b)
	if err != nil {
		return model.Draft{}, err
	}
	return a.add(ctx, text, "")
}

// copied begins from a report: from its own text where nothing else is named, so that
// the draft is a change of it, or under another id and title.
func (a *Access) copied(ctx context.Context, b Beginning) (model.Draft, error) {
	d, err := a.catalog.Report(b.Copy)
	if err != nil {
		return model.Draft{}, err
	}
	if b.Report == "" || b.Report == d.ID {
		return a.add(ctx, d.Text, d.Version)
	}
	return a.add(ctx, manuscript.Renamed(d.Text, b.Report, b.Title), "")
}

// viewed begins a new report that opens with a view as somebody kept it.
func (a *Access) viewed(ctx context.Context, b Beginning) (model.Draft, error) {
	number, ok := reading.KeptNumber(b.View)
	if !ok {
		return model.Draft{}, model.Refuse("view", "%q is no kept view; name it as V-12", b.View)
	}
	v, err := a.reading.Kept(ctx, number)
	if err != nil {
		return model.Draft{}, err
	}
	d, err := a.catalog.Report(v.Report)
	if err != nil {
		return model.Draft{}, err
	}
	base := reading.ViewOf(d, v.Base)
	if base == nil {
		return model.Draft{}, model.Refuse("view", "%s is of the view %s, which %s has no more", v.Name, v.Base, d.Title)
	}
	if b.Title == "" {
		b.Title = v.Name
	}
	if b.Report == "" {
		b.Report = idOf(b.Title)
	}
	if b.Report == d.ID {
		b.Report += "-view"
	}
	set := d.Dataset(base.Of)
	changes, _ := v.Changes.Fit(set, base, v.Seen)
	given := func(text string) (frame.Field, bool, error) {
		_, _, scope, _ := set.Calculate(formula.Scope{Given: d.Given(nil, a.Calendar().Today), Calendar: a.Calendar()})
		f, err := formula.Parse(text, scope)
		if err != nil {
			return frame.Field{}, false, err
		}
		return f.Field, f.OfGroups(), nil
	}
	text, err := starter.FromView(d.Text,
		starter.View{Report: b.Report, Title: b.Title, Of: set, Base: v.Base, Name: v.Name,
			Changes: changes, Given: given})
	if err != nil {
		return model.Draft{}, err
	}
	return a.add(ctx, text, "")
}

// idOf makes a report's id of its title.
func idOf(title string) string {
	id := strings.Join(strings.FieldsFunc(fold.Text(title), func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < '0' || r > '9')
	}), "-")
	id = strings.TrimLeft(id, "0123456789-")
	if id == "" {
		return "new-report"
	}
	return id
}

func (a *Access) fromTable(ctx context.Context, b Beginning) (string, error) {
	src, err := a.source(b.Source)
	if err != nil {
		return "", err
	}
	tables, err := src.Tables(ctx)
	if err != nil {
		return "", err
	}
	at := slices.IndexFunc(tables, func(t source.Table) bool { return t.Name == b.Table })
	if at < 0 {
		var names []string
		for _, t := range tables {
			names = append(names, t.Name)
		}
		return "", model.NoSuch("table", b.Table, names)
	}
	sample, err := src.Sample(ctx, b.Table, sampled)
	if err != nil {
		return "", err
	}
	columns, err := a.chosen(ctx, src, tables[at], b.Columns, sample)
	if err != nil {
		return "", err
	}
	return starter.Text(starter.Wish{Report: b.Report, Title: b.Title, Category: b.Category, Source: b.Source,
		Table: b.Table, Columns: columns, Many: tables[at].Rows < 0 && !tables[at].View || tables[at].Rows > manyRows,
		Units: src.Config.Units, Shared: a.sharedLists(),
		Quote: src.Dialect().Name}), nil
}

// sharedLists are the shared parameters by the lists that they choose from.
func (a *Access) sharedLists() map[string]starter.Shared {
	lists := map[string]starter.Shared{}
	for _, id := range a.catalog.SharedIDs() {
		list, many := a.catalog.SharedChoice(id)
		if _, known := lists[list]; list != "" && !known {
			lists[list] = starter.Shared{ID: id, Many: many}
		}
	}
	return lists
}

// fewEntries is how many entries a list may have to be chosen from rather than searched.
const fewEntries = 60

func (a *Access) chosen(ctx context.Context, src catalog.Source, t source.Table, names []string,
	sample source.Sample) (out []starter.Column, err error) {
	units, err := unitsOf(ctx, src)
	if err != nil {
		return nil, err
	}
	var known []string
	for _, c := range t.Columns {
		known = append(known, c.Name)
	}
	if len(names) == 0 {
		names = known
	}
	for _, name := range names {
		at := slices.Index(known, name)
		if at < 0 {
			return nil, model.NoSuch("column", name, known)
		}
		c := t.Columns[at]
		column := starter.Column{Name: name, Type: c.Type, Key: c.Key, List: listOf(src.Config, t, c)}
		for _, row := range sample.Rows {
			if cell := row[slices.Index(sample.Columns, name)]; cell != nil {
				column.Values = append(column.Values, *cell)
			}
		}
		if column.List == "" && units.hold(column.Values) {
			column.List = src.Config.Units
		}
		if column.Large = src.Config.Lists[column.List].Large; column.List != "" && !column.Large &&
			column.List != src.Config.Units {
			entries, err := src.List(ctx, column.List)
			if err != nil {
				return nil, err
			}
			column.Large = len(entries) > fewEntries
		}
		out = append(out, column)
	}
	return out, nil
}

// codes are those of a list.
type codes map[string]bool

func unitsOf(ctx context.Context, src catalog.Source) (codes, error) {
	if src.Config.Units == "" {
		return nil, nil
	}
	entries, err := src.List(ctx, src.Config.Units)
	known := codes{}
	for _, e := range entries {
		known[e.Code] = true
	}
	return known, err
}

// hold tells whether values are all codes of the list.
func (c codes) hold(values []string) bool {
	return len(values) > 0 && !slices.ContainsFunc(values, func(v string) bool { return !c[v] })
}
