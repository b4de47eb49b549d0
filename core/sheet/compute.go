package sheet

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// compute makes the frame that has every column which the view needs. Columns
// of the scope that it does not need have no cells.
func (p *prepared) compute(rows *frame.Frame, c Changes) {
	kept := len(p.set.Kept())
	p.aggregatesOf()
	p.need = p.needed()
	fields := slices.Clone(p.scope.Columns[kept:])
	formulas := make([]*formula.Formula, len(fields))
	for i, calculated := range p.atRows {
		if p.need[calculated.Column.ID] {
			formulas[i] = calculated.Formula
		}
	}
	for _, f := range p.extra {
		fields = append(fields, f.Field)
		formulas = append(formulas, f)
	}
	for text, at := range p.places {
		fields[at-kept].Name = text
	}
	var conditions []frame.Condition
	for _, f := range p.filters {
		conditions = append(conditions, f.Conditions...)
	}
	texts := p.texts(formulas)
	made := p.identity(texts)
	p.key = digest(fmt.Sprintf("%s/%+v", made, conditions))
	p.rows = rows
	if len(fields) == 0 {
		return
	}
	p.rows = rows.With(fields, func(batch int, b *frame.Batch) ([]frame.Vector, error) {
		v, err := p.setting.Cache.Get(fmt.Sprintf("%s/batch%d", made, batch), func() (Sized, error) {
			return computed(b, fields, formulas)
		})
		if err != nil {
			return nil, err
		}
		return v.(vectors), nil
	})
}

// identity tells apart everything that cells and figures are made of: the
// columns with their formulas, places and totals, whatever they are called, the
// single values that formulas speak of, the zone and the calendar.
func (p *prepared) identity(texts []string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s %q\n", p.set.ID, texts)
	for _, c := range p.set.Columns {
		fmt.Fprintf(&b, "%q %q %v %d %q %v %v", c.ID, c.Formula, c.Kind, c.Scale, c.Currency, c.Total, c.AtGroups)
		if c.Percent != nil {
			fmt.Fprintf(&b, " %+v", *c.Percent)
		}
		if c.Difference != nil {
			fmt.Fprintf(&b, " %+v", *c.Difference)
		}
		b.WriteByte('\n')
	}
	for _, name := range slices.Sorted(maps.Keys(p.setting.Given)) {
		fmt.Fprintf(&b, "%s=%+v\n", name, p.setting.Given[name])
	}
	c := p.setting.Calendar
	fmt.Fprintf(&b, "%v %v", c.Zone, c.FiscalStart)
	return digest(b.String())
}

// digest shortens a key.
func digest(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:16])
}

// vectors are computed columns of a batch that can be kept.
type vectors []frame.Vector

// Bytes returns about how much memory the vectors take.
func (v vectors) Bytes() (n int) {
	for i := range v {
		n += len(v[i].Nulls) + 8*len(v[i].Ints) + 4*len(v[i].Codes) + 16*len(v[i].Texts)
	}
	return n
}

func computed(b *frame.Batch, fields frame.Schema, formulas []*formula.Formula) (vectors, error) {
	out := make(vectors, len(fields))
	for i, f := range formulas {
		if f == nil {
			continue
		}
		v, err := f.Rows(b.With(fields[:i], out[:i]))
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", fields[i].Name, err)
		}
		out[i] = v
	}
	return out, nil
}

// texts tell formulas apart within a cache.
func (p *prepared) texts(formulas []*formula.Formula) (texts []string) {
	for i, f := range formulas {
		switch {
		case f == nil:
			texts = append(texts, "")
		case i < len(p.atRows):
			texts = append(texts, p.atRows[i].Column.ID+"="+f.Text)
		default:
			texts = append(texts, f.Text)
		}
	}
	return texts
}

// needed names the columns that have to be computed: what the view speaks of,
// and what that is computed from.
func (p *prepared) needed() map[string]bool {
	names := map[string]bool{}
	add := func(list ...string) {
		for _, n := range list {
			names[n] = true
		}
	}
	add(p.shown...)
	add(p.view.Cells...)
	add(p.view.X, p.view.Y, p.view.Start, p.view.End, p.view.Label)
	add(p.set.Key...)
	for _, k := range p.view.Sort {
		add(k.Column)
	}
	for _, f := range p.filters {
		add(f.Column)
	}
	for _, l := range slices.Concat(p.levels, p.down, p.across) {
		add(l.text)
	}
	for _, f := range p.extra {
		add(f.Names()...)
	}
	for _, g := range p.atAll {
		add(g.Formula.Names()...)
	}
	tones := slices.Clone(p.view.Tones)
	for _, id := range p.shown {
		c := p.set.Column(id)
		tones = append(tones, c.Tones...)
		if c.Opens != nil {
			add(c.Opens.Fields()...)
			for _, f := range c.Opens.With {
				add(f.From)
			}
		}
	}
	for _, t := range tones {
		add(formula.Mentioned(t.When)...)
	}
	for i := len(p.atRows) - 1; i >= 0; i-- {
		if names[p.atRows[i].Column.ID] {
			add(p.atRows[i].Formula.Names()...)
		}
	}
	return names
}

// aggregatesOf gives a place in the frame to everything that figures of groups
// are made of.
func (p *prepared) aggregatesOf() {
	for _, c := range p.atAll {
		if p.wanted(c.Column.ID) {
			p.aggregateColumns(c.Formula)
		}
	}
	asked := slices.Clone(p.setting.figures)
	for _, m := range p.view.Marks {
		asked = append(asked, m.At)
	}
	for _, text := range asked {
		if f, err := p.figureFormula(text); err == nil {
			p.aggregateColumns(f)
		}
	}
}

// wanted tells whether a column stands on the sheet or orders it.
func (p *prepared) wanted(id string) bool {
	return slices.Contains(p.shown, id) || slices.Contains(p.view.Cells, id) ||
		slices.ContainsFunc(p.view.Sort, func(k frame.Key) bool { return k.Column == id })
}

func (p *prepared) figureFormula(text string) (*formula.Formula, error) {
	scope := p.scope
	scope.Groups = true
	return formula.Parse(text, scope)
}

func (p *prepared) aggregateColumns(f *formula.Formula) {
	for _, a := range f.Aggregates {
		p.place(a.Key, a.Of)
	}
	for _, w := range f.Windows {
		p.aggregateColumns(w.Of)
	}
}

// selection returns the rows that meet the filters.
func (p *prepared) selection() (frame.Selection, error) {
	if p.picked {
		return p.pick, nil
	}
	var conditions []frame.Condition
	for _, f := range p.filters {
		conditions = append(conditions, f.Conditions...)
	}
	if len(conditions) == 0 {
		p.picked = true
		return nil, nil
	}
	kept, err := p.setting.Cache.Get(p.key+"/rows", func() (Sized, error) {
		rows, err := p.rows.Filter(conditions)
		return order(rows), err
	})
	if err != nil {
		return nil, err
	}
	p.pick, p.picked = frame.Selection(kept.(order)), true
	return p.pick, nil
}

// hasFigure tells whether a figure can be made of a column: of a percentage
// where both figures that it is made of can.
func (p *prepared) hasFigure(id string) bool {
	c := p.set.Column(id)
	if c == nil || c.Percent == nil {
		return c != nil && isMeasure(c)
	}
	return p.hasFigure(c.Percent.Of) && p.hasFigure(c.Percent.By)
}

// isMeasure tells whether a column makes a figure of a group.
func isMeasure(c *report.Column) bool { return c.AtGroups || c.Total != frame.NoTotal }
