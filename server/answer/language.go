package answer

import (
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// NumbersOf is how numbers are written in the language that a browser asks for first, by the
// tables of the Unicode Common Locale Data Repository; "" where none of our ways is theirs.
func NumbersOf(accepted string) string {
	tags, _, err := language.ParseAcceptLanguage(accepted)
	if err != nil || len(tags) == 0 {
		return ""
	}
	written := message.NewPrinter(tags[0]).Sprint(number.Decimal(1_234_567.5))
	_, rest, _ := strings.Cut(written, "1")
	group, _, _ := strings.Cut(rest, "2")
	switch group {
	case ",":
		return "comma"
	case ".":
		return "dot"
	case "\u00a0", "\u202f":
		return "space"
	case "’", "'":
		return "apostrophe"
	}
	return ""
}
