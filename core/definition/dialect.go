package definition

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"mantilla/core/manuscript"
	"mantilla/core/nearest"
	"mantilla/core/report"
)

// Dialect is the SQL that a source speaks, as far as a definition depends on it.
type Dialect struct {
	Name   string // as definitions switch by it, such as sqlite; "" where it is not known
	Quotes report.Quotes
}

// byDialect is what a part of a definition is switched by that has a form for each dialect:
// {by: dialect, sqlite: ..., else: ...}.
const byDialect = "dialect"

// dialect is the one that the definition's source speaks.
func (p *parser) dialect() Dialect {
	if p.defaults.Dialect == nil {
		return Dialect{Quotes: report.AnyQuotes}
	}
	return p.defaults.Dialect(p.source)
}

// spoken puts in the place of each part that is switched by dialect the form that the source
// speaks. The others are looked at as far as they name parameters. What has the key of is no such
// part: the rows behind a dataset may be told by a column of that name.
func (p *parser) spoken(n *yaml.Node) *yaml.Node {
	if by := manuscript.Value(n, "by"); by != nil && by.Value == byDialect && manuscript.Value(n, "of") == nil {
		return p.form(n)
	}
	for i, inner := range n.Content {
		n.Content[i] = p.spoken(inner)
	}
	return n
}

// form is that of the source's dialect; of a source whose dialect is not known, any.
func (p *parser) form(n *yaml.Node) *yaml.Node {
	dialect := p.dialect().Name
	var chosen, others []*yaml.Node
	var rest *yaml.Node
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], p.spoken(n.Content[i+1])
		switch known := p.defaults.Dialects; {
		case key.Value == "by":
		case key.Value == dialect:
			chosen = append(chosen, value)
		case key.Value == "else":
			rest = value
		case len(known) > 0 && !slices.Contains(known, key.Value):
			p.fault(key, "%q is not a dialect%s; there are %s, and else", key.Value, meant(key.Value, known),
				nearest.And(known))
		default:
			others = append(others, value)
		}
	}
	switch {
	case len(chosen) > 0:
		p.unspoken = append(p.unspoken, others...)
		if rest != nil {
			p.unspoken = append(p.unspoken, rest)
		}
		return chosen[0]
	case rest != nil:
		p.unspoken = append(p.unspoken, others...)
		return rest
	case dialect == "" && len(others) > 0:
		p.unspoken = append(p.unspoken, others[1:]...)
		return others[0]
	}
	p.fault(n, "the source %s speaks %s, for which nothing stands here; add %s: or else:", p.source,
		orUnknown(dialect), orUnknown(dialect))
	return &yaml.Node{Kind: yaml.ScalarNode, Line: n.Line, Column: n.Column}
}

func orUnknown(dialect string) string {
	if dialect == "" {
		return "a dialect that is not known"
	}
	return dialect
}

// checkUnspoken looks at the parameters that forms of other dialects speak of.
func (p *parser) checkUnspoken(used map[string]bool) {
	for _, n := range p.unspoken {
		p.eachText(n, func(at *yaml.Node) {
			for _, r := range report.References(at.Value, report.AnyQuotes) {
				used[r.Parameter] = true
				if p.def.Parameter(r.Parameter) == nil && !p.lost[r.Parameter] {
					p.noParameter(at, r.Parameter, "the SQL speaks of")
				}
			}
		})
	}
}

// eachText hands on the texts of a part; a parameter that switches it is spoken of as well.
func (p *parser) eachText(n *yaml.Node, each func(*yaml.Node)) {
	if n.Kind == yaml.ScalarNode {
		each(n)
	}
	for _, inner := range n.Content {
		p.eachText(inner, each)
	}
}
