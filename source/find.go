package source

import (
	"context"
	"fmt"
	"slices"
	"strings"
)

// Sought says which entries of a large list are read: those with certain codes, those whose code
// or label is a name, or those that hold every word; at most Limit.
type Sought struct {
	Codes []string
	Name  string
	Words []string

	Cut   bool // only entries whose scope is among the units
	Units []string
	By    map[string][]string // for fields of the list the values that are left
	Limit int
}

// checkLarge says why a list cannot be searched in its source; the words follow the source's name.
func (c *Config) checkLarge(id string) error {
	l := c.Lists[id]
	switch {
	case l.Search != "" && !l.Large:
		return fmt.Errorf("has the list %s with search, which is of lists that are large: true", id)
	case l.Search != "" && !strings.Contains(l.Search, searched):
		return fmt.Errorf("has the list %s whose search does not speak of %s, what was typed", id, searched)
	case l.Large && (l.Parent != "" || c.Units == id):
		return fmt.Errorf("has the list %s as a tree, which is read whole: large is for lists without parent", id)
	}
	return nil
}

// searched is what stands in a list's own search for what was typed.
const searched = ":text"

// FindIn reads the entries of a declared list that are sought, in its order.
func FindIn(ctx context.Context, c *Config, d Dialect, id string, w Sought, run Entries) ([]Item, error) {
	l, err := c.Declared(id)
	if err != nil {
		return nil, err
	}
	text, args := l.sought(d, w)
	return l.items(ctx, id, text, args, run)
}

// sought writes the query that gives the entries that are sought.
func (l List) sought(d Dialect, w Sought) (text string, args []any) {
	var conditions []string
	add := func(condition string) { conditions = append(conditions, "("+condition+")") }
	switch {
	case w.Codes != nil:
		add("(" + l.Code + ") in " + d.Bind(&args, w.Codes))
	case w.Name != "":
		add("(" + l.Code + ") = " + d.Bind(&args, w.Name) + " or (" + l.Label + ") = " + d.Bind(&args, w.Name))
	case l.Search != "" && len(w.Words) > 0:
		parts := strings.Split(l.Search, searched)
		own := parts[0]
		for _, part := range parts[1:] {
			own += d.Bind(&args, strings.Join(w.Words, " ")) + part
		}
		add(own)
	default:
		for _, word := range w.Words {
			var any []string
			for _, piece := range slices.Concat([]string{l.Code, l.Label}, l.Find) {
				any = append(any, d.Holds(&args, piece, word))
			}
			add(strings.Join(any, " or "))
		}
	}
	if w.Cut {
		add("(" + l.Scope + ") in " + d.Bind(&args, w.Units))
	}
	for _, field := range l.narrowing() {
		if left, narrowed := w.By[field]; narrowed {
			add("(" + l.Fields[field] + ") in " + d.Bind(&args, left))
		}
	}
	where := ""
	if len(conditions) > 0 {
		where = " where " + strings.Join(conditions, " and ")
	}
	return fmt.Sprintf("%s%s order by %s %s", l.selected(), where, l.ordered(), d.Limit(fmt.Sprint(w.Limit))), args
}
