package search_test

import (
	"fmt"
	"testing"

	"mantilla/core/search"
)

func index() *search.Index {
	var docs [][]search.Field
	for _, d := range [][3]string{
		{"Intake lots", "Every lot received, with its keeper.", "Net weight"},
		{"Lot history", "Everything that happened to a lot.", "Changed by"},
		{"Keeper file", "A keeper with deliveries and payouts.", "Joined"},
	} {
		docs = append(docs, []search.Field{{Text: d[0]}, {Text: d[1], Weight: 2},
			{Text: d[2], Weight: 3, Exact: true, Says: "column " + d[2]}})
	}
	return search.New(docs)
}

func TestFind(t *testing.T) {
	x := index()
	for _, c := range []struct {
		sought string
		want   string // places with scores, the best place first
	}{
		{"", "[{0 0 } {1 0 } {2 0 }]"},
		{"lot", "[{0 0 } {1 0 }]"},
		{"keeper", "[{0 2 } {2 0 }]"},
		{"kepeer", "[{0 5 } {2 3 }]"},
		{"lot history", "[{1 0 }]"},
		{"weight", "[{0 3 column Net weight}]"},
		{"wieght", "[]"},
		{"nothing", "[]"},
		{"lot keeper", "[{0 2 }]"},
	} {
		if got := fmt.Sprint(x.Find(c.sought)); got != c.want {
			t.Errorf("%q: %s; want %s", c.sought, got, c.want)
		}
	}
}

// docs are as many documents as a large catalog has, of words that differ.
func docs(n int) [][]search.Field {
	out := make([][]search.Field, n)
	for i := range out {
		out[i] = []search.Field{{Text: fmt.Sprintf("Report %d of district%d", i, i%400)},
			{Text: fmt.Sprintf("What was taken in of flower%d by keeper%d in month%d", i%90, i%3000, i%12), Weight: 2},
			{Text: fmt.Sprintf("weight%d price%d grade%d moisture%d", i%500, i%700, i%30, i%200), Weight: 3, Exact: true}}
	}
	return out
}

func BenchmarkFindAmongTenThousand(b *testing.B) {
	x := search.New(docs(10_000))
	for b.Loop() {
		if len(x.Find("distrct399 keeper")) == 0 {
			b.Fatal("nothing is found")
		}
	}
}
