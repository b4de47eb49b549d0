// Package starter writes the text of a new definition: from columns of a table, with
// what their names and first values tell of them, or from nothing. What it writes is
// right as it stands, and is there to be changed.
package starter

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
)

// Column is a column of a table that the report is to show.
type Column struct {
	Name   string
	Type   string // as the source declares it
	Key    bool   // part of what tells a row from all others
	List   string // declared list whose codes it holds; "" for none
	Large  bool   // the list is searched rather than chosen from
	Values []string
}

// Wish is what a definition is to be of.
type Wish struct {
	Report, Title, Category string
	Source, Table           string
	Columns                 []Column
	Many                    bool                // the table has so many rows that days have to be chosen
	Units                   string              // the list of the organisation's units; "" for none
	Shared                  map[string]Shared   // shared parameters, by the list that they choose from
	Quote                   func(string) string // writes a name as the source wants it
}

// Shared is a parameter that is declared for the whole catalog.
type Shared struct {
	ID   string
	Many bool // several entries may be chosen
}

// Text writes the definition of a report that shows the columns.
func Text(w Wish) string {
	t := writer{wish: w}
	t.settle()
	t.head()
	t.parameters()
	t.dataset()
	t.views()
	return t.out.String()
}

// Empty writes the keys that every definition needs, to be filled in.
func Empty(report, title, category, source string) string {
	return fmt.Sprintf(`report: %s
title: %s
category: %s
depth: lines
about: What the report is for, in one sentence.
source: %s
parameters: []
datasets:
  rows:
    from: TABLE
    columns:
      - {id: code, is: TABLE.COLUMN, type: text}
views:
  rows: {of: rows}
`, report, scalar(title), scalar(category), source)
}

// writer writes one definition.
type writer struct {
	wish    Wish
	columns []column
	out     strings.Builder
}

// column is a column with what was found out about it.
type column struct {
	Column
	kind
	id, is string
	shared Shared // the parameter that it is offered; the first column of a list has it
}

func (t *writer) settle() {
	taken, used := map[string]bool{}, map[string]bool{}
	for _, c := range t.wish.Columns {
		found := column{Column: c, kind: kindOf(c), is: t.name(t.wish.Table) + "." + t.name(c.Name)}
		base := idOf(c.Name, found.of)
		found.id = base
		for n := 2; taken[found.id]; n++ {
			found.id = fmt.Sprintf("%s_%d", base, n)
		}
		taken[found.id] = true
		if shared, ok := t.wish.Shared[c.List]; ok && !used[shared.ID] {
			found.shared, used[shared.ID] = shared, true
		} else if ok {
			found.List = ""
		}
		t.columns = append(t.columns, found)
	}
}

// name writes a name of the source, quoted where it needs to be.
func (t *writer) name(name string) string {
	if plain.MatchString(name) && !slices.Contains(reserved, strings.ToLower(name)) {
		return name
	}
	return t.wish.Quote(name)
}

func (t *writer) line(format string, args ...any) { fmt.Fprintf(&t.out, format+"\n", args...) }

func (t *writer) head() {
	w := t.wish
	t.line("report: %s", w.Report)
	t.line("title: %s", scalar(w.Title))
	t.line("category: %s", scalar(w.Category))
	t.line("depth: lines")
	t.line("about: %s", scalar("Rows of "+w.Table+". Say here what they are for."))
	t.line("source: %s", w.Source)
}

// parameters offers a range for each column of days, the first of them needed where
// there are many rows, and the list of each column that holds codes of one.
func (t *writer) parameters() {
	var lines []string
	for _, c := range t.columns {
		if c.shared.ID != "" {
			lines = append(lines, fmt.Sprintf("  - {use: %s}", c.shared.ID))
		} else if p := t.parameter(c); p != "" {
			lines = append(lines, "  - {"+p+"}")
		}
	}
	if len(lines) > 0 {
		t.line("parameters:\n%s", strings.Join(lines, "\n"))
	}
}

func (t *writer) parameter(c column) string {
	named := fmt.Sprintf("id: %s, label: %s", c.id, scalar(labelOf(c.Name, c.of)))
	switch {
	case c.days() && t.wish.Many && t.first(c):
		return named + ", type: range, required: true, default: last month"
	case c.days():
		return named + ", type: range"
	case c.List == "":
		return ""
	case c.List == t.wish.Units:
		return named + ", type: unit, many: true, from: " + c.List
	case c.Large:
		return named + ", type: entity, many: true, from: " + c.List
	}
	return named + ", type: choice, many: true, from: " + c.List
}

// first tells whether a column is the first of days.
func (t *writer) first(c column) bool {
	i := slices.IndexFunc(t.columns, column.days)
	return i >= 0 && t.columns[i].id == c.id
}

// chooses is the id of the parameter that a column is offered; "" for none.
func (t *writer) chooses(c column) string {
	if c.shared.ID != "" {
		return c.shared.ID
	}
	if c.days() || c.List != "" {
		return c.id
	}
	return ""
}

func (t *writer) dataset() {
	t.line("datasets:\n  rows:\n    from: %s", scalar(t.name(t.wish.Table)))
	var where []string
	scope := ""
	for _, c := range t.columns {
		id := t.chooses(c)
		switch {
		case c.of == frame.Timestamp:
			where = append(where, fmt.Sprintf("      - {is: %s, within: %s, as: moments}", scalar(c.is), id))
		case c.of == frame.Date:
			where = append(where, fmt.Sprintf("      - {is: %s, within: %s}", scalar(c.is), id))
		case c.shared.ID != "" && !c.shared.Many:
			where = append(where, "      - "+scalar(c.is+" = :"+id))
		case id != "":
			where = append(where, "      - "+scalar(c.is+" in :"+id))
		}
		if c.List != "" && c.List == t.wish.Units && scope == "" {
			scope = c.is
		}
	}
	if len(where) > 0 {
		t.line("    where:\n%s", strings.Join(where, "\n"))
	}
	if scope != "" {
		t.line("    scope: %s", scalar(scope))
	}
	if keys := t.keys(); len(keys) > 0 {
		t.line("    key: [%s]", strings.Join(keys, ", "))
	}
	t.line("    columns:")
	for _, c := range t.columns {
		t.line("      - {id: %s, is: %s, %s, label: %s%s}", c.id, scalar(c.is), c.said(),
			scalar(labelOf(c.Name, c.of)), c.total())
	}
}

func (t *writer) keys() (ids []string) {
	for _, c := range t.columns {
		if c.Key {
			ids = append(ids, c.id)
		}
	}
	return ids
}

// views are the rows, by their key or the newest first, and sums by the first column of codes.
func (t *writer) views() {
	var ids []string
	sort := ""
	if keys := t.keys(); len(keys) > 0 {
		sort = ", sort: [" + strings.Join(keys, ", ") + "]"
	}
	for _, c := range t.columns {
		ids = append(ids, c.id)
		if c.days() && t.wish.Many && t.first(c) {
			sort = ", sort: [-" + c.id + "]"
		}
	}
	t.line("views:\n  rows: {title: %s, of: rows, columns: [%s]%s}", scalar(titleOf(t.wish.Table)),
		strings.Join(ids, ", "), sort)
	summed := slices.ContainsFunc(t.columns, func(c column) bool { return c.total() != "" })
	for _, c := range t.columns {
		if summed && (c.List != "" && !c.Large || c.of == frame.Text && !c.Key && few(c.Values)) {
			t.line("  by_%s: {title: %s, of: rows, group: [%s]}", c.id,
				scalar("By "+strings.ToLower(labelOf(c.Name, c.of))), c.id)
			break
		}
	}
	t.line("page: [rows]")
}
