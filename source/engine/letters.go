package engine

import (
	"strings"

	"mantilla/core/fold"
)

// Letters says which letters the texts of a column have: how they are ordered and searched, as
// [fold.Text] does, where they lie.
type Letters string

// The letters of a column. Where there are others, only columns of few different texts can be
// ordered by.
const (
	ASCII    Letters = "ascii"    // none but those of ASCII
	Foldable Letters = "foldable" // of the Latin, Greek and Cyrillic alphabets, with what stands between them
	Other    Letters = ""
)

// The characters that an engine can be told how to fold, one by one: no mark that stands by itself
// is among them, and not the one that parts a folded text from the text itself.
const (
	firstKnown = 0x02
	lastKnown  = 0x052F
	firstMark  = 0x0300
	lastMark   = 0x036F
)

// known tells whether a character can be folded in an engine.
func known(r rune) bool {
	switch {
	case r < firstKnown, r >= firstMark && r <= lastMark, r >= 0x0483 && r <= 0x0489:
		return false
	case r <= lastKnown, r >= 0x2010 && r <= 0x2027, r >= 0x2030 && r <= 0x205E, r >= 0x20A0 && r <= 0x20BF:
		return true
	}
	return false
}

// knownClass is a pattern of one character that is known.
const knownClass = `[\u0002-\u02FF\u0370-\u0482\u048A-\u052F\u2010-\u2027\u2030-\u205E\u20A0-\u20BF]`

// IsASCII writes a test whether a text has but letters of ASCII; IsFoldable, but those that are known.
func IsASCII(cell string) string {
	return "(octet_length(" + cell + ") = char_length(" + cell + ") and position(chr(1) in " + cell + ") = 0)"
}

// IsFoldable writes a test whether a text has but characters that are known.
func IsFoldable(cell string) string { return "(" + cell + ` ~ '^` + knownClass + `*$')` }

// folding is what becomes of characters one by one, as [fold.Text] says it: those that become one
// other, and those that become several or none.
var folding = func() (f struct {
	from, to string
	several  [][2]string
}) {
	var from, to strings.Builder
	for r := rune(firstKnown); r <= lastKnown; r++ {
		if !known(r) {
			continue
		}
		switch folded := fold.Text(string(r)); {
		case folded == string(r):
		case len([]rune(folded)) == 1:
			from.WriteRune(r)
			to.WriteString(folded)
		default:
			f.several = append(f.several, [2]string{string(r), folded})
		}
	}
	f.from, f.to = from.String(), to.String()
	return f
}()

// folded writes a text without case and marks.
func folded(cell string, letters Letters) string {
	plain := "lower(" + cell + ` collate "C")`
	if letters == ASCII {
		return plain
	}
	out := "translate(" + cell + ", " + quoted(folding.from) + ", " + quoted(folding.to) + ")"
	for _, x := range folding.several {
		out = "replace(" + out + ", " + quoted(x[0]) + ", " + quoted(x[1]) + ")"
	}
	// Most texts are plain ones, which cost a twentieth.
	return "(case when octet_length(" + cell + ") = char_length(" + cell + ") then " + plain + " else " + out +
		` collate "C" end)`
}

// Fold writes a text without case and marks, as far as its letters are Latin, Greek or Cyrillic.
func Fold(cell string) string { return folded(cell, Foldable) }

func quoted(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }
