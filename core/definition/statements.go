package definition

import (
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/report"
)

// mostFollow is the longest lag, in working days.
const mostFollow = 60

func (p *parser) statement(id, n *yaml.Node) {
	s := report.Statement{File: report.StatementFile{Separator: "comma", Decimal: "point", Dates: "iso"}}
	p.id(&s.ID, '_')(id)
	follows := "0..0"
	seen := p.mapping(n, "a statement", keys{
		"of":        p.text(&s.Of),
		"title":     p.text(&s.Title),
		"day":       p.text(&s.Day),
		"amount":    p.text(&s.Amount),
		"reference": p.text(&s.Reference),
		"follows":   p.text(&follows),
		"calendar":  p.text(&s.Calendar),
		"tolerance": p.text(&s.Tolerance),
		"reversed":  p.flag(&s.Reversed),
		"file": func(n *yaml.Node) {
			f := &s.File
			p.mapping(n, "the statement's file", keys{
				"day": p.text(&f.Day), "amount": p.text(&f.Amount), "reference": p.text(&f.Reference),
				"text": p.text(&f.Text), "currency": p.text(&f.Currency),
				"separator": p.oneOf(&f.Separator, "comma", "semicolon", "tab", "bar"),
				"decimal":   p.oneOf(&f.Decimal, "point", "comma"),
				"dates":     p.oneOf(&f.Dates, "iso", "dmy", "mdy"),
			})
			if (f.Day == "") != (f.Amount == "") {
				p.fault(n, "the statement's file needs the headings of both day and amount")
			}
		},
	})
	p.need(n, "the statement", seen, "of", "day", "amount")
	from, to, _ := strings.Cut(follows, "..")
	first, err := strconv.ParseUint(from, 10, 8)
	last, wrong := strconv.ParseUint(to, 10, 8)
	if s.From, s.To = int(first), int(last); err != nil || wrong != nil || s.To < s.From || s.To > mostFollow {
		p.fault(seen["follows"], "%q is no lag in working days; write it as 2..5, at most %d", follows, mostFollow)
	}
	if s.Title == "" {
		s.Title = report.Titled(s.ID)
	}
	p.def.Statements = append(p.def.Statements, s)
	p.nodes.statements = append(p.nodes.statements, n)
}

// checkStatements holds the statements against their datasets.
func (p *parser) checkStatements() {
	for i := range p.def.Statements {
		if err := p.def.Statements[i].Check(p.def); err != nil {
			p.fault(p.nodes.statements[i], "%s", err)
		}
	}
}
