package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"mantilla/demo/demotest"
)

// TestAYearIsReadAsAHistory reads twelve months that the source has long overwritten, with the one
// of which nothing was kept.
func TestAYearIsReadAsAHistory(t *testing.T) {
	t.Parallel()
	s := demotest.StartAfterAYear(t)
	steps(t, s, []step{
		{"runa", "history captures training-month", 0,
			"1 Oct 2025|R-000001|R-000012|missing|the service was down"},
		{"runa", "history captures training-month --on 2026-03-20", 0, "R-000005"},
		{"runa", "history captures training-month --on 2025-09-20", 2, "nothing was kept of training-month"},
		{"runa", "history captures training-month --on someday", 2, "is not a day"},
		{"runa", "history training-month --track colour", 2, `no column "colour"`},
		{"runa", "history training-month --track stage --since 2026-09-15", 2, "needs two results"},
		{"runa", "history nothing", 3, `no run control "nothing"`},
		{"rhea", "history training-month", 7, "needs the role runner"},
		{"runa", "history training-month", 0, "R-000013"},
		{"runa", "show R-13", 0, "12 captures from 1 October 2025 to 1 October 2026: 226 rows in the last|" +
			"1 capture is missing, and nothing is known of 1 March 2026.|5 certified"},
		{"runa", "show R-13 --view moves", 0, "What became what|0 not begun|(none)"},
		{"runa", "show R-13 --view history", 0, "Stage, before|1 Feb 2026"},
		{"runa", "columns R-13 stage", 0, "its rows are made of 12 results"},
		{"runa", "seal R-13", 0, "unchanged"},
		{"runa", "history training-month --track district,stage --since 2026-04-01 --until 2026-08-31", 0, "R-000014"},
		{"runa", "show R-14", 0, "5 captures from 1 April 2026 to 1 August 2026"},
		{"lila", "notices", 0, "Nothing was kept of “Training, month by month” for 1 March 2026"},
	})
	parts := filepath.Join(t.TempDir(), "parts.yaml")
	if err := os.WriteFile(parts, []byte("title: Parts\nsteps:\n  - {report: training-progress, values: {as_of: today}}\n"+
		"outputs: [kept]\nsend: {to: [runa]}\nsplit: {units: region}\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	steps(t, s, []step{
		{"runa", "control put parts " + parts, 0, ""},
		{"runa", "control run parts --send", 0, "East Moor"},
		{"runa", "control run parts --send", 0, "Low Water"},
		{"runa", "history captures parts", 0, "R-000022|6 results of other values or units are not part of it. " +
			"There are, each with --like:|R-000021  2 kept: |region East Moor"},
		{"runa", "history captures parts --like R-21", 0, "R-000021|6 results of other values"},
		{"runa", "history captures parts --like R-1", 2, "R-000001 is no result of training-progress that parts ran"},
		{"runa", "history parts --like R-20", 0, "R-0000"},
	})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/controls/parts")
	b.until(`document.querySelectorAll('[data-history] ol li').length === 2`)
	b.click("[data-series]")
	b.shot("parts")
	b.pick("[role=option]", "East Moor")
	b.until(`document.querySelector('[data-history] ol a')?.title.includes('region East Moor')`)
	b.open(s.URL + "/controls/training-month")
	b.until(`document.querySelector('[data-history] strong')?.innerText === '1 moment is missing'`)
	b.shows("1 Mar 2026: nothing")
	b.shot("series")
	b.fill(`[data-history] input[placeholder="2026-03-20"]`, "2026-07-20")
	b.press("Open")
	b.until(`location.pathname === '/results/R-000009'`)
	b.shows("As of 1 July 2026")
	b.open(s.URL + "/controls/training-month")
	b.press("Read the history")
	b.until(`document.querySelector('h1')?.innerText === 'History: Training progress by stage'`)
	b.shows("nothing is known of 1 March 2026")
	b.shot("history")
	b.press("How it was made")
	b.until(`document.querySelector('[data-made]').innerText.includes('nothing was kept')`)
	b.open(b.value(`location.href.split('?')[0]`) + "?view=course")
	b.until(`document.querySelector('svg .recharts-line')`)
	b.shot("course")
}
