// Package manuscript works on the text of a definition as its author wrote it: what it
// names, and the text with other names in their places. Nothing is checked, and all
// else stays as it was written, comments and spaces included.
package manuscript

import (
	"strings"

	"go.yaml.in/yaml/v3"
)

// SourceOf is the source that the text of a definition names; "" where it cannot be read.
func SourceOf(text []byte) string {
	for line := range strings.Lines(string(text)) {
		if value, ok := strings.CutPrefix(line, "source:"); ok {
			var id string
			if yaml.Unmarshal([]byte(value), &id) == nil {
				return id
			}
		}
	}
	return ""
}

// Head reads the id and the title of a definition, whatever else is wrong with it; ""
// where they cannot be read.
func Head(text []byte) (id, title string) {
	for line := range strings.Lines(string(text)) {
		key, value, found := strings.Cut(line, ":")
		if !found || strings.TrimSpace(key) != key {
			continue
		}
		var scalar string
		if key != "report" && key != "title" || yaml.Unmarshal([]byte(value), &scalar) != nil {
			continue
		}
		if key == "report" {
			id = scalar
		} else {
			title = scalar
		}
	}
	return id, title
}

// Renamed is the text of a definition under another id, and title where one is given;
// all else stays as it was written.
func Renamed(text, id, title string) string {
	text = headed(text, "report", id)
	if title == "" {
		return text
	}
	return headed(text, "title", "'"+strings.ReplaceAll(title, "'", "''")+"'")
}

// Rebased is the text of a definition with another source.
func Rebased(text, source string) string { return headed(text, "source", source) }

// headed is a text with another value under a key of the whole. It need not be readable. A value
// of several lines goes with all of them.
func headed(text, key, value string) string {
	var out strings.Builder
	going := false // lines of the old value
	for line := range strings.Lines(text) {
		if going && strings.HasPrefix(strings.TrimLeft(line, " \t"), "#") && line[0] != '#' {
			going = false // nothing goes on after a comment
		}
		if going && (strings.TrimSpace(line) == "" || line[0] == ' ' || line[0] == '\t') {
			continue
		}
		old, found := strings.CutPrefix(line, key+":")
		if going = found; found {
			ending := line[len(strings.TrimRight(line, "\r\n")):]
			line = key + ": " + value + comment(strings.TrimRight(old, "\r\n")) + ending
		}
		out.WriteString(line)
	}
	return out.String()
}

// comment is what stands behind a value on its line, with the spaces before it; "" for nothing.
func comment(value string) string {
	behind := strings.TrimLeft(value, " ")
	if behind != "" && (behind[0] == '\'' || behind[0] == '"') {
		behind = behind[quotedLength(behind):]
	}
	at := strings.Index(behind, " #")
	if at < 0 {
		return ""
	}
	return behind[len(strings.TrimRight(behind[:at], " ")):]
}

// quotedLength is how long the quoted text is that a value begins with. In single quotes two of them
// are one of the text; in double quotes what follows a backslash belongs to it.
func quotedLength(value string) int {
	for i := 1; i < len(value); i++ {
		switch {
		case value[0] == '"' && value[i] == '\\', value[0] == '\'' && strings.HasPrefix(value[i:], "''"):
			i++
		case value[i] == value[0]:
			return i + 1
		}
	}
	return len(value)
}

// Uses are the shared parameters that the text of a definition uses.
func Uses(text []byte) (ids []string) {
	var head struct {
		Parameters []struct {
			Use string `yaml:"use"`
		} `yaml:"parameters"`
	}
	if err := yaml.Unmarshal(text, &head); err != nil {
		return nil // it is told when it is read
	}
	for _, p := range head.Parameters {
		if p.Use != "" {
			ids = append(ids, p.Use)
		}
	}
	return ids
}

// Value is what stands in a mapping under a key; nil where nothing does.
func Value(mapping *yaml.Node, key string) *yaml.Node {
	if mapping.Kind != yaml.MappingNode {
		return nil
	}
	for i := 0; i+1 < len(mapping.Content); i += 2 {
		if mapping.Content[i].Value == key {
			return mapping.Content[i+1]
		}
	}
	return nil
}
