package cli_test

import (
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestServiceAccounts are used by scripts alone: by tokens that their owner makes, as long as the owner is
// here, and never for more than the owner's role may.
func TestServiceAccounts(t *testing.T) {
	s := demotest.Start(t)
	follow(t, s, []step{
		{"adda", "people put nightly --title 'Nightly export' --role runner --owner nobody", 2, "no account"},
		{"adda", "people put nightly --title 'Nightly export' --role librarian --owner runa", 2,
			"runa, who answers for it, is runner"},
		{"adda", "people put nightly --title 'Nightly export' --role runner --owner runa", 0, "kept"},
		{"adda", "people put dora --owner runa", 2, "dora is a person's account"},
		{"adda", "people put second --title Second --role reader --owner nightly", 2, "service account itself"},
		{"adda", "people put nightly --role reader", 0, "kept"},
		{"adda", "people put nightly --role runner", 0, "kept"},
		{"adda", "people --output csv", 0, "nightly,Nightly export,runner,,,,runa,"},
		{"adda", "people delete runa --yes", 2, "1 service account"},
		{"dora", "token export --person nightly", 7, "needs the role administrator"},
		{"dora", "sessions --person nightly", 7, "needs the role administrator"},
	})
	made := as(t, s, "runa").types(t, "token", "export", "--person", "nightly", "--days", "30")
	if made.code != 0 {
		t.Fatal(made)
	}
	script := person{service: s.URL, token: strings.TrimSpace(made.out)}
	tried := func(typed string, code int, says string) {
		t.Helper()
		got := script.types(t, words(typed)...)
		if got.code != code || !strings.Contains(got.out+got.err, says) {
			t.Errorf("the script: mantilla %s: exit code %d\n%s%s", typed, got.code, got.out, got.err)
		}
	}
	tried("who", 0, "Nightly export (nightly), runner")
	tried("run stock-lines", 0, "")
	tried("token another", 7, "makes no tokens; runa, who answers for it, does")
	follow(t, s, []step{
		{"runa", "sessions --person nightly", 0, "export"},
		{"runa", "notices", 0, "acts as Nightly export, which you answer for"},
		{"adda", "people put runa --role reader", 0, "kept"},
	})
	tried("who", 0, "reader")
	tried("run stock-lines", 7, "needs the role runner")
	follow(t, s, []step{{"adda", "people put runa --role runner --closed", 0, "kept"}})
	tried("who", 7, "sign in first")
	follow(t, s, []step{{"adda", "people put nightly --owner dora", 0, "kept"}})
	tried("who", 0, "Nightly export (nightly), runner")
	tried("who", 0, "only UF-HOL") // as dora is, who answers for it now
	tried("run intake-lots received=2026-08 unit=Marr", 2, "Marr")
	follow(t, s, []step{{"adda", "people put nightly --units UF", 0, "kept"}})
	tried("run intake-lots received=2026-08 unit=Marr", 2, "Marr") // wider than dora's, and cut to them
	login := person{service: s.URL}.types(t, "login", "nightly", "--print")
	if login.code == 0 {
		t.Errorf("it signs in by a password: %+v", login)
	}
}
