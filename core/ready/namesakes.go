package ready

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/table"
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
func (p *View) namesakes(ctx context.Context, l Level) (Level, error) {
	c := p.Set.Column(l.Text)
	if c == nil || c.Code == "" || c.Kind != frame.Text {
		return l, nil
	}
	name, code := p.Scope.Columns.Index(c.ID), p.Scope.Columns.Index(c.Code)
	if kept := len(p.Set.Kept()); name < 0 || code < 0 || name >= kept || code >= kept {
		return l, nil
	}
	shared, err := p.shared(ctx, name, code)
	if err != nil {
		return l, err
	}
	if len(shared) == 0 {
		return l, nil
	}
	text := fmt.Sprintf("%s || '%s' || %s", c.ID, between, c.Code)
	if len(shared) <= mostNamesakes {
		text = fmt.Sprintf("case when %s in (%s) then %s else %s end", c.ID, strings.Join(shared, ", "), text, c.ID)
	}
	f, err := report.Level(text, p.Scope)
	if err != nil {
		return l, err
	}
	l.Place, l.code = p.place(text, f), c.Code
	return l, nil
}

// names are texts that can be kept.
type names []string

// Bytes returns how much memory the texts take.
func (n names) Bytes() (bytes int) {
	for _, text := range n {
		bytes += 16 + len(text)
	}
	return bytes
}

// shared returns the names, as formulas have them, that stand for several codes.
func (p *View) shared(ctx context.Context, name, code int) (names, error) {
	kept, err := p.Setting.Cache.Get(fmt.Sprintf("namesakes/%s/%d/%d", p.Set.ID, name, code), func() (table.Sized, error) {
		groups, err := p.source.Groups(ctx, table.Where{}, []int{name, code}, nil)
		if err != nil {
			return nil, err
		}
		var shared names
		for g, of := 0, &groups.Levels[1]; g < of.Len(); g++ {
			if of.Children[g+1]-of.Children[g] > 1 && !of.Keys.Null(g) {
				shared = append(shared, "'"+strings.ReplaceAll(of.Keys.Text(g), "'", "''")+"'")
			}
		}
		return shared, nil
	})
	if err != nil {
		return nil, err
	}
	return kept.(names), nil
}

// Named is what selects a group's rows: the column and the value of a filter.
// Of a namesake it is the code.
func (l Level) Named(v frame.Value) (column, value string) {
	if l.code != "" && !v.Null {
		if at := strings.LastIndex(v.Text, between); at >= 0 {
			return l.code, ask.Quoted(v.Text[at+len(between):])
		}
	}
	return l.Text, valueIn(v)
}
