package e2e

import (
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/creack/pty"

	"mantilla/demo"
	"mantilla/demo/demotest"
)

const monthEnd = `title: Month end
shared: field
steps:
  - {report: intake-by-origin, values: {received: last month}}
  - {report: intake-lots, criteria: C-1}
  - {report: certificate-lines, values: {ahead: 2 months}}
outputs: [kept, csv]
empty: note
keep: 400
`

// TestMonthEndOnTheCommandLine keeps criteria, puts three reports into a run
// control and runs it, as a person who sees one district.
func TestMonthEndOnTheCommandLine(t *testing.T) {
	s := demotest.Start(t)
	dora, _ := s.As(t, "dora")
	runa, _ := s.As(t, "runa")
	dir := t.TempDir()
	file := filepath.Join(dir, "month-end.yaml")
	if err := os.WriteFile(file, []byte(monthEnd), 0o600); err != nil {
		t.Fatal(err)
	}
	shorter := filepath.Join(dir, "shorter.yaml")
	if err := os.WriteFile(shorter,
		[]byte("title: Month\nshared: field\nsteps:\n  - {report: intake-by-origin}\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		token    string
		args     []string
		code     int
		out, err string // pieces that must be printed, with | between
	}{
		{"", []string{"catalog"}, 7, "", "use mantilla login NAME"},
		{dora, []string{"who"}, 0, "Dora Hollinfen (dora), runner|only UF-HOL", ""},
		{dora, []string{"criteria", "save", "intake-lots", "Hollin lots", "received=last month", "--share", "field"}, 0,
			"C-1  Hollin lots: Received 1–30 September 2026; all of your units; all grades.", ""},
		{dora, []string{"criteria", "save", "intake-lots", "hollin lots", "received=last quarter"}, 2, "",
			`received: "last month" would become "last quarter"|repeat with --overwrite`},
		{dora, []string{"criteria", "save", "intake-lots", "bad", "received=2026-02-30"}, 0, "February 2026 has 28 days", ""},
		{dora, []string{"criteria", "rename", "intake-lots", "bad", "worse"}, 0, "C-2  worse", ""},
		{dora, []string{"criteria", "delete", "intake-lots", "worse"}, 0, "", "mantilla criteria restore C-2 brings it back"},
		{dora, []string{"criteria", "restore", "C-2"}, 0, "worse", ""},
		{dora, []string{"criteria", "usual", "intake-lots", "Hollin lots"}, 0, "", "is your usual"},
		{dora, []string{"criteria", "list", "intake-lots"}, 0, "dora, usual, shared with field|never|no longer fits: there " +
			"is no day 2026-02-30", ""},
		{dora, []string{"criteria", "delete", "intake-lots", "nothing"}, 3, "", "it has Hollin lots, worse"},
		{dora, []string{"control", "put", "month-end", file}, 0, "Month end is kept", ""},
		{dora, []string{"control", "show", "month-end"}, 0, "report: intake-by-origin|outputs: [kept, csv]|keep: 400", ""},
		{dora, []string{"control", "run", "month-end", "--to", filepath.Join(dir, "files")}, 0,
			"S-000001|intake-lots|R-000002|Received 1–30 September 2026; all of your units", "3 certificate-lines R-000003.csv"},
		{dora, []string{"control", "run", "month-end", "received=2026-02-30"}, 2, "",
			"intake-by-origin.received: there is no day"},
		{dora, []string{"control", "run", "month-end", "intake-lots.received=2026-08", "--no-wait"}, 0,
			"Received 1–31 August 2026|Received 1–30 September 2026", ""},
		{dora, []string{"control", "past", "month-end"}, 0, "S-000002|S-000001|done", ""},
		{runa, []string{"control", "list"}, 0, "month-end|dora", ""},
		{runa, []string{"control", "run", "month-end"}, 0, "the whole cooperative", ""},
		{runa, []string{"control", "put", "month-end", file}, 7, "", "belongs to dora"},
		{runa, []string{"results", "hollin"}, 0, "Result  Kept", ""},
		{dora, []string{"run", "intake-lots", "--criteria", "Hollin lots", "--reuse"}, 0, "",
			"kept  Received 1–30 September 2026"},
		{dora, []string{"run", "intake-lots", "received=this month"}, 0, "",
			"Deliveries still to come can change these figures."},
		{dora, []string{"show", "R-000002", "--columns", "district", "--limit", "500", "--filter", "district<>Hollin"}, 0,
			"None of the 69 rows meets the filters.", ""},
		{dora, []string{"control", "versions", "month-end"}, 0, "month-end was never overwritten.", ""},
		{dora, []string{"control", "put", "month-end", shorter, "--overwrite"}, 0, "Month is kept", ""},
		{dora, []string{"control", "versions", "month-end"}, 0, "Would change|1  |dora|keepDays: 0 → 400|" +
			"steps.2.criteria: nothing → C-1|title: Month → Month end", ""},
		{runa, []string{"control", "versions", "month-end"}, 7, "", "belongs to dora"},
		{dora, []string{"control", "restore", "month-end", "--revision", "7"}, 2, "", "no earlier version of revision 7"},
		{dora, []string{"control", "restore", "month-end", "--revision", "1"}, 0, "", "is what it was in revision 1."},
		{dora, []string{"control", "show", "month-end"}, 0, "title: Month end|criteria: C-1|keep: 400", ""},
		{dora, []string{"control", "delete", "month-end"}, 0, "", "brings it back"},
		{dora, []string{"control", "run", "month-end"}, 3, "", "there is no run control"},
		{dora, []string{"control", "restore", "month-end"}, 0, "", "is back"},
		{dora, []string{"people"}, 7, "", "needs the role administrator; yours is runner"},
		{dora, []string{"source"}, 7, "", "needs the role author"},
		{s.Token, []string{"source"}, 0, "coop    sqlite  Records of the cooperative", ""},
		{s.Token, []string{"source", "get", "coop"}, 0, "source: coop|units: units", ""},
		{s.Token, []string{"source", "put", file}, 2, "", "field steps not found"},
		{s.Token, []string{"shared"}, 0, "id: received, type: range", ""},
		{s.Token, []string{"shared", "put", file}, 2, "", "line 1, column 1"},
		{s.Token, []string{"describe", "agent-commission"}, 0, "locked at yes", ""},
		{s.Token, []string{"__complete", "run", "intake-lots", "--criteria", ""}, 0, ":4", ""},
		{s.Token, []string{"people", "put", "rhea", "--role", "runner", "--units", "UF-MAR"}, 0, "", "rhea is kept"},
		{s.Token, []string{"people"}, 0, "Rhea Ottermoss   runner|UF-MAR", ""},
		{s.Token, []string{"groups", "put", "field", "--members", "runa"}, 0, "", "field is kept"},
		{s.Token, []string{"groups"}, 0, "field     Field offices  runa", ""},
		{s.Token, []string{"open", "intake-lots", "--groups", "field"}, 0, "", "is open to them"},
		{dora, []string{"describe", "intake-lots"}, 3, "", "there is no report"},
		{dora, []string{"logout"}, 0, "Signed out.", ""},
		{dora, []string{"who"}, 7, "", "use mantilla login NAME"},
	} {
		t.Setenv("XDG_CONFIG_HOME", dir)
		got := command(t, s.URL, c.token, c.args...)
		if got.code != c.code {
			t.Errorf("mantilla %s: exit code %d, want %d\n%s%s", strings.Join(c.args, " "), got.code, c.code, got.out, got.err)
		}
		for text, pieces := range map[string]string{got.out: c.out, got.err: c.err} {
			for _, piece := range strings.Split(pieces, "|") {
				if !strings.Contains(text, piece) {
					t.Errorf("mantilla %s: does not print %q but\n%s%s", strings.Join(c.args, " "), piece, got.out, got.err)
				}
			}
		}
	}
	files, err := os.ReadDir(filepath.Join(dir, "files"))
	if err != nil || len(files) != 3 {
		t.Errorf("files %v, %v", files, err)
	}
}

// TestLoginKeepsTheToken signs in with the password on standard input and then
// calls without a token of its own.
func TestLoginKeepsTheToken(t *testing.T) {
	s := demotest.Start(t)
	t.Setenv("XDG_CONFIG_HOME", t.TempDir())
	run := func(in string, args ...string) string {
		cmd := exec.CommandContext(t.Context(), binary, append(args, "--service", s.URL)...)
		cmd.Stdin = strings.NewReader(in)
		out, _ := cmd.CombinedOutput()
		return string(out)
	}
	for _, c := range []struct {
		in, args, says string
	}{
		{"wrong\n", "login runa", "the name or the password is not right"},
		{"", "login runa", "no password is given"},
		{demo.Password + "\n", "login runa", "Signed in as Runa Askwith, runner, until"},
		{"", "who", "Runa Askwith (runa), runner"},
		{"", "logout", "Signed out."},
		{"", "who", "use mantilla login NAME"},
	} {
		if got := run(c.in, strings.Fields(c.args)...); !strings.Contains(got, c.says) {
			t.Errorf("%s: %s; want %q", c.args, got, c.says)
		}
	}
}

// TestRunAsksAtATerminal is asked for each needed value, looks at a list,
// mistypes, and picks by number.
func TestRunAsksAtATerminal(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	cmd := exec.CommandContext(t.Context(), binary, "run", "keeper-file")
	cmd.Env = append(os.Environ(), "MANTILLA_SERVICE="+s.URL, "MANTILLA_TOKEN="+s.Token, "TERM=xterm")
	terminal, err := pty.StartWithSize(cmd, &pty.Winsize{Rows: 40, Cols: 120})
	if err != nil {
		t.Fatal(err)
	}
	defer terminal.Close()
	var said strings.Builder
	pieces := make(chan string)
	go func() {
		defer close(pieces)
		chunk := make([]byte, 4096)
		for {
			n, err := terminal.Read(chunk)
			if n > 0 {
				pieces <- string(chunk[:n])
			}
			if err != nil { // a terminal ends with an error
				return
			}
		}
	}()
	seen := 0
	until := func(text string) {
		t.Helper()
		deadline := time.After(15 * time.Second)
		for !strings.Contains(said.String()[seen:], text) {
			select {
			case piece, ok := <-pieces:
				said.WriteString(piece)
				if !ok {
					t.Fatalf("it ended before %q:\n%s", text, said.String())
				}
			case <-deadline:
				t.Fatalf("never %q:\n%s", text, said.String())
			}
		}
		seen += strings.Index(said.String()[seen:], text) + len(text)
	}
	answer := func(text string) {
		t.Helper()
		if _, err := io.WriteString(terminal, text+"\r"); err != nil {
			t.Fatal(err)
		}
	}
	until("Keeper: ")
	answer("Aris Lingcomb")
	until(`"Aris Lingcomb" is not known; did you mean Aris Lingcombe (K-1002)`)
	until("? shows what can be chosen")
	answer("?lingcombe")
	until("1  K-10")
	until("Keeper: ")
	answer("1")
	until("= keeper")
	until("Deliveries and payouts [P12M/today]: ")
	answer("2026-13")
	until("there is no month")
	answer("")
	until("= deliveries and payouts 16 October 2025 – 15 October 2026")
	until("done")
	until("read them with: mantilla show R-000001")
	if err := cmd.Wait(); err != nil {
		t.Errorf("it ended with %v", err)
	}
}
