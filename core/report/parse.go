package report

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"regexp"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"
	"golang.org/x/text/currency"

	"mantilla/core/frame"
	"mantilla/core/param"
)

// Defaults are what the service fills in where a definition is silent.
type Defaults struct {
	Currency string // ISO 4217 code of money columns
}

// Parse reads and checks a definition. When anything is wrong it returns nil
// and every fault, each with its place.
func Parse(text []byte, defaults Defaults) (*Definition, Faults) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, Faults{syntaxFault(err)}
	}
	if len(doc.Content) == 0 {
		return nil, Faults{{Line: 1, Column: 1, Message: "the definition is empty; it begins with report: ID"}}
	}
	root := doc.Content[0]
	p := parser{defaults: defaults, def: &Definition{Text: string(text)}}
	p.definition(root)
	if root.Kind == yaml.MappingNode {
		p.check(root)
	}
	if faults := p.sorted(); len(faults) > 0 {
		return nil, faults
	}
	p.def.Version = version(root)
	return p.def, nil
}

var atLine = regexp.MustCompile(`line (\d+): (.*)`)

func syntaxFault(err error) Fault {
	f := Fault{Line: 1, Column: 1, Message: "the file is not YAML: " + err.Error()}
	if m := atLine.FindStringSubmatch(err.Error()); m != nil {
		f.Line, _ = strconv.Atoi(m[1])
		f.Message = "the file is not YAML: " + m[2]
	}
	return f
}

// version is the SHA-256 of the content as JSON with sorted keys, so that
// comments, spaces and the order of keys do not make a new version. The order
// of datasets and views does count and is kept beside them.
func version(root *yaml.Node) string {
	text, err := json.Marshal(canonical(root))
	if err != nil {
		panic("report: canonical content is plain data: " + err.Error())
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:])
}

func canonical(n *yaml.Node) any {
	switch n.Kind {
	case yaml.MappingNode:
		m := map[string]any{}
		var order []string
		for i := 0; i+1 < len(n.Content); i += 2 {
			key, value := n.Content[i].Value, n.Content[i+1]
			m[key] = canonical(value)
			if value.Kind == yaml.MappingNode {
				order = append(order, key)
			}
		}
		if len(order) > 1 {
			m[" order"] = order
		}
		return m
	case yaml.SequenceNode:
		list := make([]any, len(n.Content))
		for i, item := range n.Content {
			list[i] = canonical(item)
		}
		return list
	case yaml.AliasNode:
		return canonical(n.Alias)
	}
	return strings.TrimSpace(n.Value)
}

// parser reads a definition; nodes remembers where things stand for the checks
// that need the whole.
type parser struct {
	reader
	defaults Defaults
	def      *Definition
	nodes    struct {
		page, companions []*yaml.Node
		parameters       []*yaml.Node
		datasets, views  []*yaml.Node
	}
}

func (p *parser) definition(root *yaml.Node) {
	d := p.def
	d.Limits.AfterCrash = "fail"
	seen := p.mapping(root, "a report", keys{
		"report":     p.id(&d.ID, '-'),
		"title":      p.text(&d.Title),
		"category":   p.text(&d.Category),
		"depth":      p.oneOf(&d.Depth, "overview", "breakdown", "lines"),
		"companions": p.texts(&d.Companions),
		"about":      p.text(&d.About),
		"guide":      p.text(&d.Guide),
		"source":     p.text(&d.Source),
		"parameters": func(n *yaml.Node) { p.items(n, p.parameter) },
		"datasets":   func(n *yaml.Node) { p.each(n, "datasets", p.dataset) },
		"views":      func(n *yaml.Node) { p.each(n, "views", p.view) },
		"page": func(n *yaml.Node) {
			p.texts(&d.Page)(n)
			p.items(n, func(item *yaml.Node) { p.nodes.page = append(p.nodes.page, item) })
		},
		"limits": p.limits,
	})
	p.need(root, "the report", seen, "report", "title", "category", "depth", "about", "source", "datasets", "views")
}

// each reads a mapping from ids to bodies, in order.
func (p *parser) each(n *yaml.Node, what string, read func(id, body *yaml.Node)) {
	if n.Kind != yaml.MappingNode {
		p.fault(n, "%s must be a list of id: {...}", what)
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		read(n.Content[i], n.Content[i+1])
	}
}

func (p *parser) limits(n *yaml.Node) {
	l := &p.def.Limits
	p.mapping(n, "limits", keys{
		"rows": p.number(&l.Rows, 1, 1<<32-1),
		"time": func(n *yaml.Node) {
			d, err := time.ParseDuration(n.Value)
			if err != nil || d <= 0 {
				p.fault(n, "%q is not a length of time; write it as 90s or 10m", n.Value)
				return
			}
			l.Time = d
		},
		"after_crash": p.oneOf(&l.AfterCrash, "fail", "again"),
	})
}

func (p *parser) parameter(n *yaml.Node) {
	var q param.Parameter
	var kind string
	var length, scale int64
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
		"from":       p.text(&q.From),
		"options":    func(n *yaml.Node) { p.options(n, &q) },
	})
	p.need(n, "the parameter", seen, "id", "type")
	q.Type, q.MaxLength, q.Scale = param.Type(kind), int(length), int32(scale)
	if q.Label == "" {
		q.Label = titled(q.ID)
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
	p.def.parameterLines = append(p.def.parameterLines, n.Line)
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

func (p *parser) dataset(id, n *yaml.Node) {
	d := Dataset{}
	p.id(&d.ID, '_')(id)
	seen := p.mapping(n, "a dataset", keys{
		"from":     p.piece(&d.From),
		"where":    p.pieces(&d.Where),
		"group_by": p.pieces(&d.Group),
		"key":      p.text(&d.Key),
		"columns":  func(n *yaml.Node) { p.items(n, func(item *yaml.Node) { p.column(item, &d) }) },
	})
	p.need(n, "the dataset", seen, "from", "columns")
	if d.Key != "" && d.Column(d.Key) == nil {
		p.fault(seen["key"], "the key %q is not a column of dataset %s%s", d.Key, d.ID, meant(d.Key, columnIDs(&d)))
	}
	p.def.Datasets = append(p.def.Datasets, d)
	p.nodes.datasets = append(p.nodes.datasets, n)
}

func columnIDs(d *Dataset) []string {
	var ids []string
	for _, c := range d.Columns {
		ids = append(ids, c.ID)
	}
	return ids
}

func (p *parser) column(n *yaml.Node, d *Dataset) {
	c := Column{Stored: "smallest"}
	kind, total, scale := "text", "none", int64(-1)
	seen := p.mapping(n, "a column", keys{
		"id":       p.id(&c.ID, '_'),
		"label":    p.text(&c.Label),
		"is":       p.piece(&c.Is),
		"type":     p.text(&kind),
		"scale":    p.number(&scale, 0, 12),
		"currency": p.text(&c.Currency),
		"unit":     p.text(&c.Unit),
		"stored":   p.oneOf(&c.Stored, "smallest", "decimal"),
		"total":    p.text(&total),
		"opens":    func(n *yaml.Node) { p.opens(n, &c) },
	})
	p.need(n, "the column", seen, "id", "is", "type")
	if d.Column(c.ID) != nil {
		p.fault(n, "dataset %s has the column %q twice", d.ID, c.ID)
	}
	var err error
	if c.Kind, err = frame.KindNamed(kind); err != nil {
		p.fault(seen["type"], "%v", err)
	} else if c.Total, err = frame.OpNamed(total); err != nil {
		p.fault(seen["total"], "%v", err)
	} else if err = c.Total.Fits(c.Kind); err != nil {
		p.fault(seen["total"], "column %s: %v", c.ID, err)
	}
	p.places(n, &c, scale)
	if c.Label == "" {
		c.Label = titled(c.ID)
	}
	d.Columns = append(d.Columns, c)
}

// places settles scale and currency.
func (p *parser) places(n *yaml.Node, c *Column, scale int64) {
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

func (p *parser) opens(n *yaml.Node, c *Column) {
	o := Opens{}
	seen := p.mapping(n, "opens", keys{
		"report": p.text(&o.Report),
		"with": func(n *yaml.Node) {
			p.each(n, "with", func(name, from *yaml.Node) {
				o.With = append(o.With, Fill{name.Value, from.Value})
			})
		},
	})
	p.need(n, "opens", seen, "report")
	c.Opens = &o
}

func (p *parser) view(id, n *yaml.Node) {
	v := View{Empty: "say"}
	p.id(&v.ID, '_')(id)
	show := "table"
	seen := p.mapping(n, "a view", keys{
		"of":      p.text(&v.Of),
		"show":    p.oneOf(&show, "table"),
		"title":   p.text(&v.Title),
		"columns": p.texts(&v.Columns),
		"empty":   p.oneOf(&v.Empty, "say", "omit"),
		"sort": func(n *yaml.Node) {
			p.items(n, func(item *yaml.Node) { v.Sort = append(v.Sort, SortKey(item.Value)) })
		},
	})
	p.need(n, "the view", seen, "of")
	if v.Title == "" {
		v.Title = titled(v.ID)
	}
	p.def.Views = append(p.def.Views, v)
	p.nodes.views = append(p.nodes.views, n)
}

// SortKey reads a column id with a minus sign before it for descending order.
func SortKey(text string) frame.Key {
	column, descending := strings.CutPrefix(text, "-")
	return frame.Key{Column: column, Descending: descending}
}

func titled(id string) string {
	if id == "" {
		return ""
	}
	return strings.ToUpper(id[:1]) + strings.NewReplacer("_", " ", "-", " ").Replace(id[1:])
}
