package render

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// reserved are names that a system keeps for its devices.
var reserved = map[string]bool{"con": true, "prn": true, "aux": true, "nul": true, "com1": true, "com2": true,
	"com3": true, "com4": true, "lpt1": true, "lpt2": true, "lpt3": true}

// SafeName makes a text a file name that every common system takes: without
// the signs that any of them forbids, not one of their own names, and not
// longer than they allow with an ending.
func SafeName(text string) string {
	var b strings.Builder
	space := false
	for _, r := range text {
		switch {
		case unicode.IsSpace(r) || strings.ContainsRune(`<>:"/\|?*`, r) || !unicode.IsPrint(r):
			space = true
			continue
		case space && b.Len() > 0:
			b.WriteByte(' ')
		}
		space = false
		b.WriteRune(r)
	}
	name := strings.Trim(b.String(), ". ")
	for len(name) > 180 {
		_, n := utf8.DecodeLastRuneInString(name)
		name = strings.TrimRight(name[:len(name)-n], ". ")
	}
	if name == "" || reserved[strings.ToLower(name)] {
		return "report " + name
	}
	return name
}

// FileName fills a pattern such as "{report} {result} {part}" with what it
// speaks of, and makes it a file name. What is not known stays out.
func FileName(pattern string, fields map[string]string, ending string) string {
	var pairs []string
	for name, text := range fields {
		pairs = append(pairs, "{"+name+"}", text)
	}
	filled := strings.NewReplacer(pairs...).Replace(pattern)
	for {
		from := strings.IndexByte(filled, '{')
		to := strings.IndexByte(filled, '}')
		if from < 0 || to < from {
			break
		}
		filled = filled[:from] + filled[to+1:]
	}
	return SafeName(filled) + "." + ending
}
