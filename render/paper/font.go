package paper

import (
	"strings"
	"sync"

	"codeberg.org/go-fonts/liberation/liberationsansbold"
	"codeberg.org/go-fonts/liberation/liberationsansregular"
	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

// face is a font with the widths of its letters, in thousandths of its size.
type face struct {
	file   []byte
	common [0x2200]float64 // Latin, Greek, Cyrillic, punctuation, currencies
	other  func(rune) float64
}

// faces are the regular and the bold font. They are embedded in every file, so
// that it looks the same everywhere.
var faces = sync.OnceValue(func() [2]*face {
	return [2]*face{newFace(liberationsansregular.TTF), newFace(liberationsansbold.TTF)}
})

func newFace(file []byte) *face {
	f := &face{file: file}
	parsed, err := sfnt.Parse(file)
	if err != nil {
		panic("the font that is built in cannot be read: " + err.Error())
	}
	var guard sync.Mutex
	var buffer sfnt.Buffer
	f.other = func(r rune) float64 {
		guard.Lock()
		defer guard.Unlock()
		glyph, err := parsed.GlyphIndex(&buffer, r)
		if err != nil {
			return 600
		}
		width, err := parsed.GlyphAdvance(&buffer, glyph, fixed.I(1000), font.HintingNone)
		if err != nil {
			return 600
		}
		return float64(width) / 64
	}
	for r := range f.common {
		f.common[r] = f.other(rune(r))
	}
	return f
}

func faceOf(bold bool) *face {
	if bold {
		return faces()[1]
	}
	return faces()[0]
}

// Width returns how wide a text is.
func Width(text string, size float64, bold bool) float64 {
	f := faceOf(bold)
	sum := 0.0
	for _, r := range text {
		if int(r) < len(f.common) {
			sum += f.common[r]
		} else {
			sum += f.other(r)
		}
	}
	return sum * size / 1000
}

// fits tells whether a text fits a width, but for what adding up widths costs.
func fits(text string, width, size float64, bold bool) bool {
	return Width(text, size, bold) <= width+0.05
}

// cut shortens a text to a width, with an ellipsis where it does.
func cut(text string, width, size float64, bold bool) string {
	if fits(text, width, size, bold) {
		return text
	}
	letters := []rune(text)
	low, high := 0, len(letters)
	for low < high { // the longest beginning that fits
		middle := (low + high + 1) / 2
		if Width(string(letters[:middle])+"…", size, bold) <= width {
			low = middle
		} else {
			high = middle - 1
		}
	}
	return strings.TrimRight(string(letters[:low]), " ") + "…"
}

// whole is how many lines a text has of which nothing is cut.
const whole = 1 << 20

// wrap breaks a text into lines of a width, between words where it can; what
// does not fit into most lines is cut. Of a whole text words break where they are
// longer than a line.
func wrap(text string, width, size float64, bold bool, most int) []string {
	if most <= 1 {
		return []string{cut(strings.ReplaceAll(text, "\n", " "), width, size, bold)}
	}
	if fits(text, width, size, bold) && !strings.ContainsRune(text, '\n') {
		return []string{text}
	}
	var lines []string
	for paragraph := range strings.SplitSeq(text, "\n") {
		line := ""
		words := strings.Fields(paragraph)
		if most == whole {
			words = broken(words, width, size, bold)
		}
		for _, word := range words {
			longer := word
			if line != "" {
				longer = line + " " + word
			}
			if line == "" || fits(longer, width, size, bold) {
				line = longer
				continue
			}
			lines, line = append(lines, line), word
		}
		lines = append(lines, line)
	}
	if len(lines) > most {
		lines[most-1] = strings.Join(lines[most-1:], " ")
		lines = lines[:most]
	}
	for i := range lines {
		lines[i] = cut(lines[i], width, size, bold)
	}
	return lines
}

// broken are words of which none is longer than a line.
func broken(words []string, width, size float64, bold bool) (out []string) {
	for _, word := range words {
		for !fits(word, width, size, bold) {
			letters := []rune(word)
			n := 1
			for n < len(letters)-1 && fits(string(letters[:n+1]), width, size, bold) {
				n++
			}
			if n == len(letters) {
				break // one letter that is wider than the line
			}
			out, word = append(out, string(letters[:n])), string(letters[n:])
		}
		out = append(out, word)
	}
	return out
}
