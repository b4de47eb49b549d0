package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestWhoDidWhat is told to administrators, with who, by what, on what and what changed; a file of it
// that somebody changed is found out.
func TestWhoDidWhat(t *testing.T) {
	s, dir := demotest.Start(t), t.TempDir()
	file := filepath.Join(dir, "audit.jsonl")
	follow(t, s, []step{
		{"runa", "run intake-lots received=2026-09 unit=hollin", 0, "R-"},
		{"runa", "show R-1", 0, ""},
		{"rhea", "show R-1", 0, ""},
		{"rhea", "delete R-1 --yes", 7, "needs the role runner"},
		{"runa", "delete R-1 --yes", 0, ""},
		{"adda", "people put rhea --title 'Rhea Ottermoss' --role runner", 0, ""},
		{"lila", "open intake-lots --everyone", 0, ""},
		{"lila", "audit", 7, "needs the role administrator"},
		{"runa", "audit seen R-1", 7, "needs the role librarian"},
		{"lila", "audit seen R-1", 0, "runa|rhea|Read rows of a result|command line"},
		{"adda", "audit --person rhea", 0, "Read rows of a result|result R-000001 view|refused|You may not do this|!runa"},
		{"adda", "audit --on result:r-1 --act deleteResult", 0, "done|refused"},
		{"adda", "audit --on result:R-1 --outcome refused", 0, "rhea|refused|!Read rows"},
		{"adda", "audit --on person", 0, "Rhea Ottermoss, reader → Rhea Ottermoss, runner"},
		{"adda", "audit --on report:intake-lots", 0, "Ask for a run|RUN-|Say to whom a report is open"},
		{"adda", "audit --text nowhere.example", 0, "none"},
		{"adda", "audit --since yesterday", 2, "is not a day such as 2026-10-01"},
		{"adda", "audit --outcome gone", 2, `"gone" is none of these`},
		{"adda", "audit check", 0, "the audit is whole"},
		{"adda", "audit export " + file, 0, "is written|mantilla audit check"},
		{"adda", "audit check " + file, 0, "the audit is whole"},
		{"adda", "audit export -", 0, `"act":"exportAudit"`},
		{"adda", "audit check " + filepath.Join(dir, "none"), 2, "no such file"},
	})
	text, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	forged := strings.Replace(string(text), `"person":"rhea"`, `"person":"runa"`, 1)
	if err := os.WriteFile(file, []byte(forged), 0o600); err != nil || forged == string(text) {
		t.Fatal("nothing was forged", err)
	}
	follow(t, s, []step{{"adda", "audit check " + file, 1, "was changed, or one before it|compare with"}})
}
