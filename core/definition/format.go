package definition

import (
	"bytes"
	"strings"

	"go.yaml.in/yaml/v3"
)

// Format writes the text of a definition evenly: two spaces for each depth, no spaces at the
// ends of lines, one empty line at most between two. Comments stay, and it means the same.
// What cannot be read is a fault.
func Format(text []byte) (string, Faults) {
	if len(text) > MostText {
		_, faults := Read(text, Defaults{})
		return "", faults
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return "", Faults{syntaxFault(err)}
	}
	if len(doc.Content) == 0 {
		return "", nil
	}
	var out bytes.Buffer
	to := yaml.NewEncoder(&out)
	to.SetIndent(2)
	if err := to.Encode(&doc); err != nil {
		return "", Faults{{Line: 1, Column: 1, Message: "the text cannot be written: " + err.Error()}}
	}
	even := out.String()
	var again yaml.Node
	err := yaml.Unmarshal([]byte(even), &again)
	if err != nil || version(plainly(&again)) != version(plainly(&doc)) {
		return string(text), nil // it would not mean the same; it stays as it was written
	}
	return spaced(strings.TrimRight(even, "\n")+"\n", string(text)), nil
}

// spaced puts an empty line before each line that had one or several before it.
func spaced(even, was string) string {
	var after []string // lines that stood after an empty one, in order
	empty := false
	for line := range strings.Lines(was) {
		words := strings.Join(strings.Fields(line), " ")
		if empty && words != "" {
			after = append(after, words)
		}
		empty = words == ""
	}
	var out strings.Builder
	for line := range strings.Lines(even) {
		if len(after) > 0 && strings.Join(strings.Fields(line), " ") == after[0] {
			after = after[1:]
			out.WriteString("\n")
		}
		out.WriteString(line)
	}
	return out.String()
}

// plainly is the content of a document.
func plainly(doc *yaml.Node) *yaml.Node {
	r := reader{}
	return r.plain(doc.Content[0])
}
