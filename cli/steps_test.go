package cli_test

import (
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// step is what a person types, how it ends, and what must be printed.
type step struct {
	who, typed string // words, with ' around those that have spaces
	code       int
	says       string // pieces, with | between; one after ! must not be printed
}

// follow has people of the demo type commands that build on one another.
func follow(t *testing.T, s *demotest.Service, all []step) {
	t.Helper()
	people := map[string]person{}
	for _, c := range all {
		if _, known := people[c.who]; !known {
			people[c.who] = as(t, s, c.who)
		}
		got := people[c.who].types(t, words(c.typed)...)
		if got.code != c.code {
			t.Errorf("%s: mantilla %s: exit code %d, want %d\n%s%s", c.who, c.typed, got.code, c.code, got.out, got.err)
		}
		for piece := range strings.SplitSeq(c.says, "|") {
			piece, unwanted := strings.CutPrefix(piece, "!")
			if strings.Contains(got.out+got.err, piece) == unwanted {
				t.Errorf("%s: mantilla %s: %q, unwanted: %v, in\n%s%s", c.who, c.typed, piece, unwanted, got.out, got.err)
			}
		}
	}
}

// words are those of a line as a shell would hand them on.
func words(line string) (out []string) {
	var word strings.Builder
	quoted, begun := false, false
	end := func() {
		if begun {
			out = append(out, word.String())
		}
		word.Reset()
		begun = false
	}
	for _, r := range line {
		switch {
		case r == '\'':
			quoted, begun = !quoted, true
		case r == ' ' && !quoted:
			end()
		default:
			word.WriteRune(r)
			begun = true
		}
	}
	end()
	return out
}
