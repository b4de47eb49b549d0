package report

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
	"mantilla/core/param"
)

// Behind says which dataset of the report holds the rows that this one's lines
// were grouped of by the source. The columns By have the same ids and kinds in
// both and tell which rows belong to a line; without any, all of them do.
type Behind struct {
	Of string
	By []string `json:",omitempty"`
}

func (p *parser) behind(d *Dataset) func(*yaml.Node) {
	return func(n *yaml.Node) {
		b := Behind{}
		seen := p.mapping(n, "behind", keys{"of": p.text(&b.Of), "by": p.texts(&b.By)})
		p.need(n, "behind", seen, "of")
		d.Behind = &b
	}
}

// checkBehind looks whether every figure of the dataset can be told again of the rows
// behind it.
func (p *parser) checkBehind(d *Dataset, at *yaml.Node) {
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
		if b := to.Column(c.ID); d.isFigure(c) && (b == nil || b.Total == frame.NoTotal && !b.AtGroups) {
			p.fault(at, "%s has the figure %s, which %s cannot be added up to; give %s the column %s with a total, "+
				"or with a formula at: groups", d.ID, c.ID, to.ID, to.ID, c.ID)
		}
	}
}

// OpensBehind tells whether the cells of a column open into rows of the dataset behind.
func (d *Dataset) OpensBehind(c Column) bool {
	return d.Behind != nil && c.Companion == 0 && d.isFigure(c)
}

// isFigure tells whether a column holds what the source computed of several rows.
func (d *Dataset) isFigure(c Column) bool {
	return c.Kind.Numeric() && c.Formula == "" && c.Entry == nil && !slices.Contains(d.Key, c.ID) &&
		!slices.Contains(d.Behind.By, c.ID)
}

// settleBehind leaves what both datasets have for these values.
func (d *Definition) settleBehind() {
	for i := range d.Datasets {
		set := &d.Datasets[i]
		if set.Behind == nil {
			continue
		}
		b, to := *set.Behind, d.Dataset(set.Behind.Of)
		b.By = kept(b.By, func(id *string) bool { return set.Column(*id) != nil && to.Column(*id) != nil })
		set.Behind = &b
	}
}

// linkCompanions lets each figure of a companion period open the report for that
// period alone, with the other values of this run.
func (d *Definition) linkCompanions(values param.Values) {
	for i := range d.Datasets {
		set := &d.Datasets[i]
		v, ok := values.Of(set.Compare)
		if !ok {
			continue
		}
		for n := range v.Companions {
			o := Opens{Report: d.ID}
			for _, q := range d.Parameters {
				f := Fill{Parameter: q.ID, From: ":" + q.ID}
				if q.ID == set.Compare {
					f.Companion = n + 1
				}
				o.With = append(o.With, f)
			}
			for j := range set.Columns {
				if c := &set.Columns[j]; c.Companion == n+1 && !c.changes {
					c.Opens = &o
				}
			}
		}
	}
}
