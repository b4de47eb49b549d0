package e2e

import (
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"mantilla/api"
)

const endless = `report: endless
title: Endless
category: Test
depth: lines
about: Rows without end.
source: coop
datasets:
  rows:
    from: (with recursive n(i) as (select 1 union all select i + 1 from n) select i from n)
    columns: [{id: i, is: i, type: integer}]
views: {rows: {of: rows}}
limits: {rows: 4_000_000_000, after_crash: AFTER}
`

func runs(t *testing.T, service, token string) (list []api.Run) {
	t.Helper()
	got := command(t, service, token, "runs", "--output", "json")
	if err := json.Unmarshal([]byte(got.out), &list); err != nil {
		t.Fatalf("%v: %+v", err, got)
	}
	return list
}

// TestServiceSurvivesAKill kills the service while two runs are under way; the
// next start fails the one and queues the other again, as their reports say.
func TestServiceSurvivesAKill(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	service, url, token := serve(t, "demo", "--data", data, "--address", "127.0.0.1:0", "--log-level", "error")
	if got := command(t, url, token, "run", "near-best-before"); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	for _, after := range []string{"fail", "again"} {
		path := filepath.Join(t.TempDir(), "endless.yaml")
		text := strings.ReplaceAll(strings.ReplaceAll(endless, "AFTER", after), "report: endless", "report: endless-"+after)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		for _, args := range [][]string{{"definition", "put", path}, {"run", "endless-" + after, "--no-wait"}} {
			if got := command(t, url, token, args...); got.code != 0 {
				t.Fatalf("%v: %+v", args, got)
			}
		}
	}
	for begun := time.Now(); ; time.Sleep(20 * time.Millisecond) {
		list := runs(t, url, token)
		if list[0].Rows > 100_000 && list[1].Rows > 100_000 { // both have kept batches
			break
		}
		if time.Since(begun) > 20*time.Second {
			t.Fatalf("%+v", list)
		}
	}
	if err := service.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	service.Wait()
	_, url, token = serve(t, "serve", "--data", data, "--address", "127.0.0.1:0", "--log-level", "error",
		"--business-date", "2026-10-15")
	list := runs(t, url, token)
	if again, fail := list[0],
		list[1]; (again.State != api.StateWaiting && again.State != api.StateRunning) || fail.State != api.StateFailed ||
		!strings.Contains(*fail.Reason, "run it again") {
		t.Errorf("after the kill: %+v and %+v", again, fail)
	}
	if got := command(t, url, token, "seal", "R-000013"); got.code != 0 {
		t.Errorf("the kept result: %+v", got)
	}
	// Twelve are of the year before.
	if got := command(t, url, token, "results"); strings.Count(got.out, "R-0") != 13 {
		t.Errorf("a run that was cut off left a result: %s", got.out)
	}
}

func TestServiceEndsCleanly(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	service, url, token := serve(t, "serve", "--data", data, "--address", "127.0.0.1:0", "--log-level", "error")
	if got := command(t, url, token, "catalog"); got.code != 0 || !strings.Contains(got.out, "No report") {
		t.Errorf("%+v", got)
	}
	port := strings.TrimPrefix(url, "http://")
	for name, args := range map[string][]string{
		"is in use by another service":    {"serve", "--data", data, "--address", "127.0.0.1:0"},
		"is taken by another program":     {"serve", "--data", t.TempDir(), "--address", port},
		"give --tls-cert":                 {"serve", "--data", t.TempDir(), "--address", "0.0.0.0:0"},
		"not an IANA time zone":           {"serve", "--data", t.TempDir(), "--zone", "Middle/Earth"},
		"February 2026 has 28 days":       {"serve", "--data", t.TempDir(), "--business-date", "2026-02-30"},
		"none.yaml does not exist":        {"serve", "--config", "none.yaml"},
		"use mariadb or postgres":         {"demo", "--data", data, "--with", "abacus"},
		"fiscal-start: 13 is not a month": {"serve", "--data", t.TempDir(), "--fiscal-start", "13"},
	} {
		if got := command(t, url, token, args...); got.code != 1 || !strings.Contains(got.err, name) {
			t.Errorf("%v: %+v", args, got)
		}
	}
	if err := service.Process.Signal(syscall.SIGTERM); err != nil {
		t.Fatal(err)
	}
	if err := service.Wait(); err != nil {
		t.Errorf("ended with %v", err)
	}
}

// TestTheDemoRunsWithAServer takes the demo's records to PostgreSQL, reads a report there, and ends
// the server with the service.
func TestTheDemoRunsWithAServer(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	service, url, _ := serve(t, "demo", "--data", data, "--address", "127.0.0.1:0", "--log-level", "error", "--with",
		"postgres", "--run-mb", "512")
	runa := login(t, url, "runa", "honey-and-wax")
	if got := command(t, url, runa, "run", "long-service"); got.code != 0 || !strings.Contains(got.out, "done") &&
		!strings.Contains(got.err, "rows in") {
		t.Errorf("%+v", got)
	}
	lila := login(t, url, "lila", "honey-and-wax")
	for args, want := range map[string]string{"source": "coop    postgres", "source test coop": "PostgreSQL",
		"columns certificate-lines days_left": "keeper.certificate_ends_on - :as_of"} {
		if got := command(t, url, lila, strings.Fields(args)...); got.code != 0 || !strings.Contains(got.out, want) {
			t.Errorf("%s: %+v", args, got)
		}
	}
	// What gives more rows than there may be is told before they are read, and ends once it has them.
	pairs := filepath.Join(data, "pairs.yaml")
	if err := os.WriteFile(pairs, []byte(allPairs), 0o600); err != nil {
		t.Fatal(err)
	}
	// A file is read by a process of its own: one that asks for all memory does not end the service.
	file := filepath.Join(data, "kept.parquet")
	for _, c := range []struct {
		args string
		code int
		want string
	}{
		{"run intake-lots received=2026-09", 0, "547 rows"},
		{"definition put " + pairs, 0, "is in the catalog"},
		{"run all-pairs", 4, "The source reckons with about 3"},
		{"run all-pairs", 4, "gives more than 20000 rows (about 3"},
		{"export R-14 --view lots --format parquet --to " + file, 0, ""},
		{"file look " + file, 0, "type: decimal, scale: 3"},
		{"file look ../grid/testdata/greedy.arrow", 2, "it is no Arrow file that can be read: it is damaged"},
		{"source", 0, "coop    postgres"},
	} {
		if got := command(t, url, lila, strings.Fields(c.args)...); got.code != c.code || !strings.Contains(got.out+got.err,
			c.want) {
			t.Errorf("%s: %+v", c.args, got)
		}
	}
	running := filepath.Join(data, "postgres", "data", "postmaster.pid")
	if _, err := os.Stat(running); err != nil {
		t.Errorf("the server does not lie in the data directory: %v", err)
	}
	if err := service.Process.Signal(syscall.SIGTERM); err != nil {
		t.Fatal(err)
	}
	if err := service.Wait(); err != nil {
		t.Errorf("ended with %v", err)
	}
	if _, err := os.Stat(running); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("the server goes on: %v", err)
	}
}

const allPairs = `report: all-pairs
title: All pairs of lots
category: Intake
depth: lines
about: Every lot beside every other.
source: coop
limits: {rows: 20000}
datasets:
  lots:
    from: lot join lot as other on other.net_g <> lot.net_g
    scope: everyone
    columns: [{id: lot, is: lot.lot_no, type: text}, {id: other, is: other.lot_no, type: text}]
views:
  lots: {of: lots}
`

func TestSettingsComeFromFileEnvironmentAndFlags(t *testing.T) {
	dir := t.TempDir()
	config := filepath.Join(dir, "mantilla.yaml")
	if err := os.WriteFile(config,
		[]byte("name: From file\nzone: Middle/Earth\naddress: 127.0.0.1:0\ndata: "+filepath.Join(dir, "data")+"\n"),
		0o600); err != nil {
		t.Fatal(err)
	}
	if got := command(t, "", "", "serve", "--config", config); !strings.Contains(got.err, "Middle/Earth") {
		t.Errorf("the file is not read: %+v", got)
	}
	t.Setenv("MANTILLA_ZONE", "Over/There")
	if got := command(t, "", "", "serve", "--config", config); !strings.Contains(got.err, "Over/There") {
		t.Errorf("the environment does not weigh more than the file: %+v", got)
	}
	if got := command(t, "", "", "serve", "--config", config, "--zone", "By/Flag"); !strings.Contains(got.err, "By/Flag") {
		t.Errorf("a flag does not weigh more than the environment: %+v", got)
	}
}
