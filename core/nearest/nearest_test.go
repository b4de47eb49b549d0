package nearest

import (
	"slices"
	"testing"
)

func TestNames(t *testing.T) {
	known := []string{"intake-lots", "intake-by-origin", "lot-history", "keeper-file", "Lórrin", "received"}
	cases := []struct {
		typed string
		want  []string
	}{
		{"intake-lotz", []string{"intake-lots"}},
		{"intke", []string{"intake-lots", "intake-by-origin"}},
		{"lorrin", []string{"Lórrin"}},
		{"history", []string{"lot-history"}},
		{"recieved", []string{"received"}},
		{"qqqqqq", nil},
		{"", nil},
		{"  ", nil},
	}
	for _, c := range cases {
		if got := Names(c.typed, known, 2); !slices.Equal(got, c.want) {
			t.Errorf("%q: got %q, want %q", c.typed, got, c.want)
		}
	}
}

func TestNamesGivesTheLikeliestFirst(t *testing.T) {
	got := Names("marr", []string{"Marl", "Marr Mill", "Upper Marr"}, 3)
	if want := []string{"Marr Mill", "Upper Marr", "Marl"}; !slices.Equal(got, want) {
		t.Errorf("got %q, want %q", got, want)
	}
}

func TestSentences(t *testing.T) {
	for _, c := range []struct {
		names   []string
		or, and string
	}{{nil, "", ""}, {[]string{"a"}, "a", "a"}, {[]string{"a", "b"}, "a or b", "a and b"},
		{[]string{"a", "b", "c"}, "a, b or c", "a, b and c"}} {
		if Or(c.names) != c.or || And(c.names) != c.and {
			t.Errorf("%q: got %q and %q", c.names, Or(c.names), And(c.names))
		}
	}
}
