package definition

import (
	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
	"mantilla/core/report"
)

func (p *parser) behind(d *report.Dataset) func(*yaml.Node) {
	return func(n *yaml.Node) {
		b := report.Behind{}
		seen := p.mapping(n, "behind", keys{"of": p.text(&b.Of), "by": p.texts(&b.By)})
		p.need(n, "behind", seen, "of")
		d.Behind = &b
	}
}

// checkBehind looks whether every figure of the dataset can be told again of the rows
// behind it.
func (p *parser) checkBehind(d *report.Dataset, at *yaml.Node) {
	if d.Behind == nil {
		return
	}
	to := p.def.Dataset(d.Behind.Of)
	switch {
	case to == nil || to == d:
		var others []string
		for i := range p.def.Datasets {
			if id := p.def.Datasets[i].ID; id != d.ID {
				others = append(others, id)
			}
		}
		p.unknown(at, "dataset", d.Behind.Of, "the rows behind %s are to be in the dataset %q, which is none of the others%s",
			d.ID, d.Behind.Of, meant(d.Behind.Of, others))
		return
	case to.Behind != nil:
		p.fault(at, "the rows behind %s are to be in %s, which has rows of another dataset behind it", d.ID, to.ID)
		return
	}
	for _, id := range d.Behind.By {
		a, b := d.Column(id), to.Column(id)
		switch {
		case a == nil:
			p.noColumn(at, d, id, "the rows behind it are found by")
		case b == nil:
			p.noColumn(at, to, id, "the rows behind "+d.ID+" are found by")
		case a.Kind != b.Kind:
			p.fault(at, "column %s holds %s in %s and %s in %s; what rows are found by is of one kind", id, a.Kind, d.ID,
				b.Kind, to.ID)
		}
	}
	for _, c := range d.Columns {
		if b := to.Column(c.ID); d.IsFigure(c) && (b == nil || b.Total == frame.NoTotal && !b.AtGroups) {
			p.fault(at, "%s has the figure %s, which %s cannot be added up to; give %s the column %s with a total, "+
				"or with a formula at: groups", d.ID, c.ID, to.ID, to.ID, c.ID)
		}
	}
}
