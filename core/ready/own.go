package ready

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// total gives columns other totals, as net_kg:avg.
func (p *View) total(texts []string) error {
	texts = ask.Given(texts)
	if len(texts) > 0 {
		p.Set.Columns = slices.Clone(p.Set.Columns)
	}
	for _, text := range texts {
		id, name, _ := strings.Cut(text, ":")
		at := slices.IndexFunc(p.Set.Columns, func(c report.Column) bool { return c.ID == id })
		if at < 0 {
			return ask.Faultf("total", "there is no column %q; write a total as net_kg:avg", id)
		}
		c := &p.Set.Columns[at]
		if c.AtGroups || c.Difference != nil || c.Percent != nil {
			return ask.Faultf("total", "%s is computed at every level, its totals too", c.Label)
		}
		op := frame.NoTotal
		if name != frame.NoTotal.String() {
			var err error
			if op, err = frame.OpNamed(name); err != nil {
				return ask.Faultf("total", "%w", err)
			}
		}
		if err := op.Fits(c.Field()); err != nil {
			return ask.Faultf("total", "%s: %w", c.Label, err)
		}
		c.Total = op
	}
	return nil
}

// addColumns adds a reader's own columns: a label, = and a formula.
func (p *View) addColumns(added []string) error {
	p.Set.Columns = slices.Clone(p.Set.Columns)
	for _, text := range added {
		label, source, ok := strings.Cut(text, "=")
		label, source = strings.TrimSpace(label), strings.TrimSpace(source)
		if !ok || label == "" || source == "" {
			return ask.Faultf("add", "the column %q is written as a name, = and a formula: Margin = value - cost", text)
		}
		id := ask.OwnID(label)
		if p.Set.Column(id) != nil {
			return ask.Faultf("add", "there is a column %q already; choose another name", id)
		}
		_, _, scope, _ := p.Set.Calculate(p.Scope)
		f, err := formula.Parse(source, scope)
		if err != nil {
			var wrong *formula.Fault
			if errors.As(err, &wrong) {
				err = &formula.Fault{
					At:      wrong.At + strings.Index(text, source),
					Message: fmt.Sprintf("the column %s, character %d: %s", label, wrong.At+1, wrong.Message),
				}
			}
			return &ask.Fault{Part: "add", Err: err}
		}
		c := report.Column{
			ID:       id,
			Label:    label,
			Kind:     f.Field.Kind,
			Scale:    min(f.Field.Scale, 4),
			Currency: f.Field.Currency,
			Formula:  source,
			AtGroups: f.OfGroups(),
		}
		switch {
		case f.Field.Names != nil:
			c.Kind, c.Scale = frame.Text, 0
		case c.Kind == frame.Money:
			c.Scale = min(c.Scale, p.placesOfMoney(c.Currency))
		}
		if c.Kind.Numeric() && !c.AtGroups {
			c.Total = frame.Sum
		}
		p.Set.Columns = append(p.Set.Columns, c)
		if len(p.As.Columns) > 0 {
			p.As.Columns = append(slices.Clone(p.As.Columns), id)
		}
	}
	return nil
}

func (p *View) placesOfMoney(currency string) int32 {
	for _, c := range p.Set.Columns {
		if c.Kind == frame.Money && c.Currency == currency {
			return c.Scale
		}
	}
	return 2
}
