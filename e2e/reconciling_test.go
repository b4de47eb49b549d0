package e2e

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// bankFile writes a statement of the demo's bank where a person has it.
func bankFile(t *testing.T, name string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, demotest.Statement(t, name), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// reconciledOf reconciles a result with the bank's statement of October 2025, and returns the result.
func reconciledOf(t *testing.T, s *demotest.Service, result string) string {
	t.Helper()
	runa, _ := s.As(t, "runa")
	got := command(t, s.URL, runa, "reconcile", result, bankFile(t, "2025-10.csv"), "--until", "2025-10-31", "--output",
		"json")
	var run api.Run
	if err := json.Unmarshal([]byte(got.out), &run); got.code != 0 || err != nil || run.Result == nil {
		t.Fatalf("%v: %+v", err, got)
	}
	return *run.Result
}

// TestAMonthIsReconciledInTheConsole brings the bank's statement of October, chooses which of two
// lines is of a batch, and brings what is open into November.
func TestAMonthIsReconciledInTheConsole(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	october := s.Result(t, "payout-settlement", api.Values{"settles": "2025-10"})
	november := s.Result(t, "payout-settlement", api.Values{"settles": "2025-11"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + october)
	b.press("Reconcile")
	b.until(`document.querySelector('[role=dialog] input[type=file]')`)
	b.gives("[role=dialog] input[type=file]", bankFile(t, "2025-10.csv"))
	b.until(`[...document.querySelectorAll('[role=dialog] input')].some(i => i.value === '2025-10-29')`)
	b.fill(`[role=dialog] input[value="2025-10-29"]`, "2025-10-31")
	b.shot("reconcile")
	b.pick("[role=dialog] button:not([disabled])", "Reconcile")
	b.until(`document.querySelector('h1')?.innerText === 'Reconciled: Payout settlement'`)
	b.shows("3 matched, 1 differs, 1 doubtful, 1 only ours, 1 only theirs, 2 next period, 3 earlier period.")
	b.shows("319,343.58")
	b.shot("reconciled")
	first := b.value(`location.pathname.split('/').pop()`)

	b.press("Choose what belongs together")
	b.click(`[aria-label="Ours, 4"]`)
	b.click(`[aria-label="Lines of the statement, 9"]`)
	b.shot("choose")
	b.press("These belong together")
	b.press("Reconcile again")
	b.until(`location.pathname.startsWith('/results/') && !location.pathname.endsWith('` + first + `')`)
	b.shows("by hand: 4 is line 9.")
	b.shows("4 matched, 1 differs, 1 only ours, 2 only theirs")
	chosen := b.value(`location.pathname.split('/').pop()`)
	b.press("Choose what belongs together")
	b.shows("number 4 is line 9")
	b.press("How it was made")
	b.until(`document.querySelector('[data-made]').innerText.includes('2025-10.csv')`)

	b.open(s.URL + "/results/" + november)
	b.press("Reconcile")
	b.until(`document.querySelector('[role=dialog] input[type=file]')`)
	b.gives("[role=dialog] input[type=file]", bankFile(t, "2025-11.xml"))
	b.until(`[...document.querySelectorAll('[role=dialog] input')].some(i => i.value === '2025-11-30')`)
	b.click(`[role=dialog] input[placeholder="nothing"]`)
	b.pick("[role=option]", chosen)
	b.pick("[role=dialog] button:not([disabled])", "Reconcile")
	b.until(`document.querySelector('[data-sentence]')?.innerText.includes('what ` + chosen + ` left open is brought on')`)
	b.shows("9 matched, 1 only ours, 2 only theirs, 2 next period.")
	b.shot("brought on")
}

// TestReconcilingOnTheCommandLine reconciles as people do who type, and reads every refusal.
func TestReconcilingOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	october, november := bankFile(t, "2025-10.csv"), bankFile(t, "2025-11.xml")
	damaged := filepath.Join(t.TempDir(), "damaged.csv")
	text := append(demotest.Statement(t, "2025-10.csv"), "2025-10-30;B1;X;12,50;USD\r\nsoon;B2;Y;1;EUR\r\n"...)
	if err := os.WriteFile(damaged, text, 0o600); err != nil {
		t.Fatal(err)
	}
	steps(t, s, []step{
		{"runa", "run payout-settlement settles=2025-10", 0, "R-000001"},
		{"runa", "run payout-settlement settles=2025-11", 0, "R-000002"},
		{"runa", "reconcile R-1 " + damaged, 2, "damaged.csv: line 13|it is in USD|line 14: booked: \"soon\" is no day"},
		{"runa", "statement payout-settlement", 0, "declares the statement bank"},
		{"runa", "reconcile R-1 " + october + " --until 2025-10-31", 0, "S-000001: 11 lines from 2025-10-02|R-000003"},
		{"runa", "show R-3", 0, "1 doubtful|difference 319,343.58 EUR: differs −12.50 EUR|matched (4)|B202510-8"},
		{"runa", "reconcile open R-3", 0, "doubtful|B202510-4|121,869.29|STANDING ORDER"},
		{"runa", "reconcile R-1 S-1 --choose 4=9 --choose 3=nine", 2, "name the numbers of ours"},
		{"runa", "reconcile R-1 S-1 --choose 4=9 --choose 4=10", 4, "number 4 of ours was chosen twice"},
		{"runa", "reconcile R-1 S-1 --until 2025-10-31 --choose 4=9", 0, "R-000004"},
		{"runa", "reconcile R-2 " + november + " --earlier R-4", 0, "9 lines from 2025-11-01 to 2025-11-30|R-000005"},
		{"runa", "show R-5", 0, "what R-000004 left open is brought on|9 matched, 1 only ours|R-000004"},
		{"runa", "reconcile R-2 S-2 --earlier R-1", 2, "R-000001 is no reconciliation"},
		{"runa", "export R-5 --to -", 0, "Became"},
		{"runa", "statement get S-1 --to -", 0, "booked;reference;text;amount;currency"},
		{"dora", "reconcile R-1 S-1", 7, "you see the rows of some units"},
		{"rhea", "reconcile R-1 S-1", 7, "needs the role runner"},
		{"runa", "compare R-3 R-4", 2, "made of other results"},
		{"runa", "statement delete S-2 --yes", 0, ""},
		{"runa", "show R-5", 0, "9 matched"},
		{"runa", "reconcile R-2 S-2", 3, "S-000002"},
	})
}
