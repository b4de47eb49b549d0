package source

import (
	"cmp"
	"fmt"
	"strings"

	"mantilla/core/param"
)

// SelectList writes the query that gives every entry of a list: the parts of an entry, its
// scope, and then the fields to find and to narrow by. Yes is how the engine writes that
// something is so.
func SelectList(l List, narrowing []string, yes string) string {
	pieces := []string{l.Code, l.Label, cmp.Or(l.Kind, "''"), cmp.Or(l.Parent, "null"), cmp.Or(l.Detail, "''"),
		cmp.Or(l.Current, yes), cmp.Or(l.Scope, "null")}
	pieces = append(pieces, l.Find...)
	for _, name := range narrowing {
		pieces = append(pieces, l.Fields[name])
	}
	return fmt.Sprintf("select %s from %s order by %s, %s limit %d", strings.Join(pieces, ", "), l.From,
		cmp.Or(l.Order, l.Label), l.Label, MostItems+1)
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
