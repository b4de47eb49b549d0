package definition

import (
	"maps"
	"reflect"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/frame"
	"mantilla/core/manuscript"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
)

// Shared are the parameters that are declared once for the whole catalog.
// Definitions use them by id and may refine any of their keys.
type Shared struct {
	Text       string
	parameters map[string]*yaml.Node
}

// Chooses tells whether a parameter chooses from a list of a source, which, and whether
// several of its entries.
func (s *Shared) Chooses(id string) (list string, many bool) {
	from, several := manuscript.Value(s.parameters[id], "from"), manuscript.Value(s.parameters[id], "many")
	if from == nil {
		return "", false
	}
	return from.Value, several != nil && several.Value == "true"
}

// Item is a parameter as a line of a file of shared parameters; "" where there is none.
func (s *Shared) Item(id string) string {
	n := s.parameters[id]
	if n == nil {
		return ""
	}
	flat := *n
	flat.Style = yaml.FlowStyle
	text, err := yaml.Marshal(&flat)
	if err != nil {
		return ""
	}
	return strings.Join(strings.Fields(string(text)), " ")
}

// Same tells whether a parameter means the same in another file.
func (s *Shared) Same(id string, other *Shared) bool {
	a, b := s.parameters[id], other.parameters[id]
	return a != nil && b != nil && reflect.DeepEqual(canonical(a), canonical(b))
}

// With is the text of the file with further parameters, as [Shared.Item] writes them.
func (s *Shared) With(items []string) string {
	text := strings.TrimRight(s.Text, "\n") + "\n"
	if len(s.parameters) == 0 {
		text = "parameters:\n"
	}
	for _, item := range items {
		text += "  - " + item + "\n"
	}
	return text
}

// IDs are the ids of the parameters, in alphabetical order.
func (s *Shared) IDs() []string { return slices.Sorted(maps.Keys(s.parameters)) }

// ParseShared reads a file of shared parameters: parameters: [...]. When
// anything is wrong it returns nil and every fault, each with its place.
func ParseShared(text []byte) (*Shared, Faults) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, Faults{syntaxFault(err)}
	}
	s := &Shared{Text: string(text), parameters: map[string]*yaml.Node{}}
	p := parser{def: &report.Definition{}}
	if len(doc.Content) > 0 {
		p.mapping(p.plain(doc.Content[0]), "the file of shared parameters", keys{"parameters": func(n *yaml.Node) {
			p.items(n, func(item *yaml.Node) {
				p.parameter(item)
				id := p.def.Parameters[len(p.def.Parameters)-1].ID
				if s.parameters[id] != nil {
					p.fault(item, "the parameter %q is declared twice", id)
				}
				s.parameters[id] = item
			})
		}})
	}
	if faults := p.sorted(); len(faults) > 0 {
		return nil, faults
	}
	return s, nil
}

// use replaces {use: ID, ...} among the parameters by the shared declaration
// with the keys beside it laid over, so that the version is of the whole.
func (p *parser) use(root *yaml.Node) {
	list := manuscript.Value(root, "parameters")
	if list == nil || list.Kind != yaml.SequenceNode {
		return
	}
	for i, item := range list.Content {
		id := manuscript.Value(item, "use")
		if id == nil {
			continue
		}
		var shared *yaml.Node
		var known []string
		if p.defaults.Shared != nil {
			shared = p.defaults.Shared.parameters[id.Value]
			known = slices.Sorted(maps.Keys(p.defaults.Shared.parameters))
		}
		if shared == nil {
			p.unknown(id, "shared", id.Value, "there is no shared parameter %q%s", id.Value, meant(id.Value, known))
			p.lost[id.Value] = true
			list.Content[i] = standIn(id)
			continue
		}
		list.Content[i] = laidOver(shared, item)
	}
}

// standIn is in the place of a shared parameter that there is not, so that what speaks of
// it is not told to be wrong as well.
func standIn(id *yaml.Node) *yaml.Node {
	word := func(text string) *yaml.Node {
		return &yaml.Node{Kind: yaml.ScalarNode, Value: text, Line: id.Line, Column: id.Column}
	}
	return &yaml.Node{Kind: yaml.MappingNode, Line: id.Line, Column: id.Column,
		Content: []*yaml.Node{word("id"), word(id.Value), word("type"), word("text")}}
}

// laidOver returns the keys of base with those of refined in their places.
// Everything stands where refined stands, so that faults point there.
func laidOver(base, refined *yaml.Node) *yaml.Node {
	merged := &yaml.Node{Kind: yaml.MappingNode, Line: refined.Line, Column: refined.Column}
	add := func(key, value *yaml.Node) {
		for i := 0; i+1 < len(merged.Content); i += 2 {
			if merged.Content[i].Value == key.Value {
				merged.Content[i], merged.Content[i+1] = key, value
				return
			}
		}
		merged.Content = append(merged.Content, key, value)
	}
	for i := 0; i+1 < len(base.Content); i += 2 {
		key := *base.Content[i]
		key.Line, key.Column = refined.Line, refined.Column
		add(&key, base.Content[i+1])
	}
	for i := 0; i+1 < len(refined.Content); i += 2 {
		if refined.Content[i].Value != "use" {
			add(refined.Content[i], refined.Content[i+1])
		}
	}
	return merged
}

func (p *parser) parameter(n *yaml.Node) {
	var q param.Parameter
	var kind, grain, currency string
	length, scale := int64(0), int64(-1)
	seen := p.mapping(n, "a parameter", keys{
		"id":         p.id(&q.ID, '_'),
		"label":      p.text(&q.Label),
		"type":       p.text(&kind),
		"help":       p.text(&q.Help),
		"many":       p.flag(&q.Many),
		"required":   p.flag(&q.Required),
		"default":    p.text(&q.Default),
		"all":        p.text(&q.All),
		"min":        p.text(&q.Min),
		"max":        p.text(&q.Max),
		"longest":    p.text(&q.Longest),
		"max_length": p.number(&length, 1, 10_000),
		"pattern":    p.text(&q.Pattern),
		"scale":      p.number(&scale, 0, 12),
		"measure":    p.text(&q.Measure),
		"currency":   p.text(&currency),
		"group":      p.text(&q.Group),
		"locked":     p.flag(&q.Locked),
		"hidden":     p.flag(&q.Hidden),
		"start":      p.oneOf(&q.Start, "previous"),
		"time":       p.flag(&q.Timed),
		"adjoining":  p.flag(&q.Adjoining),
		"compare":    p.flag(&q.Compare),
		"grain":      p.text(&grain),
		"of":         p.text(&q.Of),
		"columns":    func(n *yaml.Node) { p.columnOptions(n, &q) },
		"by":         func(n *yaml.Node) { p.by(n, &q) },
		"from":       p.text(&q.From),
		"options":    func(n *yaml.Node) { p.options(n, &q) },
	})
	p.need(n, "the parameter", seen, "id", "type")
	q.Type, q.MaxLength, q.Scale = param.Type(kind), int(length), int32(max(scale, 0))
	if q.Type == param.Money {
		p.moneyOf(n, &q, currency, scale)
	}
	if q.Type == param.Period || grain != "" {
		p.grain(n, &q, grain)
	}
	if q.Label == "" {
		q.Label = report.Titled(q.ID)
	}
	if seen["type"] != nil {
		for key, message := range q.Check() {
			at := seen[key]
			if at == nil {
				at = n
			}
			p.fault(at, "%s", message)
		}
	}
	p.def.Parameters = append(p.def.Parameters, q)
	p.def.ParameterLines = append(p.def.ParameterLines, n.Line)
	p.nodes.parameters = append(p.nodes.parameters, n)
}

// options reads code: label pairs, or a list of codes that are their own labels.
func (p *parser) options(n *yaml.Node, q *param.Parameter) {
	if n.Kind == yaml.MappingNode {
		p.each(n, "options", func(code, label *yaml.Node) {
			q.Options = append(q.Options, param.Entry{Code: code.Value, Label: label.Value, Current: true})
		})
		return
	}
	p.items(n, func(item *yaml.Node) {
		q.Options = append(q.Options, param.Entry{Code: item.Value, Label: item.Value, Current: true})
	})
}

func (p *parser) moneyOf(n *yaml.Node, q *param.Parameter, code string, scale int64) {
	c := report.Column{ID: q.ID, Kind: frame.Money, Currency: code}
	p.places(n, &c, scale)
	q.Scale, q.Measure = c.Scale, c.Currency
}

func (p *parser) grain(n *yaml.Node, q *param.Parameter, name string) {
	u, ok := period.UnitNamed(name)
	switch {
	case q.Type != param.Period:
		p.fault(n, "a %s parameter has no grain", q.Type)
	case !ok:
		p.fault(n, "parameter %s needs the grain of its data: day, week, month, quarter, year or fiscal year", q.ID)
	}
	q.Grain = u
}

// columnOptions reads the ids of the columns that may be chosen among.
func (p *parser) columnOptions(n *yaml.Node, q *param.Parameter) {
	p.items(n, func(item *yaml.Node) {
		q.Options = append(q.Options, param.Entry{Code: item.Value, Current: true})
	})
}

// by reads which parameters narrow which fields of the list.
func (p *parser) by(n *yaml.Node, q *param.Parameter) {
	q.By = map[string]string{}
	p.each(n, "by", func(field, parameter *yaml.Node) { q.By[field.Value] = parameter.Value })
}

// chosenColumns completes a parameter that chooses columns by the labels of
// its dataset; without columns of its own it offers all.
func (p *parser) chosenColumns(q *param.Parameter, at *yaml.Node) {
	d := p.def.Dataset(q.Of)
	if d == nil {
		p.unknown(at, "dataset", q.Of, "parameter %s is of the dataset %q, which does not exist%s", q.ID, q.Of,
			meant(q.Of, p.datasetIDs()))
		return
	}
	if len(q.Options) == 0 {
		for _, c := range d.Columns {
			q.Options = append(q.Options, param.Entry{Code: c.ID, Current: true})
		}
	}
	for i := range q.Options {
		c := d.Column(q.Options[i].Code)
		if c == nil {
			p.noColumn(at, d, q.Options[i].Code, "parameter "+q.ID+" offers the column")
			continue
		}
		q.Options[i].Label = c.Label
	}
}

// checkBy looks whether the parameters that narrow a list exist and do not
// depend on one another in a circle.
func (p *parser) checkBy(q *param.Parameter, at *yaml.Node) {
	for _, id := range slices.Sorted(maps.Values(q.By)) {
		if p.def.Parameter(id) == nil {
			p.noParameter(at, id, "parameter "+q.ID+" is narrowed by")
		} else if p.dependsOn(id, q.ID, len(p.def.Parameters)) {
			p.fault(at, "parameters %s depend on each other; let one of them stand alone", nearest.And([]string{q.ID, id}))
		}
	}
}

func (p *parser) dependsOn(id, other string, steps int) bool {
	q := p.def.Parameter(id)
	if q == nil || steps < 0 {
		return false
	}
	for _, above := range q.By {
		if above == other || p.dependsOn(above, other, steps-1) {
			return true
		}
	}
	return false
}
