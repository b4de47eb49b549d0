// Package pattern is what a text may be like.
package pattern

import (
	"strings"
	"unicode/utf8"
)

// Pattern is what stands after like: texts with any characters between them,
// each text in small letters, in which _ stands for one character.
type Pattern struct {
	parts       []string
	first, last bool // the text begins with the first part, ends with the last one
}

// Of takes a pattern apart at its % signs.
func Of(text string) Pattern {
	parts := strings.Split(strings.ToLower(text), "%")
	p := Pattern{first: parts[0] != "", last: parts[len(parts)-1] != ""}
	for _, part := range parts {
		if part != "" {
			p.parts = append(p.parts, part)
		}
	}
	if len(parts) == 1 {
		p.first, p.last = true, true
	}
	return p
}

// Matches tells whether a text is like the pattern. The parts are looked for
// from the left, each as early as it comes, so that no text is looked through
// more than once for each part.
func (p Pattern) Matches(text string) bool {
	text = strings.ToLower(text)
	if len(p.parts) == 0 {
		return text == "" || !p.first
	}
	parts := p.parts
	if p.first {
		n, ok := begins(text, parts[0])
		if !ok {
			return false
		}
		text, parts = text[n:], parts[1:]
		if len(parts) == 0 {
			return !p.last || text == ""
		}
	}
	if p.last {
		tail := parts[len(parts)-1]
		from := tailOf(text, utf8.RuneCountInString(tail))
		if from < 0 {
			return false
		}
		if n, ok := begins(text[from:], tail); !ok || from+n != len(text) {
			return false
		}
		text, parts = text[:from], parts[:len(parts)-1]
	}
	for _, part := range parts {
		at := indexOf(text, part)
		if at < 0 {
			return false
		}
		text = text[at:]
	}
	return true
}

// begins tells whether a text begins with a part, and how many bytes it takes.
func begins(text, part string) (n int, ok bool) {
	for _, want := range part {
		r, size := utf8.DecodeRuneInString(text[n:])
		if size == 0 || want != '_' && r != want {
			return 0, false
		}
		n += size
	}
	return n, true
}

// indexOf returns where a text goes on after the first place of a part, or -1.
func indexOf(text, part string) int {
	if !strings.Contains(part, "_") {
		at := strings.Index(text, part)
		if at < 0 {
			return -1
		}
		return at + len(part)
	}
	for from := 0; from <= len(text); {
		if n, ok := begins(text[from:], part); ok {
			return from + n
		}
		_, size := utf8.DecodeRuneInString(text[from:])
		from += max(size, 1)
	}
	return -1
}

// tailOf returns where the last so many characters of a text begin, or -1.
func tailOf(text string, runes int) int {
	at := len(text)
	for range runes {
		_, size := utf8.DecodeLastRuneInString(text[:at])
		if size == 0 {
			return -1
		}
		at -= size
	}
	return at
}
