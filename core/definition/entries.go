package definition

import (
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
	"mantilla/core/manuscript"
	"mantilla/core/period"
	"mantilla/core/report"
)

// entry reads how a column is filled in.
func (p *parser) entry(n *yaml.Node, c *report.Column) {
	e := report.Entry{}
	p.mapping(n, "entry", keys{
		"options": p.texts(&e.Options),
		"least":   p.text(&e.Least),
		"most":    p.text(&e.Most),
		"default": p.text(&e.Default),
		"who":     p.texts(&e.Who),
		"until":   p.text(&e.Until),
		"before":  p.flag(&e.Before),
	})
	if e.Until != "" && e.Until != report.UntilSigned {
		if _, err := period.ParseDay(e.Until); err != nil {
			p.fault(manuscript.Value(n, "until"), "until %q is neither a day such as 2026-12-31 nor signed", e.Until)
		}
	}
	c.Entry = &e
}

// checkEntry holds how a column is filled in against what it is, and makes it the formula of what
// people typed and its default.
func (p *parser) checkEntry(n *yaml.Node, c *report.Column) {
	e := c.Entry
	switch {
	case c.Formula != "" || c.Is.SQL != "" || c.AtGroups:
		p.fault(n, "column %s is filled in by people; it has neither is, formula nor at", c.ID)
		return
	case c.Kind == frame.Flag || c.Kind == frame.Timestamp:
		p.fault(n, "column %s is filled in by people; it holds text, an integer, a decimal, money or a date", c.ID)
	case len(e.Options) > 0 && c.Kind != frame.Text:
		p.fault(n, "column %s has options, so its type is text", c.ID)
	}
	for what, bound := range map[string]string{"least": e.Least, "most": e.Most} {
		if bound == "" {
			continue
		}
		if _, err := frame.ParseNumber(bound, c.Scale); err != nil || !c.Kind.Numeric() {
			p.fault(manuscript.Value(n, what), "the %s of column %s is no number that it can hold", what, c.ID)
		}
	}
	c.Formula = report.TypedPrefix + c.ID
	if e.Default != "" {
		c.Formula = "coalesce(" + c.Formula + ", " + e.Default + ")"
	}
}

// checkEntries holds columns that people fill in against the key that finds their rows.
func (p *parser) checkEntries(d *report.Dataset, n *yaml.Node) {
	if d.HasEntries() && len(d.Key) == 0 {
		p.fault(n, "people fill in columns of dataset %s, so it needs a key that finds the rows again: key: [COLUMN]", d.ID)
	}
	for i := range d.Columns {
		for _, prefix := range []string{report.TypedPrefix, report.BeforePrefix} {
			if of, ok := strings.CutPrefix(d.Columns[i].ID, prefix); ok && d.Column(of) != nil && d.Column(of).Entry != nil {
				p.fault(n, "dataset %s has a column %q, which stands for what people type into %s", d.ID, d.Columns[i].ID, of)
			}
		}
	}
}
