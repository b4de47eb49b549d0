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
	letters []uint64 // that each word has, for [letters]
	docs    [][]field
}

// field is a field with the numbers of its words.
type field struct {
	Field
	words []int
}

// New makes an index of documents, which are known by their places.
func New(docs [][]Field) *Index {
	x := &Index{docs: make([][]field, len(docs))}
	known := map[string]int{}
	for i, doc := range docs {
		for _, f := range doc {
			own := field{Field: f}
			for _, w := range strings.Fields(fold.Text(f.Text)) {
				w = strings.Trim(w, ".,;:()")
				at, ok := known[w]
				if !ok {
					at = len(x.words)
					known[w], x.words, x.letters = at, append(x.words, w), append(x.letters, letters(w))
				}
				own.words = append(own.words, at)
			}
			x.docs[i] = append(x.docs[i], own)
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
	var distances [][]int
	words := strings.Fields(fold.Text(sought))
	for _, word := range words {
		distances = append(distances, x.distances(word))
	}
	hits := []Hit{}
	for i, doc := range x.docs {
		if h, ok := found(doc, words, distances); ok {
			h.Doc = i
			hits = append(hits, h)
		}
	}
	return hits
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

func found(doc []field, words []string, distances [][]int) (h Hit, ok bool) {
	for n, word := range words {
		best, says := far, ""
		for i := range doc {
			f := &doc[i]
			for _, w := range f.words {
				d := distances[n][w]
				if f.Exact && d > 1 {
					continue
				}
				if d+f.Weight < best {
					best, says = d+f.Weight, f.Says
				}
			}
		}
		if best > 2+1+nearest.Slips(word) && best >= far {
			return h, false
		}
		h.Score += best
		if h.Says == "" {
			h.Says = says
		}
	}
	return h, true
}
