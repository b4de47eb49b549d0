// Package lookup answers for the lists of a source: what was typed, what is
// like it, what lies below, what a search finds. A list is read whole, kept
// ready to be searched, and read again when the source has changed; one that is large is
// searched in the source.
package lookup

import (
	"context"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/source"
)

// For returns the lists as a person of that reach sees them.
func (b *Book) For(reach report.Reach) *Lists {
	units := map[string]bool{}
	for _, u := range reach.Units {
		units[u] = true
	}
	return &Lists{book: b, limited: reach.Limited, units: units, seen: map[string]*list{}}
}

// Lists are the lists of a source cut to what a person may see. Each list is
// the same for as long as Lists is used, which is one request; it is not safe
// for several goroutines.
type Lists struct {
	book    *Book
	limited bool
	units   map[string]bool
	seen    map[string]*list
}

func (s *Lists) get(ctx context.Context, id string) (*list, error) {
	if l := s.seen[id]; l != nil {
		return l, nil
	}
	l, err := s.book.get(ctx, id)
	if err == nil {
		s.seen[id] = l
	}
	return l, err
}

var _ param.Lists = (*Lists)(nil)

// sees tells whether an entry of a list may be seen: a unit within reach, or
// an entry whose scope is; lists that name no scope are open to all.
func (s *Lists) sees(id string, item source.Item) bool {
	switch {
	case !s.limited:
		return true
	case id == s.book.config.Units:
		return s.units[item.Code]
	case s.book.config.Lists[id].Scope != "":
		return s.units[item.Scope]
	}
	return true
}

// Match returns the entries whose code or label is what was typed, or whose
// path is, written with slashes: Marr/Hollin. Units beyond a person's reach are
// as good as unknown; those above it are known, and mean what of them is within.
func (s *Lists) Match(ctx context.Context, id, typed string) ([]param.Entry, error) {
	if l, is := s.large(id); is {
		return l.match(ctx, typed)
	}
	l, err := s.get(ctx, id)
	if err != nil {
		return nil, err
	}
	var found []param.Entry
	for _, i := range l.match(typed) {
		if s.sees(id, l.items[i]) || id == s.book.config.Units && s.above(l, l.items[i].Code) {
			found = append(found, l.items[i].Entry)
		}
	}
	return found, nil
}

// above tells whether a unit has some below it that are within reach.
func (s *Lists) above(l *list, code string) bool {
	return slices.ContainsFunc(l.under([]string{code}), func(below string) bool { return s.units[below] })
}

func (l *list) match(typed string) []int {
	if i, ok := l.byCode[typed]; ok {
		return []int{i}
	}
	folded := fold.Text(strings.TrimSpace(typed))
	found := l.byName[folded]
	for _, i := range found {
		if fold.Text(l.items[i].Code) == folded {
			return []int{i}
		}
	}
	at := strings.LastIndex(typed, "/")
	if len(found) > 0 || at < 0 {
		return found
	}
	name := fold.Text(strings.TrimSpace(typed[at+1:]))
	for _, above := range l.match(strings.TrimSpace(typed[:at])) {
		for _, i := range l.below[l.items[above].Code] {
			if fold.Text(l.items[i].Label) == name {
				found = append(found, i)
			}
		}
	}
	return found
}

// nearAmong is how many entries of a list are compared with what was typed.
const nearAmong = 20_000

// Near returns the entries most like what was typed, the likeliest first.
func (s *Lists) Near(ctx context.Context, id, typed string) (near []param.Entry, err error) {
	if l, is := s.large(id); is {
		return l.near(ctx, typed)
	}
	l, err := s.get(ctx, id)
	if err != nil {
		return nil, err
	}
	byName := map[string]int{}
	var names []string
	for i, item := range l.items[:min(len(l.items), nearAmong)] {
		if !s.sees(id, item) {
			continue
		}
		for _, name := range []string{item.Label, item.Code} {
			if _, known := byName[name]; !known {
				byName[name] = i
				names = append(names, name)
			}
		}
	}
	for _, name := range nearest.Names(typed, names, 3) {
		if e := l.items[byName[name]].Entry; !slices.Contains(near, e) {
			near = append(near, e)
		}
	}
	return near, nil
}

// Below returns the codes and those of all entries below them in the tree,
// less the units beyond the person's reach.
func (s *Lists) Below(ctx context.Context, id string, codes []string) ([]string, error) {
	if l, is := s.large(id); is {
		return l.below(ctx, codes)
	}
	l, err := s.get(ctx, id)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(l.under(codes), func(code string) bool {
		i, known := l.byCode[code]
		return known && !s.sees(id, l.items[i])
	}), nil
}

// Out returns those of the codes that are ruled out: by gives for fields of the
// list the values that are left.
func (s *Lists) Out(ctx context.Context, id string, codes []string, by map[string][]string) (out []string, err error) {
	if l, is := s.large(id); is {
		return l.out(ctx, codes, allowed(by))
	}
	l, err := s.get(ctx, id)
	if err != nil {
		return nil, err
	}
	left := allowed(by)
	for _, code := range codes {
		if i, ok := l.byCode[code]; ok && left.ruleOut(l.items[i]) {
			out = append(out, code)
		}
	}
	return out, nil
}

// narrowing holds for each field the values that are left.
type narrowing map[string]map[string]bool

func allowed(by map[string][]string) narrowing {
	n := narrowing{}
	for field, values := range by {
		n[field] = map[string]bool{}
		for _, v := range values {
			n[field][v] = true
		}
	}
	return n
}

func (n narrowing) ruleOut(item source.Item) bool {
	for field, left := range n {
		if !left[item.Fields[field]] {
			return true
		}
	}
	return false
}

// Wish says which entries of a list are wanted: those that hold every word of
// a search, whatever the case and accents, or those with certain codes, or
// all; at most Limit. By is as for [Lists.Out]: what it rules out comes last
// and is marked.
type Wish struct {
	Search string
	Codes  []string
	Limit  int
	By     map[string][]string
}

// Entries returns the entries of a list that meet the wish, in the list's
// order.
func (s *Lists) Entries(ctx context.Context, id string, w Wish) ([]param.Entry, error) {
	if l, is := s.large(id); is {
		return l.entries(ctx, w)
	}
	l, err := s.get(ctx, id)
	if err != nil {
		return nil, err
	}
	found, out := []param.Entry{}, []param.Entry{}
	left, words := allowed(w.By), strings.Fields(fold.Text(w.Search))
	add := func(i int) {
		item := l.items[i]
		switch {
		case !s.sees(id, item):
		case left.ruleOut(item):
			item.Out = true
			out = append(out, item.Entry)
		default:
			found = append(found, item.Entry)
		}
	}
	if w.Codes != nil {
		for _, code := range w.Codes {
			if i, ok := l.byCode[code]; ok {
				add(i)
			}
		}
		return slices.Concat(found, out), nil
	}
	for i := range l.items {
		if holdsAll(l.folded[i], words) {
			add(i)
			if len(found) == w.Limit {
				break
			}
		}
	}
	return slices.Concat(found, out[:min(len(out), w.Limit-len(found))]), nil
}

func holdsAll(text string, words []string) bool {
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}
