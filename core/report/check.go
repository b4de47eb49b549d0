package report

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"mantilla/core/param"
)

// check looks at how the parts of a definition fit together.
func (p *parser) check(root *yaml.Node) {
	used := map[string]bool{}
	p.checkParameters()
	for i := range p.def.Datasets {
		p.checkDataset(&p.def.Datasets[i], used)
	}
	for i, v := range p.def.Views {
		p.checkView(v, p.nodes.views[i])
	}
	for i, q := range p.def.Parameters {
		if q.ID != "" && !used[q.ID] {
			p.fault(p.nodes.parameters[i], "parameter %s is not used by any dataset", q.ID)
		}
	}
	for i, id := range p.def.Page {
		if p.def.View(id) == nil && i < len(p.nodes.page) {
			p.fault(p.nodes.page[i], "the page names the view %q, which does not exist%s", id, meant(id, p.viewIDs()))
		}
	}
	if len(p.def.Page) == 0 {
		p.def.Page = p.viewIDs()
	}
}

func (p *parser) viewIDs() (ids []string) {
	for _, v := range p.def.Views {
		ids = append(ids, v.ID)
	}
	return ids
}

func (p *parser) parameterIDs() (ids []string) {
	for _, q := range p.def.Parameters {
		ids = append(ids, q.ID)
	}
	return ids
}

func (p *parser) checkParameters() {
	for i, id := range p.parameterIDs() {
		if slices.Index(p.parameterIDs(), id) < i {
			p.fault(p.nodes.parameters[i], "the parameter %q is declared twice", id)
		}
	}
}

func (p *parser) checkDataset(d *Dataset, used map[string]bool) {
	pieces := slices.Concat([]Piece{d.From}, d.Where, d.Group)
	for _, c := range d.Columns {
		pieces = append(pieces, c.Is)
		if c.Opens != nil {
			p.checkOpens(d, c)
		}
	}
	for _, piece := range pieces {
		at := &yaml.Node{Line: piece.Line, Column: piece.Col}
		for _, r := range References(piece.SQL) {
			used[r.Parameter] = true
			q := p.def.Parameter(r.Parameter)
			switch {
			case q == nil:
				p.fault(at, "the SQL speaks of :%s, which is not a parameter%s", r.Parameter, meant(r.Parameter, p.parameterIDs()))
			case q.Type == param.Range && r.Part != "start" && r.Part != "end":
				p.fault(at, ":%s is a range; write :%s.start or :%s.end", r, r.Parameter, r.Parameter)
			case q.Type != param.Range && r.Part != "":
				p.fault(at, ":%s is a %s and has no part %q", r.Parameter, q.Type, r.Part)
			}
		}
	}
}

func (p *parser) checkOpens(d *Dataset, c Column) {
	at := &yaml.Node{Line: c.Is.Line, Column: c.Is.Col}
	for _, f := range c.Opens.With {
		if f.From != "" && f.From[0] == ':' {
			if p.def.Parameter(f.From[1:]) == nil {
				p.fault(at, "column %s opens a report with %s, which is not a parameter%s", c.ID, f.From, meant(f.From[1:], p.parameterIDs()))
			}
			continue
		}
		if d.Column(f.From) == nil {
			p.fault(at, "column %s opens a report with %q, which is not a column of %s%s", c.ID, f.From, d.ID, meant(f.From, columnIDs(d)))
		}
	}
}

func (p *parser) checkView(v View, at *yaml.Node) {
	if v.Of == "" {
		return
	}
	d := p.def.Dataset(v.Of)
	if d == nil {
		var ids []string
		for _, d := range p.def.Datasets {
			ids = append(ids, d.ID)
		}
		p.fault(at, "view %s is of the dataset %q, which does not exist%s", v.ID, v.Of, meant(v.Of, ids))
		return
	}
	for _, id := range v.Columns {
		if d.Column(id) == nil {
			p.fault(at, "view %s shows the column %q, which dataset %s does not have%s", v.ID, id, d.ID, meant(id, columnIDs(d)))
		}
	}
	for _, k := range v.Sort {
		if d.Column(k.Column) == nil {
			p.fault(at, "view %s sorts by the column %q, which dataset %s does not have%s", v.ID, k.Column, d.ID, meant(k.Column, columnIDs(d)))
		}
	}
}
