package lookup

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/source"
)

// held is a source whose lists are in memory.
type held struct {
	source.Source
	state string
	rest  time.Duration
	down  bool
	lists map[string][]source.Item
	reads int
	finds int
}

func (h *held) Fingerprint(context.Context) (string, error) {
	if h.down {
		return "", fmt.Errorf("source coop %w", source.ErrSilent)
	}
	return h.state, nil
}

func (h *held) Rest() time.Duration { return h.rest }

func (h *held) List(_ context.Context, id string) ([]source.Item, error) {
	h.reads++
	return h.lists[id], nil
}

func unit(code, label, parent string) source.Item {
	return source.Item{Entry: param.Entry{Code: code, Label: label, Parent: parent, Current: true}}
}

func keeper(no, name, site string) source.Item {
	return source.Item{
		Entry:  param.Entry{Code: no, Label: name, Detail: site},
		Find:   []string{site},
		Scope:  site,
		Fields: map[string]string{"unit": site},
	}
}

func book() (*Book, *held) {
	h := &held{state: "1", lists: map[string][]source.Item{
		"units": {unit("C", "Whole", ""), unit("A", "Lórrin", "C"), unit("B", "Marr", "C"), unit("A1", "Mill", "A"),
			unit("A2", "Abbey", "A"), unit("B1", "Mill", "B")},
		"keepers": {keeper("K-1", "Aris Lingby", "A1"), keeper("K-2", "Aris Lingby", "B1"),
			keeper("K-3", "Østen Ashby", "A2")},
		"grades": {{Entry: param.Entry{Code: "A", Label: "Select"}}},
	}}
	config := &source.Config{
		ID:    "coop",
		Units: "units",
		Lists: map[string]source.List{"units": {}, "keepers": {Scope: "site"}, "grades": {}},
	}
	return New(config, h), h
}

func labels(entries []param.Entry) string {
	var out []string
	for _, e := range entries {
		mark := ""
		if e.Out {
			mark = "!"
		}
		out = append(out, e.Code+mark)
	}
	return strings.Join(out, " ")
}

func reach(t *testing.T, b *Book, units ...string) report.Reach {
	t.Helper()
	r, err := b.Reach(t.Context(), units)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func TestEntries(t *testing.T) {
	b, _ := book()
	hollin := reach(t, b, "A")
	for _, c := range []struct {
		list  string
		reach report.Reach
		wish  Wish
		want  string
	}{
		{"units", report.Reach{}, Wish{Limit: 10}, "C A B A1 A2 B1"},
		{"units", report.Reach{}, Wish{Search: "LORR", Limit: 10}, "A"},
		{"units", report.Reach{}, Wish{Search: "mill b1", Limit: 10}, "B1"},
		{"units", report.Reach{}, Wish{Codes: []string{"B", "X", "A"}, Limit: 10}, "B A"},
		{"units", report.Reach{}, Wish{Limit: 2}, "C A"},
		{"units", report.Reach{}, Wish{Search: "%_'", Limit: 9}, ""},
		{"units", hollin, Wish{Limit: 10}, "A A1 A2"},
		{"units", hollin, Wish{Codes: []string{"B", "A2"}, Limit: 10}, "A2"},
		{"keepers", report.Reach{}, Wish{Search: "osten a2", Limit: 10}, "K-3"},
		{"keepers", hollin, Wish{Search: "aris", Limit: 10}, "K-1"},
		{"keepers", hollin, Wish{Limit: 10}, "K-1 K-3"},
		{"grades", hollin, Wish{Limit: 10}, "A"},
		{"keepers", report.Reach{}, Wish{Limit: 10, By: map[string][]string{"unit": {"A2", "B1"}}}, "K-2 K-3 K-1!"},
		{"keepers", report.Reach{}, Wish{Limit: 2, By: map[string][]string{"unit": {"A2"}}}, "K-3 K-1!"},
		{"keepers", report.Reach{}, Wish{Codes: []string{"K-1", "K-3"}, Limit: 9, By: map[string][]string{"unit": {"A2"}}},
			"K-3 K-1!"},
	} {
		got, err := b.For(c.reach).Entries(t.Context(), c.list, c.wish)
		if err != nil || labels(got) != c.want {
			t.Errorf("%s %+v: got %q, %v; want %q", c.list, c.wish, labels(got), err, c.want)
		}
	}
	if _, err := b.For(report.Reach{}).Entries(t.Context(), "unit", Wish{}); err == nil ||
		!strings.Contains(err.Error(), "it has grades, keepers and units") {
		t.Errorf("an unknown list: %v", err)
	}
}

func TestMatchNearAndBelow(t *testing.T) {
	b, _ := book()
	all, mine := b.For(report.Reach{}), b.For(reach(t, b, "A"))
	for typed, want := range map[string]string{"b1": "B1", "lorrin": "A", "Mill": "A1 B1", "Marr/Mill": "B1",
		"Whole/Lórrin/mill": "A1", "Nowhere/Mill": "", "x": "", " Abbey ": "A2"} {
		if got, err := all.Match(t.Context(), "units", typed); err != nil || labels(got) != want {
			t.Errorf("match %q: got %q, %v; want %q", typed, labels(got), err, want)
		}
	}
	// A unit that is not mine is as good as unknown, as is a keeper of another's;
	// one above mine means what of it is mine.
	for typed, want := range map[string]string{"Marr": "", "B": "", "B1": "", "Marr/Mill": "", "Whole": "C", "Lorrin": "A",
		"A1": "A1"} {
		if got, _ := mine.Match(t.Context(), "units", typed); labels(got) != want {
			t.Errorf("%s is %q to me, want %q", typed, labels(got), want)
		}
	}
	if got, _ := mine.Match(t.Context(), "keepers", "Aris Lingby"); labels(got) != "K-1" {
		t.Errorf("keepers by name: %q", labels(got))
	}
	if got, _ := mine.Near(t.Context(), "keepers", "Aris Lingbi"); labels(got) != "K-1" {
		t.Errorf("keepers like a name: %q", labels(got))
	}
	if got, err := all.Near(t.Context(), "units", "Lorin"); err != nil || labels(got) != "A" {
		t.Errorf("near: %q, %v", labels(got), err)
	}
	for _, c := range []struct {
		lists *Lists
		codes []string
		want  string
	}{{all, []string{"A", "B1"}, "[A A1 A2 B1]"}, {mine, []string{"C"}, "[A A1 A2]"}, {mine, []string{"B"}, "[]"}} {
		if got, err := c.lists.Below(t.Context(), "units", c.codes); err != nil || fmt.Sprint(got) != c.want {
			t.Errorf("below %v: %v, %v; want %s", c.codes, got, err, c.want)
		}
	}
	if out, err := all.Out(t.Context(), "keepers", []string{"K-1", "K-2"},
		map[string][]string{"unit": {"B1"}}); err != nil || fmt.Sprint(out) != "[K-1]" {
		t.Errorf("out: %v, %v", out, err)
	}
}

func TestListsAreReadAgainWhenTheSourceChanges(t *testing.T) {
	b, h := book()
	for range 3 {
		if _, err := b.For(report.Reach{}).Entries(t.Context(), "keepers", Wish{Limit: 1}); err != nil {
			t.Fatal(err)
		}
	}
	if h.reads != 1 {
		t.Errorf("an unchanged list was read %d times", h.reads)
	}
	h.lists["keepers"], h.state = append(h.lists["keepers"], keeper("K-9", "New", "A1")), "2"
	if got, err := b.For(report.Reach{}).Match(t.Context(), "keepers", "K-9"); err != nil || len(got) != 1 ||
		h.reads != 2 {
		t.Errorf("after the change: %v, %v, %d reads", got, err, h.reads)
	}
}

// A source without a tree of units cannot be cut: nothing is within reach.
func TestNoTreeNoReach(t *testing.T) {
	b := New(&source.Config{ID: "x"}, &held{})
	if r, err := b.Reach(t.Context(), []string{"A"}); err != nil || !r.Limited || len(r.Units) != 0 {
		t.Errorf("%+v, %v", r, err)
	}
}

// BenchmarkSearch100000 searches a hundred thousand entities as one types.
func BenchmarkSearch100000(b *testing.B) {
	var items []source.Item
	for i := range 100_000 {
		items = append(items,
			keeper(fmt.Sprintf("K-%06d", i), fmt.Sprintf("Keeper %d of Ünder %d", i*7919%100_000, i%977),
				fmt.Sprintf("site %d", i%90)))
	}
	book := New(&source.Config{Lists: map[string]source.List{"keepers": {}}},
		&held{state: "1", lists: map[string][]source.Item{"keepers": items}})
	lists := book.For(report.Reach{})
	begun := time.Now()
	if _, err := lists.Entries(b.Context(), "keepers", Wish{Search: "zzz", Limit: 30}); err != nil {
		b.Fatal(err)
	}
	first := time.Since(begun)
	for i := 0; b.Loop(); i++ {
		if _, err := lists.Entries(b.Context(), "keepers",
			Wish{Search: fmt.Sprintf("under %d site 4", i%977), Limit: 30}); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(first.Microseconds())/1000, "ms-first")
}

// TestListsRest asks a server no more often than it should be, and goes on with what was read
// last while the server does not answer.
func TestListsRest(t *testing.T) {
	b, h := book()
	h.rest = time.Hour
	for range 3 {
		h.state += "!"
		if _, err := b.get(t.Context(), "grades"); err != nil {
			t.Fatal(err)
		}
	}
	if h.reads != 1 {
		t.Errorf("a list that rests was read %d times", h.reads)
	}
	h.rest, h.down = 0, true
	if l, err := b.get(t.Context(), "grades"); err != nil || len(l.items) != 1 {
		t.Errorf("while the source is silent: %v", err)
	}
	if _, err := b.get(t.Context(), "keepers"); err == nil {
		t.Error("a list that was never read is there while the source is silent")
	}
	h.down = false
	if _, err := b.get(t.Context(), "grades"); err != nil || h.reads != 2 {
		t.Errorf("when it answers again, it was read %d times, %v", h.reads, err)
	}
}
