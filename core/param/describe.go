package param

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"mantilla/core/nearest"
)

// Describe says a set of values in one plain sentence: Received 1–30 September
// 2026; districts Hollin and Marr with everything below; all grades.
func Describe(values Values) string {
	var parts []string
	for _, v := range values {
		if s := v.Phrase(); s != "" {
			parts = append(parts, s)
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return withFirst(strings.Join(parts, "; "), unicode.ToUpper) + "."
}

// Phrase says one value within a sentence; "" where there is nothing to say.
func (v Value) Phrase() string {
	p := v.Parameter
	if p.Hidden && v.Typed == p.Default {
		return ""
	}
	label := withFirst(p.Label, unicode.ToLower)
	if !v.Given {
		if p.Type == Unit && v.Cut {
			return "all of your units"
		}
		return p.All
	}
	return kinds[p.Type].phrase(v, label)
}

// units names the units by their kind: districts Hollin and Marr.
func (v Value) units() string {
	var kinds []string
	byKind := map[string][]string{}
	for _, e := range v.Entries {
		if byKind[e.Kind] == nil {
			kinds = append(kinds, e.Kind)
		}
		byKind[e.Kind] = append(byKind[e.Kind], e.Label)
	}
	var parts []string
	for _, kind := range kinds {
		noun := kind
		if len(byKind[kind]) > 1 {
			noun += "s"
		}
		parts = append(parts, strings.TrimSpace(noun+" "+nearest.And(byKind[kind])))
	}
	said := nearest.And(parts)
	if len(v.Codes) > len(v.Entries) {
		said += " with everything below" + map[bool]string{true: " that is yours"}[v.Cut]
	}
	if v.Only {
		said = "only " + said + " itself"
	}
	return said
}

func withFirst(text string, change func(rune) rune) string {
	r, n := utf8.DecodeRuneInString(text)
	if n == 0 {
		return text
	}
	return string(change(r)) + text[n:]
}
