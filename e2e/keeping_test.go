package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// pick presses the first element of some that has a text.
func (b *browser) pick(css, text string) {
	b.t.Helper()
	found := `[...document.querySelectorAll('` + css + `')].find(e => e.innerText.includes('` + text + `'))`
	b.until(found)
	b.value(`(` + found + `.click(), '')`)
}

// TestResultsAreCompared compares two kept results, opens a figure of what changed, runs other
// values beside a result, and compares values of a form with criteria.
func TestResultsAreCompared(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	august := s.Result(t, "intake-by-origin", api.Values{"received": "2026-08"})
	september := s.Result(t, "intake-by-origin", api.Values{"received": "2026-09"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + september)
	b.press("Compare")
	b.press("With another result")
	b.click("[data-with]")
	b.until(`[...document.querySelectorAll('[role=option]')].some(o => o.innerText.includes('` + august + `'))`)
	b.pick("[role=option]", august)
	b.pick("[role=dialog] button:not([disabled])", "Compare")
	b.until(`document.querySelector('h1')?.innerText === 'What changed: Honey intake by origin'`)
	b.shows("12 changed, 0 new, 0 gone, 0 the same.")
	b.shows("rows are found by Code.")
	b.shows("−364")
	b.shot("changed")
	b.press("How it was made")
	b.until(`document.querySelector('[data-made]').innerText.includes('` + august + `')`)
	b.shot("made")

	b.open(s.URL + "/results/" + september)
	b.press("Compare")
	b.press("With another result")
	b.click("[data-with]")
	b.pick("[role=option]", august)
	b.click("[data-dataset]")
	b.pick("[role=option]", "origins")
	b.shot("compare")
	b.pick("[role=dialog] button:not([disabled])", "Compare")
	b.until(`document.querySelector('h1')?.innerText === 'What changed: Honey intake by origin'`)
	b.shows("rows are found by Origin")

	b.open(s.URL + "/reports/intake-by-origin?received=2026-07")
	b.until(`document.querySelector('footer [data-sentence]').innerText.includes('July 2026')`)
	b.press("Compare…")
	b.click("[data-with]")
	b.pick("[role=option]", september)
	b.pick("[role=dialog] button:not([disabled])", "Compare")
	b.until(`document.querySelector('h1')?.innerText === 'What changed: Honey intake by origin'`)
	b.until(`document.querySelector('[data-sentence]').innerText.includes('July 2026')`)
}

// TestKeepingOnTheCommandLine compares, as the command line has it.
func TestKeepingOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	steps(t, s, []step{
		{"runa", "run intake-lots received=2026-09", 0, "R-000001"},
		{"runa", "compare intake-by-origin received=2026-08 -- received=2026-09", 0, "R-000004"},
		{"runa", "show R-4", 0, "12 changed, 0 new, 0 gone, 0 the same.|Lots, change|−364"},
		{"runa", "run intake-lots received=2026-09-02/2026-09-30", 0, "R-000005"},
		{"runa", "compare R-1 R-5", 0, "R-000006"},
		{"runa", "show R-6 --view totals", 0, "gone|same|Net weight, change"},
		{"runa", "figure R-6 gone --view totals --of net_kg_change", 0, "gone"},
		{"runa", "export R-6 --to -", 0, "gone"},
		{"runa", "seal R-6", 0, "R-6 is unchanged"},
		{"runa", "columns R-6 net_kg", 0, "its rows are made of R-000001 and R-000005"},
		{"runa", "compare R-1", 2, "compare two results"},
		{"runa", "compare R-1 R-6", 2, "is made of other results itself"},
		{"runa", "compare R-1 R-5 --key town", 2, "they have lot_no"},
		{"runa", "compare R-1 R-77", 3, "not found"},
		{"dora", "compare R-1 R-5", 3, "not found"},
		{"rhea", "compare R-1 R-5", 7, ""},
		{"runa", "compare intake-lots received=2026-09 --versions 1,1", 7, "author"},
		{"aron", "compare intake-lots received=2026-09 --versions 1", 2, "name two"},
		{"aron", "compare intake-lots received=2026-09 --versions 1,1", 0, "version 1"},

		{"lila", "definition signers intake-lots --groups accounts --people lila --steps 2", 0,
			"signed off by accounts, lila, in two steps, by different people."},
		{"lila", "definition signers intake-lots --steps 4", 2, "steps"},
		{"aron", "sign R-1", 7, "are signed off by"},
		{"lila", "sign R-1 as the ledger has it", 0, "waits for the second step|lila: as the ledger has it"},
		{"lila", "sign R-1", 2, "another person signs the next step"},
		{"lila", "definition signers intake-lots --steps 1", 0, "in one step."},
		{"lila", "sign R-1 --withdraw", 2, "say why"},
		{"lila", "sign R-1 --withdraw too early", 0, "R-1  not signed|withdrawn"},
		{"lila", "sign R-1", 0, "R-1  signed off"},
		{"runa", "results --signed", 0, "R-000001|signed"},
		{"runa", "delete R-1 --yes", 2, "withdraw that or release it first"},
		{"runa", "hold R-5 for the auditors", 0, "held|for the auditors"},
		{"runa", "delete R-6 --yes", 0, ""},
		{"runa", "show R-6", 3, "not found"},
		{"runa", "results --trash", 0, "R-000006"},
		{"rhea", "return R-6", 7, ""},
		{"runa", "return R-6", 0, "R-6 is kept again."},
		{"runa", "notes write R-1 why so low, @lila?", 0, "1  runa"},
		{"runa", "notes write R-1 ask @nobody", 2, "no account"},
		{"runa", "notes write R-1 --row 3 weighed twice", 0, "on Lot L26-"},
		{"runa", "figure R-1 Hollin --group district --of net_kg --note again", 0, "69 rows"},
		{"lila", "notices", 0, "Runa Askwith wrote on R-000001: why so low, @lila?"},
		{"lila", "notes write R-1 --answer 1 the scale was out", 0, "4  lila"},
		{"runa", "export R-1 --format text --notes --to -", 0, "Signed off by Lila|lila answered on|of Lot L26-"},
		{"runa", "notes settle 1", 0, "settled by runa"},
		{"runa", "results weighed --noted --by runa --since 2026-10-15 --until 2026-10-15", 0, "R-000001"},
		{"runa", "results --since someday", 2, "is not a day"},
	})
}

// TestProofsAreCheckedWithoutTheService takes the proof of a result away and checks it when the
// service is gone; an altered one is told, with the file; a key that was changed goes on counting.
func TestProofsAreCheckedWithoutTheService(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	proof, keys := filepath.Join(dir, "proof.zip"), filepath.Join(dir, "keys.txt")
	steps(t, s, []step{
		{"runa", "run intake-lots received=2026-09", 0, "R-000001"},
		{"lila", "sign R-1", 0, "signed off"},
		{"runa", "seal export R-1 --to " + proof, 0, "anybody checks it with"},
		{"dora", "seal export R-1 --to " + proof, 3, "not found"},
		{"runa", "seal keys --new", 7, ""},
		{"adda", "seal keys --new", 0, "since 15 Oct 2026"},
	})
	text, err := exec.Command(binary, "--service", s.URL, "seal", "keys").Output()
	if err == nil {
		err = os.WriteFile(keys, text, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	alone := func(want string, given ...string) {
		t.Helper()
		said, _ := exec.Command(binary, append([]string{"--service", "http://127.0.0.1:1"}, given...)...).CombinedOutput()
		if !strings.Contains(string(said), want) {
			t.Errorf("mantilla %v says %s and not %q", given, said, want)
		}
	}
	alone("Rows    547", "seal", "check", proof)
	alone("Signed off by Lila Ferncastle", "seal", "check", proof, "--key", keys)
	alone("Nothing was changed.", "seal", "check", proof, "--key", keys)
	whole, err := os.ReadFile(proof)
	if err != nil {
		t.Fatal(err)
	}
	at := bytes.Index(whole, []byte("PAR1")) + 100
	whole[at] ^= 1
	if err := os.WriteFile(proof, whole, 0o600); err != nil {
		t.Fatal(err)
	}
	alone("✗ rows/lots.parquet was changed", "seal", "check", proof)
	alone("proof.zip is not what was signed and sealed", "seal", "check", proof)
	alone("no such file", "seal", "check", proof+"x")
	alone("is no key", "seal", "check", proof, "--key", proof)
}

// TestAResultIsSignedOff writes notes on a figure and a row, answers one, signs the result off and
// withdraws that, and takes a deleted result out of the trash, in the console.
func TestAResultIsSignedOff(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/results/" + result + "?view=lots&lots.group=district")
	b.click(`[data-sheet=lots] [aria-rowindex="3"] > [role=cell]:nth-child(3) > button`)
	b.press("Write a note on it")
	b.until(`document.querySelector('[data-keeping] textarea')`)
	b.fill("[data-keeping] textarea", "Is this all of it, @runa?")
	b.press("Write")
	b.until(`document.querySelector('[data-note-thread]').innerText.includes('Is this all of it')`)
	b.press("Answer")
	b.fill("[data-note-thread] textarea", "It is.")
	b.pick("[data-note-thread] button", "Write")
	b.until(`document.querySelector('[data-note-thread]').innerText.includes('It is.')`)
	b.fill("[data-keeping] input", "as the ledger has it")
	b.press("Sign off")
	b.shows("It is signed off, and held.")
	b.until(`[...document.querySelectorAll('[data-note]')].some(n => n.innerText.includes('Signed off by Lila'))`)
	b.shot("signed")
	b.fill("[data-keeping] input", "two lots were corrected")
	b.press("Withdraw the sign-off")
	b.shows("Nobody signed it.")
	b.press("More")
	b.press("Row in hand")
	b.until(`document.querySelector('[data-row-side] textarea')`)
	b.fill("[data-row-side] textarea", "look again")
	b.pick("[data-row-side] button", "Write")
	b.press("Notes and sign-off")
	b.until(`document.querySelectorAll('[data-note-thread]').length === 2`)
	b.shot("notes")

	b.press("More")
	b.press("Delete")
	b.press("Delete it")
	b.until(`location.pathname === '/results'`)
	b.click("[aria-label='Which results']")
	b.option("In the trash")
	b.until(`document.querySelector('[aria-label="Bring ` + result + ` back"]')`)
	b.shot("trash")
	b.click(`[aria-label="Bring ` + result + ` back"]`)
	b.until(`!document.querySelector('[aria-label="Bring ` + result + ` back"]')`)
	b.open(s.URL + "/office?desk=reports")
	b.click("[aria-label='Care of intake-lots']")
	b.shows("In two, by different people")
	b.shot("signers")
}
