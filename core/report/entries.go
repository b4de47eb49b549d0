package report

import (
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
	"mantilla/core/period"
)

// Entry says that a column is filled in by people, beside the rows: its cells belong to the key of
// a row, and stay when the rows are read anew.
type Entry struct {
	Options []string // what may be typed; none for anything of the column's type
	Least   string   // of numbers; "" for no bound
	Most    string
	Default string   // a formula of the row, for cells that nobody filled in
	Who     []string // groups of people; none for everybody who may run reports
	Until   string   // the last day on which it is open, "signed" for until a result is signed off, "" for always
	Before  bool     // what stood there at the end of the last month is a column too
}

// Of columns that people fill in: what they typed, and what stood there at the end of last month.
const (
	typedPrefix  = "entered_"
	beforePrefix = "before_"
)

// UntilSigned says that entries are open until a result is signed off.
const UntilSigned = "signed"

// HasEntries tells whether people fill in any column.
func (d *Dataset) HasEntries() bool {
	return slices.ContainsFunc(d.Columns, func(c Column) bool { return c.Entry != nil })
}

// Typed is the dataset as it is read: what people typed stands in columns behind those that were
// kept, entered_x of a column x, and before_x where the column has that of last month beside it.
func (d *Dataset) Typed() *Dataset {
	if !d.HasEntries() || slices.ContainsFunc(d.Columns, func(c Column) bool { return c.TypedOf != "" }) {
		return d
	}
	out := *d
	out.Columns = slices.Clone(d.Columns)
	for _, c := range d.Columns {
		if c.Entry == nil {
			continue
		}
		as := func(prefix, says string) {
			out.Columns = append(out.Columns, Column{ID: prefix + c.ID, Label: c.Label + says, Kind: c.Kind, Scale: c.Scale,
				Currency: c.Currency, Unit: c.Unit, TypedOf: c.ID})
		}
		as(typedPrefix, ", typed in")
		if c.Entry.Before {
			as(beforePrefix, ", last month")
		}
	}
	return &out
}

// IsBefore tells whether a column of [Dataset.Typed] is what stood there at the end of last month.
func (c *Column) IsBefore() bool { return c.TypedOf != "" && strings.HasPrefix(c.ID, beforePrefix) }

// entry reads how a column is filled in.
func (p *parser) entry(n *yaml.Node, c *Column) {
	e := Entry{}
	p.mapping(n, "entry", keys{
		"options": p.texts(&e.Options),
		"least":   p.text(&e.Least),
		"most":    p.text(&e.Most),
		"default": p.text(&e.Default),
		"who":     p.texts(&e.Who),
		"until":   p.text(&e.Until),
		"before":  p.flag(&e.Before),
	})
	if e.Until != "" && e.Until != UntilSigned {
		if _, err := period.ParseDay(e.Until); err != nil {
			p.fault(valueOf(n, "until"), "until %q is neither a day such as 2026-12-31 nor signed", e.Until)
		}
	}
	c.Entry = &e
}

// checkEntry holds how a column is filled in against what it is, and makes it the formula of what
// people typed and its default.
func (p *parser) checkEntry(n *yaml.Node, c *Column) {
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
			p.fault(valueOf(n, what), "the %s of column %s is no number that it can hold", what, c.ID)
		}
	}
	c.Formula = typedPrefix + c.ID
	if e.Default != "" {
		c.Formula = "coalesce(" + c.Formula + ", " + e.Default + ")"
	}
}

// checkEntries holds columns that people fill in against the key that finds their rows.
func (p *parser) checkEntries(d *Dataset, n *yaml.Node) {
	if d.HasEntries() && len(d.Key) == 0 {
		p.fault(n, "people fill in columns of dataset %s, so it needs a key that finds the rows again: key: [COLUMN]", d.ID)
	}
	for i := range d.Columns {
		for _, prefix := range []string{typedPrefix, beforePrefix} {
			if of, ok := strings.CutPrefix(d.Columns[i].ID, prefix); ok && d.Column(of) != nil && d.Column(of).Entry != nil {
				p.fault(n, "dataset %s has a column %q, which stands for what people type into %s", d.ID, d.Columns[i].ID, of)
			}
		}
	}
}
