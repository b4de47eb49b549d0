package lookup

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"mantilla/core/fold"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/source"
)

// Find searches as a source does.
func (h *held) Find(_ context.Context, id string, w source.Sought) (out []source.Item, err error) {
	h.finds++
	for _, item := range h.lists[id] {
		text := fold.Text(item.Code + "\n" + item.Label + "\n" + strings.Join(item.Find, "\n"))
		meets := (w.Codes == nil || slices.Contains(w.Codes, item.Code)) &&
			(w.Name == "" || item.Code == w.Name || item.Label == w.Name) &&
			(!w.Cut || slices.Contains(w.Units, item.Scope)) && !allowed(w.By).ruleOut(item)
		for _, word := range w.Words {
			meets = meets && strings.Contains(text, fold.Text(word))
		}
		if meets && len(out) < w.Limit {
			out = append(out, item)
		}
	}
	return out, nil
}

// TestLargeListsAnswerAsOthers asks a list that is searched in its source what the same list
// answers that is read whole.
func TestLargeListsAnswerAsOthers(t *testing.T) {
	b, h := book()
	h.lists["many"] = h.lists["keepers"]
	b.config.Lists["many"] = source.List{Scope: "site", Large: true}
	ctx := t.Context()
	reaches := map[string]report.Reach{"all": {}, "one district": reach(t, b, "A")}
	if _, err := b.For(reaches["all"]).Entries(ctx, "keepers", Wish{Limit: 1}); err != nil {
		t.Fatal(err)
	}
	reads := h.reads
	for who, r := range reaches {
		asked := func(list string) (out []string) {
			told := func(what string, entries []param.Entry, err error) {
				if err != nil {
					t.Errorf("%s of %s: %v", what, list, err)
				}
				out = append(out, what+": "+labels(entries))
			}
			s := b.For(r)
			for _, typed := range []string{"K-1", "K-2", "k-2", "Aris Lingby", "aris LINGBY", "osten ashby", "nobody", " K-3 "} {
				entries, err := s.Match(ctx, list, typed)
				told("match "+typed, entries, err)
			}
			for _, w := range []Wish{{Limit: 9}, {Search: "aris", Limit: 9}, {Search: "ASH øst", Limit: 9},
				{Codes: []string{"K-3", "K-9", "K-1"}, Limit: 9}, {Codes: []string{}, Limit: 9},
				{Codes: []string{"K-1", "K-3"}, By: map[string][]string{"unit": {"A2"}}, Limit: 9}} {
				entries, err := s.Entries(ctx, list, w)
				told(fmt.Sprintf("entries %+v", w), entries, err)
			}
			near, err := s.Near(ctx, list, "Østen Ashbi")
			told("near", near, err)
			below, err := s.Below(ctx, list, []string{"K-3", "K-2"})
			out = append(out, fmt.Sprint("below ", below, err))
			ruled, err := s.Out(ctx, list, []string{"K-1", "K-3"}, map[string][]string{"unit": {"A2"}})
			return append(out, fmt.Sprint("out ", ruled, err))
		}
		want, got := asked("keepers"), asked("many")
		for i := range want {
			if got[i] != want[i] {
				t.Errorf("%s: %s, read whole %s", who, got[i], want[i])
			}
		}
	}
	if h.reads != reads || h.finds == 0 {
		t.Errorf("a large list is read whole: %d reads more, %d searches", h.reads-reads, h.finds)
	}
	if err := b.Warm(ctx); err != nil {
		t.Error(err)
	}
	// What is ruled out is not sought, so that a page is full of what can be chosen.
	found, err := b.For(reaches["all"]).Entries(ctx, "many", Wish{Limit: 9, By: map[string][]string{"unit": {"A2"}}})
	if err != nil || labels(found) != "K-3" {
		t.Errorf("%s, %v", labels(found), err)
	}
}
