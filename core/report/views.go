package report

import (
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
)

func (p *parser) view(id, n *yaml.Node) {
	v := View{Empty: "say"}
	p.id(&v.ID, '_')(id)
	show := "table"
	seen := p.mapping(n, "a view", keys{
		"of":    p.text(&v.Of),
		"show":  p.oneOf(&show, "table"),
		"title": p.text(&v.Title),
		"columns": func(n *yaml.Node) {
			if id, chosen := strings.CutPrefix(n.Value, ":"); chosen {
				v.Chosen = id
				return
			}
			p.texts(&v.Columns)(n)
		},
		"empty": p.oneOf(&v.Empty, "say", "omit"),
		"sort": func(n *yaml.Node) {
			p.items(n, func(item *yaml.Node) { v.Sort = append(v.Sort, SortKey(item.Value)) })
		},
	})
	p.need(n, "the view", seen, "of")
	if v.Title == "" {
		v.Title = titled(v.ID)
	}
	p.def.Views = append(p.def.Views, v)
	p.nodes.views = append(p.nodes.views, n)
}

// SortKey reads a column id with a minus sign before it for descending order.
func SortKey(text string) frame.Key {
	column, descending := strings.CutPrefix(text, "-")
	return frame.Key{Column: column, Descending: descending}
}
