package sheet

import (
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// between stands between a name and the code that tells it from another of the
// same name.
const between = " · "

// mostNamesakes is how many names are told apart one by one; where there are
// more, all names have their codes.
const mostNamesakes = 200

// namesakes makes a level of names tell apart what has another code: two people
// of one name are two groups, called by name and code. Names that are alone
// stay as they are.
func (p *prepared) namesakes(l level) (level, error) {
	c := p.set.Column(l.text)
	if c == nil || c.Code == "" || c.Kind != frame.Text {
		return l, nil
	}
	name, code := p.scope.Columns.Index(c.ID), p.scope.Columns.Index(c.Code)
	if kept := len(p.set.Kept()); name < 0 || code < 0 || name >= kept || code >= kept {
		return l, nil
	}
	groups, err := p.source.Group(nil, []int{name, code})
	if err != nil {
		return l, err
	}
	var shared []string
	for g, names := 0, &groups.Levels[1]; g < names.Len(); g++ {
		if names.Children[g+1]-names.Children[g] > 1 && !names.Keys.Null(g) {
			shared = append(shared, "'"+strings.ReplaceAll(names.Keys.Text(g), "'", "''")+"'")
		}
	}
	if len(shared) == 0 {
		return l, nil
	}
	text := fmt.Sprintf("%s || '%s' || %s", c.ID, between, c.Code)
	if len(shared) <= mostNamesakes {
		text = fmt.Sprintf("case when %s in (%s) then %s else %s end", c.ID, strings.Join(shared, ", "), text, c.ID)
	}
	f, err := report.Level(text, p.scope)
	if err != nil {
		return l, err
	}
	l.place, l.code = p.place(text, f), c.Code
	return l, nil
}

// named is what selects a group's rows: the column and the value of a filter.
// Of a namesake it is the code.
func (l level) named(v frame.Value) (column, value string) {
	if l.code != "" && !v.Null {
		if at := strings.LastIndex(v.Text, between); at >= 0 {
			return l.code, quoted(v.Text[at+len(between):])
		}
	}
	return l.text, valueIn(v)
}
