// Package fold makes texts comparable as people compare them: without case and
// without the marks on letters.
package fold

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Text returns a text without case and accents, for comparing as people do.
func Text(t string) string {
	for i := range len(t) {
		if t[i] >= 0x80 {
			return undecomposed.Replace(strings.ToLower(unmarked(t)))
		}
	}
	return strings.ToLower(t)
}

// unmarked returns a text without the marks on its letters.
func unmarked(t string) string {
	var b strings.Builder
	b.Grow(len(t))
	for _, r := range norm.NFD.String(t) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// undecomposed are letters that Unicode does not take apart into a letter and
// a mark, but people type without it.
var undecomposed = strings.NewReplacer("ø", "o", "æ", "ae", "œ", "oe", "ß", "ss", "ł", "l", "đ", "d", "ð", "d", "þ",
	"th")

// Compare orders two texts by their folded forms, and where these are equal exactly.
func Compare(foldedA, a, foldedB, b string) int {
	if c := strings.Compare(foldedA, foldedB); c != 0 {
		return c
	}
	return strings.Compare(a, b)
}
