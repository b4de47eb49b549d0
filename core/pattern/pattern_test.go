package pattern

import (
	"strings"
	"testing"
)

func TestMatches(t *testing.T) {
	for _, c := range []struct {
		text, pattern string
		want          bool
	}{
		{"Hollin", "hol%", true}, {"Hollin", "%LIN", true}, {"Hollin", "%ll%", true}, {"Hollin", "h_l%n", true},
		{"Hollin", "Hollin", true}, {"Hollin", "Holli", false}, {"Hollin", "", false}, {"", "", true}, {"", "%", true},
		{"aXbXc", "a%x%c", true}, {"ab", "a%ab", false}, {"aab", "a%ab", true}, {"ä.b", "_.b", true}, {"axb", "a.b", false},
		{"a\xffb", "a_b", true}, {"a", "a\xff", false}, {"line\nbreak", "line%break", true}, {"abcabd", "%ab_", true},
		{"abcab", "%ab_", false},
	} {
		if got := Of(c.pattern).Matches(c.text); got != c.want {
			t.Errorf("%q like %q is %v", c.text, c.pattern, got)
		}
	}
	slow := Of(strings.Repeat("%a_a", 250) + "%b")
	if slow.Matches(strings.Repeat("a", 100_000)) {
		t.Error("no b is found")
	}
}
