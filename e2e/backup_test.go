package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"mantilla/demo/demotest"
	"mantilla/library/librarytest"
)

// TestAServiceComesBackFromABackup makes back-ups in the console and by the command line while runs
// go on, kills the service, and goes on with what was restored: nothing is missing that was
// acknowledged before the last began.
func TestAServiceComesBackFromABackup(t *testing.T) {
	t.Parallel()
	data, kept := t.TempDir(), t.TempDir()
	service, url, token := serve(t, "demo", "--data", data, "--address", "127.0.0.1:0", "--log-level", "error",
		"--backup-dir", kept)
	b := openBrowser(t)
	b.signIn(&demotest.Service{URL: url}, "adda")
	b.open(url + "/office?desk=backups")
	b.until(`document.querySelectorAll("tbody tr").length === 1`) // made by itself
	b.shows("A back-up is made in " + kept + " every 24 hours; the newest 14 stay.")
	b.press("Make one now")
	b.until(`document.querySelectorAll("tbody tr").length === 2`)
	b.shows("what changed since mantilla-")
	b.shot("backups")
	for range 20 { // which go on while it is copied
		if got := command(t, url, token, "run", "near-best-before", "--no-wait"); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	own := filepath.Join(t.TempDir(), "own.backup")
	if got := command(t, url, token, "backup", "take", own); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	if got := command(t, url, token, "verify", "--data", data); got.code != 1 || !strings.Contains(got.err, "in use") {
		t.Errorf("verified under the service: %+v", got)
	}
	if err := service.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	service.Wait()
	dir, steps := t.TempDir(), changes(t, kept)
	for _, step := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"verify", own}, 0, "is whole"},
		{[]string{"verify", steps}, 0, "is whole"},
		{[]string{"verify", "--data", data}, 0, "is whole"},
		{[]string{"verify", "--data", dir}, 1, "no records of a service"},
		{[]string{"restore", own, "--data", dir}, 0, "Brackenfell Honey Cooperative"},
		{[]string{"restore", own, "--data", dir}, 1, "records already"},
		{[]string{"verify", "--data", dir}, 0, "is whole"},
	} {
		if got := command(t, url, token, step.args...); got.code != step.code || !strings.Contains(got.out+got.err,
			step.says) {
			t.Errorf("%v: %+v", step.args, got)
		}
	}
	source, err := os.ReadFile(filepath.Join(data, "coop.db"))
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, "coop.db"), source, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	_, url, token = serve(t, "serve", "--data", dir, "--address", "127.0.0.1:0", "--log-level", "error",
		"--business-date", "2026-10-15")
	if list := runs(t, url, token); len(list) < 20 {
		t.Errorf("%d runs were restored", len(list))
	}
	if got := command(t, url, token, "run", "near-best-before"); got.code != 0 {
		t.Errorf("the restored service: %+v", got)
	}
}

// TestADamagedResultComesBack, by one command, from a back-up in which it is whole; the others go on
// being read meanwhile.
func TestADamagedResultComesBack(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	service, url, token := serve(t, "demo", "--data", data, "--address", "127.0.0.1:0")
	own := filepath.Join(t.TempDir(), "own.backup")
	if got := command(t, url, token, "backup", "take", own); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	if got := command(t, url, token, "run", "near-best-before"); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	end := func() {
		t.Helper()
		if err := service.Process.Signal(os.Interrupt); err != nil {
			t.Fatal(err)
		}
		service.Wait()
	}
	end()
	// Every byte of a column of the last result of a run control, which the ones before it lean on.
	librarytest.Exec(t, data, "update cells set data = zeroblob(length(data)) where run = (select run from result "+
		"where number = 12) and col = 0")
	service, url, token = serve(t, "demo", "--data", data, "--address", "127.0.0.1:0")
	if got := command(t, url, token, "seal", "R-12"); got.code == 0 {
		t.Errorf("the damage is not told: %+v", got)
	}
	if got := command(t, url, token, "show", "R-13"); got.code != 0 {
		t.Errorf("another result: %+v", got)
	}
	end()
	for _, step := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"verify", "--data", data}, 1, "R-000012"},
		{[]string{"restore", own, "--data", data, "--result", "R-99"}, 1, "R-000099"},
		{[]string{"restore", own, "--data", data, "--result", "twelve"}, 2, "is no result"},
		{[]string{"restore", own, "--data", data, "--result", "R-12"}, 0, "has its rows back"},
		{[]string{"verify", "--data", data}, 0, "is whole"},
	} {
		if got := command(t, url, token, step.args...); got.code != step.code || !strings.Contains(got.out+got.err,
			step.says) {
			t.Errorf("%v: %+v", step.args, got)
		}
	}
	_, url, token = serve(t, "demo", "--data", data, "--address", "127.0.0.1:0")
	for _, result := range []string{"R-11", "R-12"} {
		if got := command(t, url, token, "seal", result); got.code != 0 {
			t.Errorf("%s: %+v", result, got)
		}
	}
	if got := command(t, url, token, "audit", "--act", "restoreResult"); !strings.Contains(got.out, "from own.backup") {
		t.Errorf("the audit says %+v", got)
	}
}

// changes is the back-up in a directory that has only what changed since another.
func changes(t *testing.T, dir string) string {
	t.Helper()
	found, err := filepath.Glob(filepath.Join(dir, "mantilla-*-after-*.backup"))
	if err != nil || len(found) != 1 {
		t.Fatalf("there are %v with what changed, %v", found, err)
	}
	return found[0]
}
