package manuscript

import (
	"strings"

	"go.yaml.in/yaml/v3"
)

// Relinked is the text of a definition whose links to one report, as companions and from
// cells, lead to another; all else stays as it was written. A text that cannot be read stays.
func Relinked(text, from, to string) string {
	var doc yaml.Node
	if err := yaml.Unmarshal([]byte(text), &doc); err != nil {
		return text
	}
	return replaced(text, linksTo(&doc, "", from), func(*yaml.Node) string { return to })
}

// replaced is a text with other words in the places of some of its scalars, which are given
// in the text's order.
func replaced(text string, scalars []*yaml.Node, by func(*yaml.Node) string) string {
	lines := strings.SplitAfter(text, "\n")
	for i := len(scalars) - 1; i >= 0; i-- { // the last of a line first, so that columns stay right
		n := scalars[i]
		line := []rune(lines[n.Line-1])
		at := n.Column - 1
		lines[n.Line-1] = string(line[:at]) + strings.Replace(string(line[at:]), n.Value, by(n), 1)
	}
	return strings.Join(lines, "")
}

// Reused is the text of a definition that uses a shared parameter under the parameter's new
// id. Within the report it keeps the id that conditions, criteria and links know it by.
func Reused(text, from, to string) string {
	var uses []*yaml.Node
	named := map[*yaml.Node]string{} // what each of them becomes
	for _, item := range parametersOf(text) {
		use := Value(item, "use")
		if use == nil || use.Value != from {
			continue
		}
		named[use] = to
		if Value(item, "id") == nil {
			own := ", id: "
			if item.Style&yaml.FlowStyle == 0 {
				own = "\n" + strings.Repeat(" ", item.Column-1) + "id: "
			}
			named[use] = to + own + from
		}
		uses = append(uses, use)
	}
	return replaced(text, uses, func(n *yaml.Node) string { return named[n] })
}

// Redeclared is a file of shared parameters in which one has another id.
func Redeclared(text, from, to string) string {
	var ids []*yaml.Node
	for _, item := range parametersOf(text) {
		if id := Value(item, "id"); id != nil && id.Value == from {
			ids = append(ids, id)
		}
	}
	return replaced(text, ids, func(*yaml.Node) string { return to })
}

// parametersOf are the nodes of a text's parameters; none where it cannot be read.
func parametersOf(text string) []*yaml.Node {
	var doc yaml.Node
	if err := yaml.Unmarshal([]byte(text), &doc); err != nil || len(doc.Content) == 0 {
		return nil
	}
	list := Value(doc.Content[0], "parameters")
	if list == nil {
		return nil
	}
	return list.Content
}

// linksTo are the names of a report in the companions and the links of cells, in the file's
// order. Within is the key that a node is the value of.
func linksTo(n *yaml.Node, within, report string) (links []*yaml.Node) {
	switch n.Kind {
	case yaml.MappingNode:
		for i := 0; i+1 < len(n.Content); i += 2 {
			key := n.Content[i].Value
			if within == "opens" {
				key = "opens." + key
			}
			links = append(links, linksTo(n.Content[i+1], key, report)...)
		}
	case yaml.ScalarNode:
		if n.Value == report && (within == "companions" || within == "opens.report") {
			links = append(links, n)
		}
	default:
		for _, item := range n.Content {
			links = append(links, linksTo(item, within, report)...)
		}
	}
	return links
}
