package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestReportsMoveFromTestToLive takes a report with what people keep of it from one
// service to another, on which groups are called otherwise.
func TestReportsMoveFromTestToLive(t *testing.T) {
	t.Parallel()
	trial, live := demotest.Start(t), demotest.Start(t)
	dir := t.TempDir()
	file := filepath.Join(dir, "silent.zip")
	runa, _ := trial.As(t, "runa")
	on := func(s *demotest.Service, token string) func(want string, args ...string) {
		return func(want string, args ...string) {
			t.Helper()
			if got := command(t, s.URL, token, args...); got.code != 0 || !strings.Contains(got.out, want) {
				t.Fatalf("%v: %+v; want %q", args, got, want)
			}
		}
	}
	there, by, here := on(trial, trial.Token), on(trial, runa), on(live, live.Token)
	there("is begun", "draft", "begin", "Keepers gone silent", "--source", "coop", "--table", "keeper")
	there("version 1", "draft", "take", "D-1", "--group", "field")
	by("", "criteria", "save", "keepers-gone-silent", "Hollin", "unit=Hollin", "--share", "field")
	control := filepath.Join(dir, "control.yaml")
	if err := os.WriteFile(control, []byte("title: Silent keepers\nshared: field\nsteps:\n"+
		"  - {report: keepers-gone-silent, criteria: C-1}\noutputs: [csv]\nempty: keep\n"+
		"send: {to: [adda@example.org]}\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	by("", "control", "put", "silent", control)
	there("has 1 reports", "bundle", "make", file, "keepers-gone-silent", "--controls")
	there("is whole", "bundle", "check", file)
	there("same   report", "bundle", "look", file)

	here("", "groups", "put", "offices", "--title", "Offices", "--members", "rhea")
	here("", "open", "lot-history", "--everyone")
	if got := command(t, live.URL, live.Token, "groups", "delete", "field", "--yes"); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	if got := command(t, live.URL, live.Token, "bundle", "take", file); got.code != 2 ||
		!strings.Contains(got.err, "there is no group field here") {
		t.Errorf("taken without its group: %+v", got)
	}
	if got := command(t, live.URL, live.Token, "describe", "keepers-gone-silent"); got.code == 0 {
		t.Error("half of it was taken in")
	}
	here("new    report", "bundle", "look", file, "--group", "field=offices")
	here("To go back:\n  mantilla definition delete keepers-gone-silent", "bundle", "take", file, "--group",
		"field=offices",
		"--note", "tried in October")
	here("tried in October", "definition", "versions", "keepers-gone-silent")
	here("Hollin", "criteria", "list", "keepers-gone-silent")
	here("unit", "control", "show", "silent")
	rhea, _ := live.As(t, "rhea")
	on(live, rhea)("keepers-gone-silent", "catalog", "silent")
	here("same   report", "bundle", "look", file, "--group", "field=offices")

	whole, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	for name, bad := range map[string][]byte{"cut": whole[:len(whole)-40], "text": []byte("report: x\n")} {
		path := filepath.Join(dir, name+".zip")
		if err := os.WriteFile(path, bad, 0o600); err != nil {
			t.Fatal(err)
		}
		if got := command(t, live.URL, live.Token, "bundle", "take", path); got.code != 2 ||
			!strings.Contains(got.err, "no bundle") {
			t.Errorf("%s: %+v", name, got)
		}
	}
}

// TestTheCatalogLivesInFiles takes the catalog out as files, changes some, and puts them
// back: what is wrong is told of all files at once, and nothing changes then.
func TestTheCatalogLivesInFiles(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := filepath.Join(t.TempDir(), "catalog")
	run := func(code int, want string, args ...string) {
		t.Helper()
		got := command(t, s.URL, s.Token, args...)
		if got.code != code || !strings.Contains(got.out+got.err, want) {
			t.Fatalf("%v: %+v; want %d, %q", args, got, code, want)
		}
	}
	change := func(report, from, to string) {
		t.Helper()
		path := filepath.Join(dir, report+".yaml")
		text, err := os.ReadFile(path)
		if err == nil {
			err = os.WriteFile(path, []byte(strings.Replace(string(text), from, to, 1)), 0o600)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	run(0, "has 47 definitions", "definition", "files", "get", dir)
	run(0, "0 of 47 definitions are another", "definition", "files", "put", dir)
	change("intake-lots", "title: Intake lots", "title: Lots taken in")
	change("lot-history", "title:", "titel:")
	change("keeper-file", "type: entity", "type: entite")
	run(2, "lot-history.yaml: line", "definition", "files", "check", dir)
	run(2, "keeper-file.yaml: line", "definition", "files", "put", dir)
	run(0, "Intake lots", "catalog", "intake lots")
	change("lot-history", "titel:", "title:")
	change("keeper-file", "type: entite", "type: entity")
	run(0, `changed  intake-lots: the title was "Intake lots" and is "Lots taken in"`, "definition", "files", "put", dir,
		"--dry")
	run(0, "Intake lots", "describe", "intake-lots")
	run(0, "1 definitions are in the catalog", "definition", "files", "put", dir, "--note", "plainer")
	run(0, "plainer", "definition", "versions", "intake-lots")
	run(0, `the title was "Intake lots"`, "definition", "compare", "intake-lots", "2", "--lines")
	run(0, "brings back version 1", "definition", "restore", "intake-lots", "1", "--note", "after all")
	run(0, "brings back 1. after all", "definition", "versions", "intake-lots")
	run(0, "title: Intake lots", "definition", "versions", "intake-lots", "3")
	run(0, "Read by", "source", "look", "coop", "--search", "weigh")
	run(0, "key of site", "source", "look", "coop", "keeper")
	run(3, `there is no table "keepr"; did you mean keeper?`, "source", "look", "coop", "keepr")
	run(0, "lot-history", "definition", "dependents", "intake-lots")
}
