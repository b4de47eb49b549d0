package source

import (
	"cmp"
	"fmt"
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

// Bounded fails where a list has more entries than it may have.
func (c *Config) Bounded(id string, items []Item) error {
	if len(items) > MostItems {
		return fmt.Errorf("source %s, list %s: it has more than %d entries; narrow its from, or let it be large: true",
			c.ID, id, MostItems)
	}
	return nil
}

// SelectList writes the query that gives every entry of a list: the parts of an entry, its
// scope, and then the fields to find and to narrow by. Yes is how the engine writes that
// something is so.
func SelectList(l List, narrowing []string, yes string) string {
	return fmt.Sprintf("%s order by %s, %s limit %d", selected(l, narrowing, yes), cmp.Or(l.Order, l.Label), l.Label,
		MostItems+1)
}

// selected is the beginning of a query for entries of a list.
func selected(l List, narrowing []string, yes string) string {
	pieces := []string{l.Code, l.Label, cmp.Or(l.Kind, "''"), cmp.Or(l.Parent, "null"), cmp.Or(l.Detail, "''"),
		cmp.Or(l.Current, yes), cmp.Or(l.Scope, "null")}
	pieces = append(pieces, l.Find...)
	for _, name := range narrowing {
		pieces = append(pieces, l.Fields[name])
	}
	return fmt.Sprintf("select %s from %s", strings.Join(pieces, ", "), l.From)
}

// ItemOf makes an entry of the cells of a row that [SelectList] asks for, as texts; find is how
// many fields find it.
func ItemOf(cell func(int) string, find int, narrowing []string) Item {
	const fixed = 7
	i := Item{Scope: cell(6), Entry: param.Entry{Code: cell(0), Label: cell(1), Kind: cell(2), Parent: cell(3),
		Detail: cell(4), Current: isYes(cell(5))}}
	for n := range find {
		i.Find = append(i.Find, cell(fixed+n))
	}
	if len(narrowing) > 0 {
		i.Fields = make(map[string]string, len(narrowing))
		for n, name := range narrowing {
			i.Fields[name] = cell(fixed + find + n)
		}
	}
	return i
}

// isYes reads how engines write that something is so; no value is no.
func isYes(text string) bool { return text != "" && text != "0" && text != "f" && text != "false" }
