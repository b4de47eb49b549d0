package report

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
	lines := strings.SplitAfter(text, "\n")
	links := linksTo(&doc, "", from)
	for i := len(links) - 1; i >= 0; i-- { // the last of a line first, so that columns stay right
		n := links[i]
		line := []rune(lines[n.Line-1])
		at := n.Column - 1
		lines[n.Line-1] = string(line[:at]) + strings.Replace(string(line[at:]), from, to, 1)
	}
	return strings.Join(lines, "")
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
