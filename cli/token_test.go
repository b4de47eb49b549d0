package cli_test

import (
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestTokens act as their owner, at most as a role, until they end or are ended.
func TestTokens(t *testing.T) {
	s := demotest.Start(t)
	follow(t, s, []step{
		{"lila", "token ''", 2, "say what the token is for"},
		{"lila", "token nightly --days 400", 2, "at most 366"},
		{"lila", "token nightly --as king", 2, `"king" is none of these`},
		{"lila", "token nightly --as administrator", 2, "does not do more than its owner"},
		{"lila", "token nightly --person runa", 7, "needs the role administrator"},
		{"adda", "token nightly --person nobody", 3, "nobody"},
	})
	lila := as(t, s, "lila")
	made := lila.types(t, "token", "nightly", "--as", "reader", "--days", "30")
	if made.code != 0 || !strings.Contains(made.err, "it is not told again") {
		t.Fatal(made)
	}
	script := person{service: s.URL, token: strings.TrimSpace(made.out)}
	for _, c := range []struct {
		typed string
		code  int
		says  string
	}{
		{"who", 0, "reader"},
		{"catalog honey", 0, ""},
		{"run intake-lots received=2026-09", 7, "needs the role runner; yours is reader"},
		{"definition get intake-lots", 0, ""},
		{"token another", 7, "making tokens is for who signed in"},
		{"sessions", 0, "nightly (this one)"},
	} {
		got := script.types(t, words(c.typed)...)
		if got.code != c.code || !strings.Contains(got.out+got.err, c.says) {
			t.Errorf("the script: mantilla %s: exit code %d\n%s%s", c.typed, got.code, got.out, got.err)
		}
	}
	listed := lila.types(t, "sessions", "--output", "csv")
	line := ""
	for l := range strings.Lines(listed.out) {
		if strings.Contains(l, "nightly") {
			line = l
		}
	}
	cells := strings.Split(strings.TrimSpace(line), ",")
	if len(cells) != 7 || cells[1] != "token" || cells[4] == "" || cells[5] != "reader" {
		t.Errorf("it is listed as %q", line)
	}
	if got := script.types(t, "sessions", "end", cells[0]); got.code != 7 {
		t.Errorf("the script ends its own: %+v", got)
	}
	if got := lila.types(t, "sessions", "end", cells[0]); got.code != 0 {
		t.Errorf("lila ends it: %+v", got)
	}
	if got := script.types(t, "who"); got.code != 7 {
		t.Errorf("ended it still says %+v", got)
	}
	follow(t, s, []step{{"adda", "audit --on person:lila", 0, "Make a token for a script|token nightly, reader until"}})
}
