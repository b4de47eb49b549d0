package definition

import (
	"go.yaml.in/yaml/v3"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/manuscript"
	"mantilla/core/report"
)

// aCheck reads a check; its conditions are read when all datasets are known.
func (p *parser) aCheck(n *yaml.Node) {
	c := report.Check{Else: report.NoteIt, Against: report.AgainstBefore}
	seen := p.mapping(n, "a check", keys{
		"id":      p.id(&c.ID, '_'),
		"of":      p.text(&c.Of),
		"each":    p.texts(&c.Each),
		"holds":   p.text(&c.Holds),
		"with":    func(n *yaml.Node) { p.each(n, "with", func(name, body *yaml.Node) { p.named(name, body, &c) }) },
		"figure":  p.text(&c.Figure),
		"within":  p.text(&c.Within),
		"against": p.oneOf(&c.Against, report.AgainstBefore, report.AgainstSigned),
		"else":    p.oneOf(&c.Else, report.NoteIt, report.MarkIt, report.FailIt),
		"say":     p.text(&c.Say),
	})
	p.need(n, "the check", seen, "id", "say")
	switch {
	case (seen["holds"] == nil) == (seen["figure"] == nil):
		p.fault(n, "the check has holds: CONDITION, or figure: FORMULA with within: PERCENT of the run before")
	case seen["figure"] != nil && seen["within"] == nil:
		p.fault(n, "the check has a figure; say how far it may be from that of the run before, in percent: within: 20")
	case seen["within"] != nil && seen["figure"] == nil:
		p.fault(seen["within"], "within goes with figure: it compares a figure with that of the run before")
	case seen["against"] != nil && seen["figure"] == nil:
		p.fault(seen["against"], "against goes with figure: it says which result the figure is compared with")
	case seen["figure"] != nil && (seen["each"] != nil || seen["with"] != nil):
		p.fault(n, "a figure that is compared with the run before is one of all rows; leave each and with out")
	}
	if c.Within != "" {
		if _, err := frame.ParseNumber(c.Within, 3); err != nil {
			p.fault(seen["within"], "%q is no percentage; write it as 20 or 2.5", c.Within)
		}
	}
	for _, other := range p.def.Checks {
		if other.ID == c.ID && c.ID != "" {
			p.fault(n, "there is a check %q already", c.ID)
		}
	}
	p.def.Checks = append(p.def.Checks, c)
	p.nodes.checks = append(p.nodes.checks, n)
}

func (p *parser) named(name, body *yaml.Node, c *report.Check) {
	f := report.Named{}
	p.id(&f.Name, '_')(name)
	seen := p.mapping(body, "a figure", keys{"of": p.text(&f.Of), "is": p.text(&f.Is)})
	p.need(body, "the figure", seen, "of", "is")
	c.With = append(c.With, f)
}

func (p *parser) anExpected(n *yaml.Node) {
	e := report.Expected{Values: map[string]string{}}
	of := ""
	seen := p.mapping(n, "an expectation", keys{
		"name": p.text(&e.Name),
		"of":   p.text(&of),
		"values": func(n *yaml.Node) {
			p.each(n, "values", func(name, value *yaml.Node) { e.Values[name.Value] = value.Value })
		},
		"figures": func(n *yaml.Node) {
			p.each(n, "figures", func(is, equals *yaml.Node) {
				e.Figures = append(e.Figures, report.Figured{Is: is.Value, Equals: equals.Value})
			})
		},
	})
	p.need(n, "the expectation", seen, "name", "figures")
	for i := range e.Figures {
		e.Figures[i].Of = of
	}
	p.def.Expected = append(p.def.Expected, e)
	p.nodes.expected = append(p.nodes.expected, n)
}

// checkChecks looks whether what should hold can be asked of the datasets.
func (p *parser) checkChecks(used map[string]bool) {
	for i := range p.def.Checks {
		c, n := &p.def.Checks[i], p.nodes.checks[i]
		given := report.GivenNames(p.def.Parameters)
		for _, f := range c.With {
			if d := p.datasetOf(&f.Of, n); d != nil {
				if figure := p.figure(d, f.Is, n, "with", used); figure != nil {
					given[f.Name] = frame.Value{Kind: figure.Field.Kind, Null: true}
				}
			}
		}
		if len(c.With) > 0 && c.Of == "" && c.Holds != "" {
			f, err := formula.ParseCondition(c.Holds, formula.Scope{Given: given})
			if err != nil {
				p.wrong(placeOf(n, "holds"), "the check "+c.ID, err)
				continue
			}
			p.mentions(f, used)
			continue
		}
		d := p.datasetOf(&c.Of, n)
		if d == nil {
			continue
		}
		for _, id := range c.Each {
			if d.Column(id) == nil {
				p.noColumn(n, d, id, "the check "+c.ID+" is of each")
			}
		}
		text, key := c.Holds, "holds"
		if c.Figure != "" {
			text, key = c.Figure, "figure"
		}
		if text == "" {
			continue // it is told that there is nothing
		}
		f := p.figure(d, text, n, key, used)
		if f != nil && (f.Field.Kind == frame.Flag) != (key == "holds") {
			what := "is no condition; compare it, as in sum(x) = sum(y)"
			if key == "figure" {
				what = "is a condition; a figure to compare with the run before is a number, as in sum(x)"
			}
			p.wrong(placeOf(n, key), "the check "+c.ID, &formula.Fault{Message: text + " " + what})
		}
	}
	for i := range p.def.Expected {
		p.checkExpected(&p.def.Expected[i], p.nodes.expected[i], used)
	}
}

func (p *parser) checkExpected(e *report.Expected, n *yaml.Node, used map[string]bool) {
	for id := range e.Values {
		if p.def.Parameter(id) == nil && !p.lost[id] {
			p.noParameter(n, id, "the expectation “"+e.Name+"” gives")
		}
	}
	for i := range e.Figures {
		if d := p.datasetOf(&e.Figures[i].Of, n); d != nil {
			p.figure(d, e.Figures[i].Is, n, "figures", used)
		}
	}
}

// datasetOf finds the dataset that is named; where none is, the only one there is, which
// is named from then on.
func (p *parser) datasetOf(id *string, n *yaml.Node) *report.Dataset {
	if *id == "" && len(p.def.Datasets) == 1 {
		*id = p.def.Datasets[0].ID
	}
	if *id == "" {
		p.fault(n, "there are several datasets; say which one is meant: of: DATASET")
		return nil
	}
	d := p.def.Dataset(*id)
	if d == nil {
		p.unknown(n, "dataset", *id, "there is no dataset %q%s", *id, meant(*id, p.datasetIDs()))
	}
	return d
}

// figure reads a formula of many rows of a dataset.
func (p *parser) figure(d *report.Dataset, text string, n *yaml.Node, key string,
	used map[string]bool) *formula.Formula {
	_, _, scope, _ := d.Calculate(formula.Scope{Given: report.GivenNames(p.def.Parameters)})
	scope.Groups = true
	f, err := formula.Parse(text, scope)
	if err != nil {
		p.wrong(placeOf(n, key), "the figure", err)
		return nil
	}
	p.mentions(f, used)
	return f
}

// placeOf is where the value of a key stands, or the mapping itself.
func placeOf(n *yaml.Node, key string) report.Place {
	if v := manuscript.Value(n, key); v != nil {
		return placed(v)
	}
	return placed(n)
}
