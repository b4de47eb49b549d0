package definition

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
	"mantilla/core/report"
)

// personal reads how a column that says something of people is hidden: {mask: pseudonym, clear: librarian}.
func (p *parser) personal(n *yaml.Node, c *report.Column) {
	c.Personal = &report.Personal{Clear: "author"}
	p.mapping(n, "personal", keys{
		"mask":  p.oneOf(&c.Personal.Mask, report.MaskWhole, report.MaskPart, report.MaskPseudonym),
		"clear": p.oneOf(&c.Personal.Clear, "runner", "author", "librarian", "administrator"),
	})
}

// checkPersonal looks whether a column can be hidden as it says.
func (p *parser) checkPersonal(n *yaml.Node, c *report.Column) {
	switch {
	case c.Personal == nil:
	case c.Entry != nil && c.Personal.Mask != "":
		p.fault(n, "column %s is filled in by people, who see it; leave mask out", c.ID)
	case c.Formula != "" && c.Entry == nil:
		p.fault(n, "column %s is computed when it is read; mark the columns that it is computed of, and it is hidden with "+
			"them",
			c.ID)
	case c.Kind != frame.Text && (c.Personal.Mask == report.MaskPart || c.Personal.Mask == report.MaskPseudonym):
		p.fault(n, "column %s is no text, and is hidden by mask: whole alone", c.ID)
	}
}

// strictness orders the roles from which on a column is seen clear.
var strictness = []string{"runner", "author", "librarian", "administrator"}

// personalToo marks a computed column like the personal ones that it is computed of: where it is kept, as
// in a comparison, it tells what they tell.
func personalToo(d *report.Dataset, c report.Calculated) {
	for _, name := range c.Formula.Names() {
		of := d.Column(name)
		if of == nil || of.Personal == nil || of.Personal.Mask == "" {
			continue
		}
		if c.Column.Personal == nil {
			c.Column.Personal = &report.Personal{Mask: of.Personal.Mask, Clear: of.Personal.Clear}
		}
		if c.Column.Kind != frame.Text {
			c.Column.Personal.Mask = report.MaskWhole
		}
		if slices.Index(strictness, of.Personal.Clear) > slices.Index(strictness, c.Column.Personal.Clear) {
			c.Column.Personal.Clear = of.Personal.Clear
		}
	}
}
