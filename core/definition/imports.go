package definition

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"mantilla/core/report"
)

func (p *parser) importFile(id, n *yaml.Node) {
	f := report.Import{
		Name:      "Measure",
		Value:     "Value",
		Separator: "comma",
		Decimal:   "point",
		Headings:  true,
	}
	p.id(&f.ID, '_')(id)
	seen := p.mapping(n, "an import-ready file", keys{
		"of":        p.text(&f.Of),
		"title":     p.text(&f.Title),
		"columns":   func(n *yaml.Node) { p.items(n, func(item *yaml.Node) { p.importColumn(item, &f) }) },
		"sort":      p.texts(&f.Sort),
		"unpivot":   func(n *yaml.Node) { p.unpivot(n, &f) },
		"separator": p.oneOf(&f.Separator, "comma", "semicolon", "tab", "bar"),
		"decimal":   p.oneOf(&f.Decimal, "point", "comma"),
		"headings":  p.flag(&f.Headings),
	})
	p.need(n, "the import-ready file", seen, "of", "columns")
	if f.Decimal == "comma" && f.Separator == "comma" {
		p.fault(n, "a comma cannot be decimal sign and separator; write separator: semicolon")
	}
	if f.Title == "" {
		f.Title = report.Titled(f.ID)
	}
	p.def.Imports = append(p.def.Imports, f)
	p.nodes.imports = append(p.nodes.imports, n)
}

// importColumn reads the id of a column, or {is: ID, as: HEADING}.
func (p *parser) importColumn(n *yaml.Node, f *report.Import) {
	c := report.ImportColumn{Is: n.Value, As: n.Value}
	if n.Kind == yaml.MappingNode {
		seen := p.mapping(n, "a column", keys{"is": p.text(&c.Is), "as": p.text(&c.As)})
		p.need(n, "the column", seen, "is", "as")
	}
	f.Columns = append(f.Columns, c)
}

func (p *parser) unpivot(n *yaml.Node, f *report.Import) {
	seen := p.mapping(n, "unpivot",
		keys{"columns": p.texts(&f.Unpivot), "name": p.text(&f.Name), "value": p.text(&f.Value)})
	p.need(n, "unpivot", seen, "columns")
}

// checkImports holds the import-ready files against their datasets.
func (p *parser) checkImports() {
	for i := range p.def.Imports {
		f, n := &p.def.Imports[i], p.nodes.imports[i]
		d := p.def.Dataset(f.Of)
		if d == nil {
			p.fault(n, "the import-ready file %s is of the dataset %q, which is not declared", f.ID, f.Of)
			continue
		}
		ids := slices.Clone(f.Unpivot)
		for _, c := range f.Columns {
			ids = append(ids, c.Is)
		}
		for _, s := range f.Sort {
			ids = append(ids, report.SortKey(s).Column)
		}
		for _, id := range ids {
			if c := d.Column(id); c == nil || c.AtGroups {
				p.fault(n, "the import-ready file %s speaks of the column %q, which rows of %s do not have", f.ID, id, f.Of)
			}
		}
	}
}
