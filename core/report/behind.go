package report

import (
	"slices"

	"mantilla/core/param"
)

// Behind says which dataset of the report holds the rows that this one's lines
// were grouped of by the source. The columns By have the same ids and kinds in
// both and tell which rows belong to a line; without any, all of them do.
type Behind struct {
	Of string
	By []string `json:",omitempty"`
}

// OpensBehind tells whether the cells of a column open into rows of the dataset behind.
func (d *Dataset) OpensBehind(c Column) bool {
	return d.Behind != nil && c.Companion == 0 && d.IsFigure(c)
}

// IsFigure tells whether a column holds what the source computed of several rows.
func (d *Dataset) IsFigure(c Column) bool {
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
