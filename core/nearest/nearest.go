// Package nearest finds the names most like one that was typed, so that a
// refusal can offer what was probably meant.
package nearest

import (
	"cmp"
	"slices"
	"strings"

	"mantilla/core/fold"

	"github.com/agnivade/levenshtein"
)

// longest is how long a name may be for others to be found near it: comparing
// takes the product of both lengths.
const longest = 200

// Names returns at most most of the names, the likeliest first: those that
// begin with or hold what was typed, then those within as many slips of typing
// as [Slips] allows. Case and accents do not count.
func Names(typed string, names []string, most int) []string {
	type scored struct {
		name  string
		score int
	}
	if len(typed) > longest {
		return nil
	}
	sought := fold.Text(strings.TrimSpace(typed))
	if sought == "" {
		return nil
	}
	var found []scored
	for _, name := range names {
		if s := Distance(sought, fold.Text(name)); s <= 1+Slips(sought) {
			found = append(found, scored{name, s})
		}
	}
	slices.SortStableFunc(found, func(a, b scored) int { return cmp.Compare(a.score, b.score) })
	var out []string
	for _, f := range found[:min(most, len(found))] {
		out = append(out, f.name)
	}
	return out
}

// Slips is how many letters of a word may be wrong: two, or a third of a long
// word, but never more than half of a short one.
func Slips(word string) int { return min(max(2, len(word)/3), len(word)/2) }

// Distance tells how far a folded name is from what was typed: 0 when it
// begins with it, 1 when it holds it, otherwise one more than the edit
// distance (Levenshtein) to the name or to the nearest of its words.
func Distance(sought, name string) int {
	switch strings.Index(name, sought) {
	case 0:
		return 0
	case -1:
		best := levenshtein.ComputeDistance(sought, name)
		if !strings.ContainsAny(name, " -_") {
			return 1 + best // it is a word
		}
		for _, word := range strings.FieldsFunc(name, func(r rune) bool { return r == ' ' || r == '-' || r == '_' }) {
			best = min(best, levenshtein.ComputeDistance(sought, word))
		}
		return 1 + best
	}
	return 1
}

// Or joins names for a sentence: a, b or c.
func Or(names []string) string { return join(names, " or ") }

// And joins names for a sentence: a, b and c.
func And(names []string) string { return join(names, " and ") }

func join(names []string, last string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	n := len(names) - 1
	return strings.Join(names[:n], ", ") + last + names[n]
}
