package definition

import (
	"strings"

	"go.yaml.in/yaml/v3"
	"golang.org/x/text/currency"

	"mantilla/core/frame"
	"mantilla/core/manuscript"
	"mantilla/core/report"
)

func (p *parser) dataset(id, n *yaml.Node) {
	d := report.Dataset{}
	p.id(&d.ID, '_')(id)
	seen := p.mapping(n, "a dataset", keys{
		"from":     p.piece(&d.From),
		"where":    func(n *yaml.Node) { p.items(n, func(item *yaml.Node) { d.Where = append(d.Where, p.condition(item)) }) },
		"group_by": p.pieces(&d.Group),
		"levels":   p.text(&d.Levels),
		"scope":    p.piece(&d.Scope),
		"newest":   p.text(&d.Newest),
		"may_fail": p.flag(&d.MayFail),
		"order":    p.pieces(&d.Order),
		"each":     p.pieces(&d.Each),
		"compare":  p.text(&d.Compare),
		"key":      p.texts(&d.Key),
		"behind":   p.behind(&d),
		"keep":     p.keep(&d),
		"columns":  func(n *yaml.Node) { p.items(n, func(item *yaml.Node) { p.column(item, &d) }) },
	})
	p.need(n, "the dataset", seen, "from", "columns")
	for _, k := range d.Key {
		if d.Column(k) == nil {
			p.unknown(seen["key"], "column of "+d.ID, k, "the key %q is not a column of dataset %s%s", k, d.ID,
				meant(k, d.ColumnIDs()))
		}
	}
	p.checkEntries(&d, n)
	p.checkKeep(&d, seen["keep"])
	if d.Newest != "" && len(d.Order) == 0 {
		p.fault(seen["newest"], "dataset %s reads the newest rows and needs to know which they are: order: COLUMN desc", d.ID)
	}
	if len(d.Each) > 0 && d.Newest == "" {
		p.fault(seen["each"], "dataset %s reads so many of each and needs to know how many: newest: PARAMETER", d.ID)
	}
	if d.Compare != "" && len(d.Key) == 0 {
		p.fault(seen["compare"], "dataset %s is compared and needs a key that finds a row in the other period: key: [COLUMN]",
			d.ID)
	}
	p.def.Datasets = append(p.def.Datasets, d)
	p.nodes.datasets = append(p.nodes.datasets, n)
}

func (p *parser) column(n *yaml.Node, d *report.Dataset) {
	c := report.Column{Stored: "smallest"}
	kind, total, at, scale := "text", "none", "rows", int64(-1)
	seen := p.mapping(n, "a column", keys{
		"id":       p.id(&c.ID, '_'),
		"label":    p.label(&c),
		"about":    p.text(&c.About),
		"means":    p.id(&c.Means, '-'),
		"is":       p.piece(&c.Is),
		"type":     p.text(&kind),
		"scale":    p.scale(&scale, &c),
		"currency": p.text(&c.Currency),
		"unit":     p.text(&c.Unit),
		"stored":   p.oneOf(&c.Stored, "smallest", "decimal"),
		"total":    p.text(&total),
		"opens":    func(n *yaml.Node) { p.opens(n, &c) },
		"formula":  p.text(&c.Formula),
		"at":       p.oneOf(&at, "rows", "groups"),
		"code":     p.text(&c.Code),
		"under":    p.text(&c.Under),
		"tone":     p.tones(&c.Tones),
		"entry":    func(n *yaml.Node) { p.entry(n, &c) },
		"personal": func(n *yaml.Node) { p.personal(n, &c) },
	})
	p.need(n, "the column", seen, "id", "type")
	c.AtGroups = at == "groups"
	p.origin(n, seen, &c)
	if d.Column(c.ID) != nil {
		p.fault(n, "dataset %s has the column %q twice", d.ID, c.ID)
	}
	var err error
	if c.Kind, err = frame.KindNamed(kind); err != nil {
		p.fault(seen["type"], "%v", err)
	} else if c.Total, err = frame.OpNamed(total); err != nil {
		p.fault(seen["total"], "%v", err)
	} else if err = c.Total.Fits(c.Field()); err != nil {
		p.fault(seen["total"], "column %s: %v", c.ID, err)
	}
	p.places(n, &c, scale)
	if c.Label == "" {
		c.Label = report.Titled(c.ID)
	}
	if c.Entry != nil {
		p.checkEntry(n, &c)
	}
	p.checkPersonal(seen["personal"], &c)
	d.Columns = append(d.Columns, c)
}

// origin looks whether a column comes from the source or from a formula.
func (p *parser) origin(n *yaml.Node, seen map[string]*yaml.Node, c *report.Column) {
	switch {
	case seen["is"] != nil && seen["formula"] != nil:
		p.fault(seen["formula"], "column %s has both is and formula; it comes from the source or is computed", c.ID)
	case c.Entry != nil: // it comes from people
	case seen["is"] == nil && seen["formula"] == nil:
		p.fault(n, "the column lacks the key %q", "is")
	case c.AtGroups && seen["formula"] == nil:
		p.fault(seen["at"], "column %s is at groups and needs a formula of their rows, such as sum(x) / sum(y)", c.ID)
	case c.AtGroups && seen["total"] != nil:
		p.fault(seen["total"], "column %s is computed at every level, its totals too; leave total out", c.ID)
	}
	if text := manuscript.Value(n, "formula"); text != nil {
		c.FormulaAt = placed(text)
	}
}

// scale reads a number of places, or the whole-number parameter that supplies
// it: ':decimals'.
func (p *parser) scale(to *int64, c *report.Column) func(*yaml.Node) {
	return func(n *yaml.Node) {
		if id, chosen := strings.CutPrefix(n.Value, ":"); chosen {
			c.ScaleBy, *to = id, 2
			return
		}
		p.number(to, 0, 12)(n)
	}
}

// places settles scale and currency.
func (p *parser) places(n *yaml.Node, c *report.Column, scale int64) {
	switch c.Kind {
	case frame.Money:
		if c.Currency == "" {
			c.Currency = p.defaults.Currency
		}
		unit, err := currency.ParseISO(c.Currency)
		if err != nil {
			p.fault(n, "column %s: %q is not an ISO 4217 currency code such as EUR", c.ID, c.Currency)
			return
		}
		digits, _ := currency.Standard.Rounding(unit)
		c.Scale = int32(digits)
	case frame.Decimal:
		if scale < 0 {
			p.fault(n, "column %s is a decimal and lacks its number of places; write scale: 2", c.ID)
			return
		}
		c.Scale = int32(scale)
	default:
		if scale >= 0 {
			p.fault(n, "column %s holds %s; only a decimal has a scale", c.ID, c.Kind)
		}
	}
}

func (p *parser) opens(n *yaml.Node, c *report.Column) {
	o := report.Opens{}
	seen := p.mapping(n, "opens", keys{
		"report":  p.text(&o.Report),
		"address": p.text(&o.Address),
		"with": func(n *yaml.Node) {
			p.each(n, "with", func(name, from *yaml.Node) {
				o.With = append(o.With, report.Fill{Parameter: name.Value, From: from.Value})
			})
		},
	})
	if o.Address == "" {
		p.need(n, "opens", seen, "report")
	} else if scheme, _, ok := strings.Cut(o.Address, "://"); !ok || scheme != "https" && scheme != "http" {
		p.fault(seen["address"], "the address %q must begin with https:// or http://", o.Address)
	}
	c.Opens = &o
}

// condition reads a line of where: SQL, switched SQL, or a piece that must lie
// within the days or times of a parameter.
func (p *parser) condition(n *yaml.Node) (c report.Condition) {
	if manuscript.Value(n, "within") == nil {
		p.piece(&c.Piece)(n)
		return c
	}
	as := ""
	seen := p.mapping(n, "a condition",
		keys{"is": p.piece(&c.Piece), "within": p.text(&c.Within), "as": p.oneOf(&as, "days", "moments")})
	p.need(n, "the condition", seen, "is")
	c.Moments, c.Line, c.Col = as == "moments", n.Line, n.Column
	return c
}

// label reads a label or one that is switched.
func (p *parser) label(c *report.Column) func(*yaml.Node) {
	return func(n *yaml.Node) {
		p.piece(&c.Labels)(n)
		c.Label = c.Labels.SQL
		if c.Labels.By != "" {
			c.Label = report.Titled(c.ID)
		}
	}
}
