package ready

import (
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
func (p *View) compute() {
	p.aggregatesOf()
	p.need = p.needed()
	var texts []string
	for _, c := range p.atRows {
		texts = append(texts, c.Column.ID+"="+c.Formula.Text)
	}
	p.Key = table.Digest(fmt.Sprintf("%s/%+v", p.identity(append(texts, p.texts...)), p.Where().Conditions))
	kept := len(p.Set.Kept())
	keys, ground := map[string]string{}, p.ground()
	columns := make([]table.Computed, 0, len(p.atRows)+len(p.extra))
	add := func(field frame.Field, f *formula.Formula, text string) {
		key := fmt.Sprintf("%s\n%s\n%+v", ground, text, field)
		for _, name := range f.Names() {
			key += "\n" + keys[name]
		}
		keys[field.Name] = table.Digest(key)
		columns = append(columns, table.Computed{Field: field, Formula: f, Key: keys[field.Name]})
	}
	for i, c := range p.atRows {
		add(p.Scope.Columns[kept+i], c.Formula, texts[i])
	}
	for i, f := range p.extra {
		field := f.Field
		field.Name = p.texts[i]
		add(field, f, p.texts[i])
	}
	p.Rows = p.source.With(columns)
}

// Where is which rows meet the filters.
func (p *View) Where() (w table.Where) {
	for _, f := range p.Filters {
		w.Conditions = append(w.Conditions, f.Conditions...)
	}
	return w
}

// ground is what cells of a computed column are made of, beside its formula.
func (p *View) ground() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", p.Set.ID)
	for _, name := range slices.Sorted(maps.Keys(p.Setting.Given)) {
		fmt.Fprintf(&b, "%s=%+v\n", name, p.Setting.Given[name])
	}
	c := p.Setting.Calendar
	fmt.Fprintf(&b, "%v %v", c.Zone, c.FiscalStart)
	return b.String()
}

// identity tells apart everything that cells and figures are made of: the
// columns with their formulas, places and totals, whatever they are called, and
// the ground that they stand on.
func (p *View) identity(texts []string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%q\n", texts)
	for _, c := range p.Set.Columns {
		fmt.Fprintf(&b, "%q %q %v %d %q %v %v", c.ID, c.Formula, c.Kind, c.Scale, c.Currency, c.Total, c.AtGroups)
		if c.Percent != nil {
			fmt.Fprintf(&b, " %+v", *c.Percent)
		}
		if c.Difference != nil {
			fmt.Fprintf(&b, " %+v", *c.Difference)
		}
		b.WriteByte('\n')
	}
	return table.Digest(b.String() + p.ground())
}

// needed names the columns that have to be computed: what the view speaks of,
// and what that is computed from.
func (p *View) needed() map[string]bool {
	names := map[string]bool{}
	add := func(list ...string) {
		for _, n := range list {
			names[n] = true
		}
	}
	add(p.Shown...)
	add(p.As.Cells...)
	add(p.As.X, p.As.Y, p.As.Start, p.As.End, p.As.Label)
	add(p.Set.Key...)
	for _, k := range p.As.Sort {
		add(k.Column)
	}
	for _, f := range p.Filters {
		add(f.Column)
	}
	for _, l := range slices.Concat(p.Levels, p.Down, p.Across) {
		add(l.Text)
	}
	for _, f := range p.extra {
		add(f.Names()...)
	}
	for _, g := range p.atAll {
		add(g.Formula.Names()...)
	}
	tones := slices.Clone(p.As.Tones)
	for _, id := range p.Shown {
		c := p.Set.Column(id)
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
func (p *View) aggregatesOf() {
	for _, c := range p.atAll {
		if p.wanted(c.Column.ID) {
			p.aggregateColumns(c.Formula)
		}
	}
	asked := slices.Clone(p.asked)
	for _, m := range p.As.Marks {
		asked = append(asked, m.At)
	}
	for _, text := range asked {
		if f, err := p.FigureFormula(text); err == nil {
			p.aggregateColumns(f)
		}
	}
}

// wanted tells whether a column stands on the sheet or orders it.
func (p *View) wanted(id string) bool {
	return slices.Contains(p.Shown, id) || slices.Contains(p.As.Cells, id) ||
		slices.ContainsFunc(p.As.Sort, func(k frame.Key) bool { return k.Column == id })
}

// FigureFormula reads a formula of groups.
func (p *View) FigureFormula(text string) (*formula.Formula, error) {
	scope := p.Scope
	scope.Groups = true
	return formula.Parse(text, scope)
}

func (p *View) aggregateColumns(f *formula.Formula) {
	for _, a := range f.Aggregates {
		p.place(a.Key, a.Of)
	}
	for _, w := range f.Windows {
		p.aggregateColumns(w.Of)
	}
}

// HasFigure tells whether a figure can be made of a column: of a percentage
// where both figures that it is made of can.
func (p *View) HasFigure(id string) bool {
	c := p.Set.Column(id)
	if c == nil || c.Percent == nil {
		return c != nil && IsMeasure(c)
	}
	return p.HasFigure(c.Percent.Of) && p.HasFigure(c.Percent.By)
}

// IsMeasure tells whether a column makes a figure of a group.
func IsMeasure(c *report.Column) bool { return c.AtGroups || c.Total != frame.NoTotal }

// HasCells tells whether a column was read, or is computed for this view.
func (p *View) HasCells(id string) bool {
	return p.Scope.Columns.Index(id) < len(p.Set.Kept()) || p.need[id]
}
