// Package definition reads the text of a report's definition, the YAML file in which a
// librarian declares its parameters, datasets and views, and checks it: every fault
// with its place. What is right becomes a [report.Definition].
package definition

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"mantilla/core/manuscript"
	"mantilla/core/report"
)

// Defaults are what the service fills in where a definition is silent.
type Defaults struct {
	Currency string  // ISO 4217 code of money columns
	Shared   *Shared // parameters that definitions may use
	// Dialect tells what a source speaks; where it is nil, [AnyQuotes] count, and what is
	// switched by dialect has any of its forms.
	Dialect  func(source string) Dialect
	Dialects []string // the names of all that there are; none where that is not known
}

// Parse reads and checks a definition. When anything is wrong it returns nil
// and every fault, each with its place.
func Parse(text []byte, defaults Defaults) (*report.Definition, Faults) {
	d, faults := Read(text, defaults)
	if faults != nil {
		return nil, faults
	}
	return d, nil
}

// MostText is how many bytes the text of a definition may have.
const MostText = 1 << 20

// Read reads a definition as far as it is right. Beside the faults it returns what
// can be asked of the source all the same: the parameters, columns and conditions
// in which nothing is wrong, without views; nil where there is nothing of it.
func Read(text []byte, defaults Defaults) (*report.Definition, Faults) {
	if len(text) > MostText {
		return nil, Faults{{Line: 1, Column: 1, Message: fmt.Sprintf("the definition has %d bytes; at most %d can be read",
			len(text), MostText)}}
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, Faults{syntaxFault(err)}
	}
	if len(doc.Content) == 0 {
		return nil, Faults{{Line: 1, Column: 1, Message: "the definition is empty; it begins with report: ID"}}
	}
	p := parser{defaults: defaults, def: &report.Definition{Text: string(text)}, missed: map[string]bool{},
		lost: map[string]bool{}}
	root := p.plain(doc.Content[0])
	if len(p.faults) > 0 {
		return nil, p.faults
	}
	p.use(root)
	p.def.Version = version(root)
	if source := manuscript.Value(root, "source"); source != nil {
		p.source = source.Value
	}
	root = p.spoken(root)
	p.definition(root)
	if root.Kind == yaml.MappingNode {
		p.check()
	}
	if faults := p.sorted(); len(faults) > 0 {
		return p.sound(faults), faults
	}
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
	}
	return strings.TrimSpace(n.Value)
}

// parser reads a definition; nodes remembers where things stand for the checks
// that need the whole.
type parser struct {
	reader
	defaults Defaults
	def      *report.Definition
	source   string          // that the definition reads
	unspoken []*yaml.Node    // forms of dialects that the source does not speak
	missed   map[string]bool // parameters that a wrong name probably means
	lost     map[string]bool // parameters of which nothing is known but that they are there
	nodes    struct {
		page, companions []*yaml.Node
		parameters       []*yaml.Node
		notes            []*yaml.Node
		datasets, views  []*yaml.Node
		imports          []*yaml.Node
		statements       []*yaml.Node
		checks, expected []*yaml.Node
	}
}

func (p *parser) definition(root *yaml.Node) {
	d := p.def
	d.Limits.AfterCrash = "fail"
	seen := p.mapping(root, "a report", keys{
		"report":       p.id(&d.ID, '-'),
		"title":        p.text(&d.Title),
		"category":     p.text(&d.Category),
		"depth":        p.oneOf(&d.Depth, "overview", "breakdown", "lines"),
		"companions":   p.texts(&d.Companions),
		"asks_purpose": p.flag(&d.AsksPurpose),
		"follow":       p.oneOf(&d.Follow, "runners", "readers"),
		"about":        p.text(&d.About),
		"guide":        p.text(&d.Guide),
		"source":       p.text(&d.Source),
		"parameters":   func(n *yaml.Node) { p.items(n, p.parameter) },
		"notes":        func(n *yaml.Node) { p.items(n, p.note) },
		"datasets":     func(n *yaml.Node) { p.each(n, "datasets", p.dataset) },
		"views":        func(n *yaml.Node) { p.each(n, "views", p.view) },
		"page": func(n *yaml.Node) {
			p.texts(&d.Page)(n)
			p.items(n, func(item *yaml.Node) { p.nodes.page = append(p.nodes.page, item) })
		},
		"imports":    func(n *yaml.Node) { p.each(n, "imports", p.importFile) },
		"statements": func(n *yaml.Node) { p.each(n, "statements", p.statement) },
		"checks":     func(n *yaml.Node) { p.items(n, p.aCheck) },
		"expected":   func(n *yaml.Node) { p.items(n, p.anExpected) },
		"limits":     p.limits,
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

// note reads a note; its condition is read when all parameters are known.
func (p *parser) note(n *yaml.Node) {
	var when, say string
	seen := p.mapping(n, "a note", keys{"when": p.text(&when), "say": p.text(&say)})
	p.need(n, "the note", seen, "when", "say")
	p.def.Notes = append(p.def.Notes, report.Note{When: when, Say: say})
	p.nodes.notes = append(p.nodes.notes, n)
}
