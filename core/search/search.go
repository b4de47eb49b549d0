// Package search finds documents by words that may have slips of typing, over an index of
// all words, so that the cost of a search hardly grows with the documents.
package search

import (
	"math/bits"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/nearest"
)

// Field is a part of a document. A word that is found in it counts its weight more than
// one found in a field without; where Exact, only what begins with or holds it is found.
type Field struct {
	Text   string
	Weight int
	Exact  bool
	Says   string // where the word was found, to be told; "" where that needs no telling
}

// Index is the words of documents.
type Index struct {
	words   []string
	letters []uint64  // that each word has, for [letters]
	places  [][]place // where each word stands
	docs    [][]Field
}

// place is a field of a document.
type place struct{ doc, field int }

// New makes an index of documents, which are known by their places.
func New(docs [][]Field) *Index {
	x := &Index{docs: docs}
	known := map[string]int{}
	for i, doc := range docs {
		for j, f := range doc {
			for _, w := range strings.Fields(fold.Text(f.Text)) {
				w = strings.Trim(w, ".,;:()")
				at, ok := known[w]
				if !ok {
					at = len(x.words)
					known[w], x.words, x.letters = at, append(x.words, w), append(x.letters, letters(w))
					x.places = append(x.places, nil)
				}
				if own := x.places[at]; len(own) == 0 || own[len(own)-1] != (place{i, j}) {
					x.places[at] = append(own, place{i, j})
				}
			}
		}
	}
	return x
}

// Hit is a document that was found. Less is better.
type Hit struct {
	Doc   int
	Score int
	Says  string // where, where that needs telling
}

// far is the distance of words that have nothing to do with each other.
const far = 1000

// Find returns the documents near every word of what is sought, in their order. All are
// found by nothing.
func (x *Index) Find(sought string) []Hit {
	found := make([]Hit, len(x.docs))
	for i := range found {
		found[i].Doc = i
	}
	for _, word := range strings.Fields(fold.Text(sought)) {
		x.near(word, found)
	}
	hits := []Hit{}
	for _, h := range found {
		if h.Score < far {
			hits = append(hits, h)
		}
	}
	return hits
}

// near adds to documents how near they are to a word, and where they have what is nearest:
// the first such field.
func (x *Index) near(word string, found []Hit) {
	best, at := make([]int, len(found)), make([]int, len(found))
	for i := range best {
		best[i] = far
	}
	for w, d := range x.distances(word) {
		if d >= far {
			continue
		}
		for _, p := range x.places[w] {
			f := &x.docs[p.doc][p.field]
			if f.Exact && d > 1 {
				continue
			}
			if score := d + f.Weight; score < best[p.doc] || score == best[p.doc] && p.field < at[p.doc] {
				best[p.doc], at[p.doc] = score, p.field
			}
		}
	}
	for i := range found {
		found[i].Score += best[i]
		if best[i] < far && found[i].Says == "" {
			found[i].Says = x.docs[i][at[i]].Says
		}
	}
}

// distances are those of a word from every word of the index.
func (x *Index) distances(word string) []int {
	out := make([]int, len(x.words))
	slips, own := nearest.Slips(word), letters(word)
	for i, w := range x.words {
		// Each letter that only one of the words has is a slip of its own.
		if bits.OnesCount64(own&^x.letters[i]) > slips {
			out[i] = far
			continue
		}
		out[i] = distance(word, w, slips)
	}
	return out
}

// letters are the letters and digits that a folded word has, one bit each; others share
// the last bit.
func letters(word string) (set uint64) {
	for _, r := range word {
		switch {
		case r >= 'a' && r <= 'z':
			set |= 1 << (r - 'a')
		case r >= '0' && r <= '9':
			set |= 1 << (26 + r - '0')
		default:
			set |= 1 << 63
		}
	}
	return set
}

func distance(sought, word string, slips int) int {
	if !strings.Contains(word, sought) && len(sought)-len(word) > slips {
		return far // so many letters are missing
	}
	if !strings.Contains(word, sought) && len(word)-len(sought) > slips && !strings.ContainsAny(word, "-_") {
		return far
	}
	d := nearest.Distance(sought, word)
	if d > 1 && d-1 > slips {
		return far // not a slip of the finger but another word
	}
	return d
}
