package definition

import (
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/manuscript"
	"mantilla/core/report"
)

func (p *parser) view(id, n *yaml.Node) {
	v := report.View{Empty: "say", Zeros: "show", Names: "names", Open: -1, Rest: "Others"}
	p.id(&v.ID, '_')(id)
	show, open, limit, bins := "table", int64(-1), int64(0), int64(12)
	seen := p.mapping(n, "a view", keys{
		"of":      p.text(&v.Of),
		"show":    p.oneOf(&show, "table", "crosstab", "chart", "timeline", "form"),
		"title":   p.text(&v.Title),
		"says":    p.text(&v.Says),
		"columns": p.chosen(&v.Columns, &v.Chosen),
		"empty":   p.oneOf(&v.Empty, "say", "omit"),
		"zeros":   p.oneOf(&v.Zeros, "show", "omit"),
		"names":   p.oneOf(&v.Names, "names", "codes", "both"),
		"tones":   p.tones(&v.Tones),
		"sort": func(n *yaml.Node) {
			p.items(n, func(item *yaml.Node) { v.Sort = append(v.Sort, report.SortKey(item.Value)) })
		},
		"group":   p.texts(&v.Levels),
		"open":    p.number(&open, 0, 9),
		"limit":   p.number(&limit, 1, 1000),
		"rest":    p.text(&v.Rest),
		"blanks":  p.texts(&v.Blanks),
		"break":   p.flag(&v.Break),
		"down":    p.texts(&v.Down),
		"across":  p.texts(&v.Across),
		"cells":   p.texts(&v.Cells),
		"stacked": p.flag(&v.Stacked),
		"fill":    p.flag(&v.Fill),
		"form":    p.oneOf(&v.Drawn, "bar", "line", "area", "pie", "scatter", "histogram"),
		"by":      p.texts(&v.Levels),
		"measure": p.texts(&v.Cells),
		"x":       p.text(&v.X),
		"y":       p.text(&v.Y),
		"bins":    p.number(&bins, 2, 100),
		"marks":   func(n *yaml.Node) { p.items(n, func(item *yaml.Node) { p.mark(item, &v) }) },
		"start":   p.text(&v.Start),
		"end":     p.text(&v.End),
		"label":   p.text(&v.Label),
	})
	p.need(n, "the view", seen, "of")
	v.Show, v.Open, v.Limit, v.Bins = report.Show(show), int(open), int(limit), int(bins)
	p.needs(n, &v, seen)
	if v.Title == "" {
		v.Title = report.Titled(v.ID)
	}
	p.def.Views = append(p.def.Views, v)
	p.nodes.views = append(p.nodes.views, n)
}

// needs reports what the form of a view wants and lacks.
func (p *parser) needs(n *yaml.Node, v *report.View, seen map[string]*yaml.Node) {
	what := "the " + string(v.Show) + " " + v.ID
	switch v.Show {
	case report.Crosstab:
		p.need(n, what, seen, "down", "across", "cells")
	case report.Timeline:
		p.need(n, what, seen, "start", "end")
	case report.Chart:
		p.need(n, what, seen, "form")
		switch v.Drawn {
		case "scatter":
			p.need(n, what, seen, "x", "y")
		case "histogram":
			p.need(n, what, seen, "x")
		case "":
		default:
			p.need(n, what, seen, "by", "measure")
		}
	}
}

// chosen reads a list, or the parameter that supplies it: ':columns'.
func (p *parser) chosen(list *[]string, parameter *string) func(*yaml.Node) {
	return func(n *yaml.Node) {
		if id, chosen := strings.CutPrefix(n.Value, ":"); chosen {
			*parameter = id
			return
		}
		p.texts(list)(n)
	}
}

func (p *parser) tones(to *[]report.Tone) func(*yaml.Node) {
	return func(n *yaml.Node) {
		p.items(n, func(item *yaml.Node) {
			t := report.Tone{}
			seen := p.mapping(item, "a tone",
				keys{"when": p.text(&t.When), "as": p.oneOf(&t.As, "good", "attention", "alert", "muted", "total")})
			p.need(item, "the tone", seen, "when", "as")
			if when := manuscript.Value(item, "when"); when != nil {
				t.Place = placed(when)
			}
			*to = append(*to, t)
		})
	}
}

func (p *parser) mark(n *yaml.Node, v *report.View) {
	m := report.Mark{Place: placed(n)}
	seen := p.mapping(n, "a mark", keys{"at": p.text(&m.At), "label": p.text(&m.Label)})
	p.need(n, "the mark", seen, "at", "label")
	if at := manuscript.Value(n, "at"); at != nil {
		m.Place = placed(at)
	}
	v.Marks = append(v.Marks, m)
}
