package lookup

import (
	"context"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/source"
)

// A large list is searched in its source. Of what a person may not see the source gives nothing.
type large struct {
	lists *Lists
	id    string
}

// large tells whether a list is searched in its source.
func (s *Lists) large(id string) (large, bool) {
	return large{s, id}, s.book.config.Lists[id].Large
}

func (l large) find(ctx context.Context, w source.Sought) ([]source.Item, error) {
	if l.lists.limited && l.lists.book.config.Lists[l.id].Scope != "" {
		w.Cut, w.Units = true, []string{}
		for unit := range l.lists.units {
			w.Units = append(w.Units, unit)
		}
		slices.Sort(w.Units)
	}
	return l.lists.book.source.Find(ctx, l.id, w)
}

// mostAlike is how many entries are looked at for what is like something.
const mostAlike = 200

// match is [Lists.Match]: a code comes before a label, and what is written with other case or
// accents is found where nothing else is.
func (l large) match(ctx context.Context, typed string) (found []param.Entry, err error) {
	name := strings.TrimSpace(typed)
	items, err := l.find(ctx, source.Sought{Name: name, Limit: mostAlike})
	if err != nil {
		return nil, err
	}
	if i := slices.IndexFunc(items, func(item source.Item) bool { return item.Code == name }); i >= 0 {
		return []param.Entry{items[i].Entry}, nil
	}
	if len(items) == 0 {
		if items, err = l.find(ctx, source.Sought{Words: strings.Fields(name), Limit: mostAlike}); err != nil {
			return nil, err
		}
		folded := fold.Text(name)
		items = slices.DeleteFunc(items, func(item source.Item) bool {
			return fold.Text(item.Code) != folded && fold.Text(item.Label) != folded
		})
	}
	for _, item := range items {
		found = append(found, item.Entry)
	}
	return found, nil
}

// near is [Lists.Near], among what begins alike.
func (l large) near(ctx context.Context, typed string) (near []param.Entry, err error) {
	var words []string
	for _, word := range strings.Fields(typed) {
		words = append(words, string([]rune(word)[:min(len([]rune(word)), 3)]))
	}
	items, err := l.find(ctx, source.Sought{Words: words, Limit: mostAlike})
	if err != nil {
		return nil, err
	}
	byName := map[string]param.Entry{}
	var names []string
	for _, item := range items {
		for _, name := range []string{item.Label, item.Code} {
			if _, known := byName[name]; !known {
				byName[name] = item.Entry
				names = append(names, name)
			}
		}
	}
	for _, name := range nearest.Names(typed, names, 3) {
		if e := byName[name]; !slices.Contains(near, e) {
			near = append(near, e)
		}
	}
	return near, nil
}

// coded are the entries of codes.
func (l large) coded(ctx context.Context, codes []string) ([]source.Item, error) {
	if len(codes) == 0 {
		return nil, nil
	}
	return l.find(ctx, source.Sought{Codes: codes, Limit: len(codes)})
}

// below is [Lists.Below]: there is no tree, and codes that the source has for others are not seen.
func (l large) below(ctx context.Context, codes []string) ([]string, error) {
	out := slices.Compact(slices.Sorted(slices.Values(codes)))
	if !l.lists.limited || l.lists.book.config.Lists[l.id].Scope == "" {
		return out, nil
	}
	items, err := l.coded(ctx, codes)
	return slices.DeleteFunc(out, func(code string) bool {
		return !slices.ContainsFunc(items, func(item source.Item) bool { return item.Code == code })
	}), err
}

// out is [Lists.Out].
func (l large) out(ctx context.Context, codes []string, left narrowing) (out []string, err error) {
	items, err := l.coded(ctx, codes)
	for _, item := range items {
		if left.ruleOut(item) {
			out = append(out, item.Code)
		}
	}
	return out, err
}

// entries is [Lists.Entries]; what is ruled out is shown among certain codes, and not sought.
func (l large) entries(ctx context.Context, w Wish) ([]param.Entry, error) {
	found := []param.Entry{}
	if w.Codes == nil {
		items, err := l.find(ctx, source.Sought{Words: strings.Fields(w.Search), By: w.By, Limit: w.Limit})
		for _, item := range items {
			found = append(found, item.Entry)
		}
		return found, err
	}
	items, err := l.coded(ctx, w.Codes)
	left, out := allowed(w.By), []param.Entry{}
	for _, code := range w.Codes {
		i := slices.IndexFunc(items, func(item source.Item) bool { return item.Code == code })
		switch {
		case i < 0:
		case left.ruleOut(items[i]):
			items[i].Out = true
			out = append(out, items[i].Entry)
		default:
			found = append(found, items[i].Entry)
		}
	}
	return slices.Concat(found, out), err
}
