package e2e

import (
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
	b.until(`document.querySelector('[role=dialog] input')`)
	b.click("[role=dialog] input")
	b.until(`[...document.querySelectorAll('[role=option]')].some(o => o.innerText.includes('` + august + `'))`)
	b.shot("compare")
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

	b.open(s.URL + "/reports/intake-by-origin?received=2026-07")
	b.until(`document.querySelector('footer [data-sentence]').innerText.includes('July 2026')`)
	b.press("Compare…")
	b.until(`document.querySelector('[role=dialog] input')`)
	b.click("[role=dialog] input")
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
	})
}
