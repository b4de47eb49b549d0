package report

import (
	"fmt"
	"slices"
	"strings"

	"mantilla/core/expr"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
)

// Settle returns the definition as the values decide it: switched pieces are
// chosen, grouping and columns are those that were picked, and datasets that
// are compared have their further columns. Only codes and names of the values
// are looked at, so no source is needed.
func (d *Definition) Settle(values param.Values) *Definition {
	s := *d
	s.Datasets = make([]Dataset, len(d.Datasets))
	for i := range d.Datasets {
		s.Datasets[i] = d.Datasets[i].settle(values)
	}
	s.Views = make([]View, len(d.Views))
	for i, v := range d.Views {
		s.Views[i] = v.settle(s.Dataset(v.Of), values)
	}
	s.settleBehind()
	s.linkCompanions(values)
	return &s
}

// mostWays bounds how many ways to settle a definition are looked at.
const mostWays = 64

// Ways settles the definition for each entry of each parameter that switches
// its pieces, in turn, beside the given values; so that all of its SQL can be
// checked without trying every combination.
func (d *Definition) Ways(values param.Values) (ways []*Definition) {
	ways = append(ways, d.Settle(values))
	for i, v := range values {
		var codes []string
		for _, o := range v.Parameter.Options {
			codes = append(codes, o.Code)
		}
		switch v.Parameter.Type {
		case param.Grouping:
			codes = []string{strings.Join(codes, "; ")} // all levels at once
		case param.Choice:
		default:
			continue
		}
		for _, code := range codes {
			if len(ways) == mostWays {
				return ways
			}
			other := slices.Clone(values)
			other[i] = param.Recall([]param.Parameter{*v.Parameter}, map[string]string{v.Parameter.ID: code},
				period.Calendar{})[0]
			ways = append(ways, d.Settle(other))
		}
	}
	return ways
}

// pick returns the SQL that stands, and whether any does.
func (p Piece) pick(values param.Values) (string, bool) {
	if p.By == "" {
		return p.SQL, true
	}
	chosen := []string{"none", "else"}
	if v, ok := values.Of(p.By); ok && v.Given {
		chosen = []string{v.Resolved(), "else"}
	}
	for _, c := range chosen {
		if sql, ok := p.Cases[c]; ok {
			return sql, true
		}
	}
	return "", false
}

func (p Piece) settled(values param.Values) (Piece, bool) {
	sql, ok := p.pick(values)
	return Piece{SQL: sql, Line: p.Line, Col: p.Col}, ok
}

func (d Dataset) settle(values param.Values) Dataset {
	d.From, _ = d.From.settled(values)
	d.Where = kept(d.Where, func(w *Condition) (ok bool) { w.Piece, ok = w.Piece.settled(values); return ok })
	d.Order = kept(d.Order, func(o *Piece) (ok bool) { *o, ok = o.settled(values); return ok })
	d.Each = kept(d.Each, func(e *Piece) (ok bool) { *e, ok = e.settled(values); return ok })
	d.Group = kept(d.Group, func(g *Piece) (ok bool) { *g, ok = g.settled(values); return ok })
	before := d.ColumnIDs()
	d.Columns = kept(d.Columns, func(c *Column) (ok bool) {
		if c.Labels.By != "" {
			if label, ok := c.Labels.pick(values); ok {
				c.Label = label
			}
		}
		if v, ok := values.Of(c.ScaleBy); ok && v.Given {
			c.Scale = int32(min(max(v.Number.Round(0).Digits.LowBits(), 0), 6))
		}
		c.Is, ok = c.Is.settled(values)
		return ok
	})
	if d.Levels != "" {
		d.level(values)
	}
	d.Columns = kept(d.Columns, func(c *Column) bool { return d.has(c.Formula, before) })
	d.Key = kept(d.Key, func(k *string) bool { return d.Column(*k) != nil })
	if v, ok := values.Of(d.Compare); ok && len(v.Companions) > 0 {
		d.read = d.Kept()
		d.Columns = d.compared(v)
	}
	return d
}

// has tells whether all columns that a formula speaks of, of those that there
// were before, are still there.
func (d *Dataset) has(text string, before []string) bool {
	return !slices.ContainsFunc(expr.Mentioned(text),
		func(id string) bool { return slices.Contains(before, id) && d.Column(id) == nil })
}

// kept returns copies of the items that change keeps.
func kept[T any](list []T, change func(*T) bool) []T {
	var out []T
	for _, item := range list {
		if change(&item) {
			out = append(out, item)
		}
	}
	return out
}

// level puts the chosen grouping columns first, leaves out those that were not
// chosen, and groups by what is left.
func (d *Dataset) level(values param.Values) {
	v, _ := values.Of(d.Levels)
	offered := func(id string) bool {
		return slices.ContainsFunc(v.Parameter.Options, func(e param.Entry) bool { return e.Code == id })
	}
	var levels, others []Column
	for _, id := range v.Codes {
		if c := d.Column(id); c != nil {
			levels = append(levels, *c)
			d.Group = append(d.Group, c.Is)
		}
	}
	for _, c := range d.Columns {
		if !offered(c.ID) {
			others = append(others, c)
		}
	}
	d.Columns = append(levels, others...)
	if d.Compare != "" {
		d.Key = v.Codes
	}
}

// compared returns the columns with, after each measure, one for every
// companion period and the variance from it as amount and percent.
func (d *Dataset) compared(v param.Value) (columns []Column) {
	for _, c := range d.Columns {
		columns = append(columns, c)
		if !d.Measure(c) {
			continue
		}
		for i, companion := range v.Companions {
			other, change := c, c
			other.ID, other.Label = fmt.Sprintf("%s_%d", c.ID, i+2), fmt.Sprintf("%s, %s", c.Label, companion.Name)
			change.ID, change.Label = fmt.Sprintf("%s_change_%d", c.ID, i+2), "Change on "+companion.Name
			if c.Total != frame.Sum && c.Total != frame.NoTotal {
				change.Total, change.Difference = frame.Ratio, &Difference{c.ID, other.ID}
			}
			percent := Column{ID: fmt.Sprintf("%s_percent_%d", c.ID, i+2), Label: "Change on " + companion.Name,
				Kind: frame.Decimal, Scale: 1, Unit: "%",
				Total: frame.Ratio, Percent: &Percent{change.ID, other.ID}}
			for n, c := range []Column{other, change, percent} {
				c.Opens, c.Companion, c.changes = nil, i+1, n > 0
				columns = append(columns, c)
			}
		}
	}
	return columns
}

// Measure tells whether a column of a compared dataset is a figure to compare,
// rather than part of the key or a name beside it.
func (d *Dataset) Measure(c Column) bool {
	return c.Kind.Numeric() && c.Formula == "" && !slices.Contains(d.Key, c.ID)
}

// settle leaves out the columns that the dataset does not have for these
// values. A chosen list replaces the view's own.
func (v View) settle(d *Dataset, values param.Values) View {
	if chosen, ok := values.Of(v.Chosen); ok && chosen.Given {
		v.Columns = chosen.Codes
	}
	v.Levels, v.Down, v.Across = v.chosenLevels(v.Levels, values), v.chosenLevels(v.Down, values),
		v.chosenLevels(v.Across, values)
	if v.Columns != nil && d.read != nil { // companions stand beside their measures
		var all []string
		for _, c := range d.Columns {
			if of := d.companionOf(c.ID); slices.Contains(v.Columns, of) {
				all = append(all, c.ID)
			}
		}
		v.Columns = all
	}
	there := func(id *string) bool { return d.Column(*id) != nil }
	v.Columns, v.Cells = kept(v.Columns, there), kept(v.Cells, there)
	known := func(text *string) bool { // of a formula's names, those that are columns here or single values
		return !slices.ContainsFunc(expr.Mentioned(*text),
			func(id string) bool { return d.Column(id) == nil && !single(id, values) })
	}
	v.Levels, v.Down, v.Across = kept(v.Levels, known), kept(v.Down, known), kept(v.Across, known)
	v.Sort = kept(v.Sort,
		func(k *frame.Key) bool { return d.Column(k.Column) != nil || slices.Contains(v.Levels, k.Column) })
	return v
}

// chosenLevels puts the columns that a parameter picked where it is named.
func (v View) chosenLevels(levels []string, values param.Values) (out []string) {
	for _, text := range levels {
		id, chosen := strings.CutPrefix(text, ":")
		if !chosen {
			out = append(out, text)
		} else if picked, ok := values.Of(id); ok {
			out = append(out, picked.Codes...)
		}
	}
	return out
}

// single tells whether a name is that of a single value.
func single(name string, values param.Values) bool {
	id, _, _ := strings.Cut(name, ".")
	_, declared := values.Of(id)
	return declared || id == "today"
}

// companionOf returns the measure that a computed column belongs to, or the
// column itself.
func (d *Dataset) companionOf(id string) string {
	of := id
	for _, c := range d.Columns {
		if c.Formula != "" || slices.ContainsFunc(d.read, func(r Column) bool { return r.ID == c.ID }) {
			of = c.ID
		}
		if c.ID == id {
			break
		}
	}
	return of
}
