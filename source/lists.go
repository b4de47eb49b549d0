package source

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/core/param"
)

// Declared is the list of that id.
func (c *Config) Declared(id string) (List, error) {
	l, ok := c.Lists[id]
	if !ok {
		return l, fmt.Errorf("source %s has no list %q; it has %s", c.ID, id, nearest.And(c.ListNames()))
	}
	return l, nil
}

// Entries runs a query for entries of a list, and hands on the cells of each row, as texts.
type Entries func(ctx context.Context, text string, args []any, row func(cell func(int) string)) error

// ReadList reads all entries of a declared list.
func ReadList(ctx context.Context, c *Config, d Dialect, id string, run Entries) ([]Item, error) {
	l, err := c.Declared(id)
	if err != nil {
		return nil, err
	}
	text := fmt.Sprintf("%s order by %s %s", l.selected(), l.ordered(), d.Limit(fmt.Sprint(MostItems+1)))
	items, err := l.items(ctx, id, text, nil, run)
	if len(items) > MostItems {
		return nil, fmt.Errorf("source %s, list %s: it has more than %d entries; narrow its from, or let it be large: true",
			c.ID, id, MostItems)
	}
	return items, err
}

func (l List) items(ctx context.Context, id, text string, args []any, run Entries) (items []Item, err error) {
	if err := run(ctx, text, args, func(cell func(int) string) { items = append(items, l.item(cell)) }); err != nil {
		return nil, fmt.Errorf("list %s: %w", id, err)
	}
	return items, nil
}

// ordered is what entries are ordered by; an expression stands there once, since some engines take none twice.
func (l List) ordered() string {
	if l.Order == "" || l.Order == l.Label {
		return l.Label
	}
	return l.Order + ", " + l.Label
}

// narrowing are the fields that other parameters may narrow the list by, in order.
func (l List) narrowing() []string { return slices.Sorted(maps.Keys(l.Fields)) }

// selected is the beginning of a query for entries: the parts of an entry, its scope, and then
// the fields to find and to narrow by.
func (l List) selected() string {
	pieces := []string{l.Code, l.Label, cmp.Or(l.Kind, "''"), cmp.Or(l.Parent, "null"), cmp.Or(l.Detail, "''"),
		cmp.Or(l.Current, "1"), cmp.Or(l.Scope, "null")}
	pieces = append(pieces, l.Find...)
	for _, name := range l.narrowing() {
		pieces = append(pieces, l.Fields[name])
	}
	return fmt.Sprintf("select %s from %s", strings.Join(pieces, ", "), l.From)
}

// item makes an entry of the cells of a row.
func (l List) item(cell func(int) string) Item {
	const fixed = 7
	i := Item{Scope: cell(6), Entry: param.Entry{Code: cell(0), Label: cell(1), Kind: cell(2), Parent: cell(3),
		Detail: cell(4), Current: isYes(cell(5))}}
	for n := range l.Find {
		i.Find = append(i.Find, cell(fixed+n))
	}
	if len(l.Fields) > 0 {
		i.Fields = make(map[string]string, len(l.Fields))
		for n, name := range l.narrowing() {
			i.Fields[name] = cell(fixed + len(l.Find) + n)
		}
	}
	return i
}

// isYes reads how engines write that something is so; no value is no.
func isYes(text string) bool { return text != "" && text != "0" && text != "f" && text != "false" }
