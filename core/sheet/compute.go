package sheet

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"slices"
	"strings"

	"mantilla/core/expr"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/table"
)

// compute makes the table that has every column which the view needs.
func (p *prepared) compute() {
	p.aggregatesOf()
	p.need = p.needed()
	var texts []string
	for _, c := range p.atRows {
		texts = append(texts, c.Column.ID+"="+c.Formula.Text)
	}
	p.key = digest(fmt.Sprintf("%s/%+v", p.identity(append(texts, p.texts...)), p.where().Conditions))
	kept := len(p.set.Kept())
	keys, ground := map[string]string{}, p.ground()
	columns := make([]table.Computed, 0, len(p.atRows)+len(p.extra))
	add := func(field frame.Field, f *formula.Formula, text string) {
		key := fmt.Sprintf("%s\n%s\n%+v", ground, text, field)
		for _, name := range f.Names() {
			key += "\n" + keys[name]
		}
		keys[field.Name] = digest(key)
		columns = append(columns, table.Computed{Field: field, Formula: f, Key: keys[field.Name]})
	}
	for i, c := range p.atRows {
		add(p.scope.Columns[kept+i], c.Formula, texts[i])
	}
	for i, f := range p.extra {
		field := f.Field
		field.Name = p.texts[i]
		add(field, f, p.texts[i])
	}
	p.rows = p.source.With(columns)
}

// where is which rows meet the filters.
func (p *prepared) where() (w table.Where) {
	for _, f := range p.filters {
		w.Conditions = append(w.Conditions, f.Conditions...)
	}
	return w
}

// ground is what cells of a computed column are made of, beside its formula.
func (p *prepared) ground() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", p.set.ID)
	for _, name := range slices.Sorted(maps.Keys(p.setting.Given)) {
		fmt.Fprintf(&b, "%s=%+v\n", name, p.setting.Given[name])
	}
	c := p.setting.Calendar
	fmt.Fprintf(&b, "%v %v", c.Zone, c.FiscalStart)
	return b.String()
}

// identity tells apart everything that cells and figures are made of: the
// columns with their formulas, places and totals, whatever they are called, and
// the ground that they stand on.
func (p *prepared) identity(texts []string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%q\n", texts)
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
	return digest(b.String() + p.ground())
}

// digest shortens a key.
func digest(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:16])
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
		add(expr.Mentioned(t.When)...)
	}
	for i := len(p.atRows) - 1; i >= 0; i-- {
		if names[p.atRows[i].Column.ID] {
			add(p.atRows[i].Formula.Names()...)
		}
	}
	return names
}

// aggregatesOf gives a place in the table to everything that figures of groups
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
