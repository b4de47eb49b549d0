package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestEstimatesAreTypedInBesideTheRows types in by keyboard and by paste, sees what another person
// types meanwhile, is told of a conflict, and undoes; what was typed survives a new run with new
// cost lines.
func TestEstimatesAreTypedInBesideTheRows(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	first := s.Result(t, "project-forecast", api.Values{"project": "J-08"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + first + "?view=forecast")
	b.shows("Nothing was typed in beside these rows.")
	b.shows("Nothing is filled in.")
	total := b.value(`document.querySelector("[data-kind=group]").innerText`)

	b.click(`[aria-label="Fill in Estimated by, row 1"]`)
	b.until(`document.activeElement.tagName === 'SELECT'`)
	b.value(`(document.activeElement.value = 'percent done', '')`)
	b.keys("\r")
	b.shows("With what was typed in until")
	b.click(`[aria-label="Fill in Figure, row 1"]`)
	b.until(`document.activeElement.tagName === 'INPUT'`)
	b.keys("60\r")
	b.until(`document.querySelector('[aria-label="Fill in Figure, row 1"]')?.innerText === '60.00'`)
	b.until(`document.querySelector('[data-kind=group]').innerText !== ` + quoted(total)) // totals follow
	b.shows("2 cells are filled in, the last by runa")
	b.shot("entering")
	b.click(`[aria-label="Fill in Figure, row 1"]`)
	b.until(`document.activeElement.tagName === 'INPUT'`)
	b.keys("-5\r")
	b.shows("-5 is not possible: 0 is the least")

	steps(t, s, []step{ // another person, meanwhile
		{"dora", "entries " + first, 3, "not found"},
		{"lila", "entries " + first + " --key J-08,fees method=units_left", 2, "is none of percent done"},
		{"lila", "entries " + first + " --key J-08,fees figure=3 unit_cost=250 remark=quote", 0, "J-08, fees, figure: 3.00"},
	})
	b.until(`document.querySelector('[aria-label="Fill in Figure, row 0"]')?.innerText === '3.00'`)
	b.press("Undo my last")
	b.until(`document.querySelector('[aria-label="Fill in Figure, row 1"]')?.innerText.trim() === ''`)

	// A column that was copied from a spreadsheet, at the cell that the keyboard is at.
	b.value(`(document.querySelector('[data-sheet]').focus(), '')`)
	for line, key := range []string{kb.Home, kb.ArrowDown, kb.ArrowDown} {
		b.keys(key)
		b.until(fmt.Sprintf(`document.querySelector('[data-hand]')?.ariaRowIndex === '%d'`, line+2))
	}
	for range 5 {
		b.keys(kb.ArrowRight)
	}
	b.until(`document.querySelector('[data-hand] [data-at] button')?.ariaLabel === 'Fill in Figure, row 1'`)
	paste := func(text string) {
		b.value(`(() => { const data = new DataTransfer(); data.setData('text/plain', ` + quoted(text) + `);
			document.querySelector('[data-sheet]').dispatchEvent(new ClipboardEvent('paste',
			{clipboardData: data, bubbles: true, cancelable: true})); return '' })()`)
	}
	paste("70\n80,000\n9")
	b.shows("There are 3 lines, and 2 rows")
	paste("70\t12.5\n80,000\t")
	b.until(`document.querySelector('[aria-label="Fill in Figure, row 2"]')?.innerText === '80,000.00'`)
	b.until(`document.querySelector('[aria-label="Fill in Cost of a unit, row 1"]')?.innerText === '12.50'`)
	b.press("Undo my last")
	b.until(`document.querySelector('[aria-label="Fill in Figure, row 2"]')?.innerText.trim() === ''`)

	// New cost lines come, and one goes.
	s.Exec(t, `insert into project_cost (project_id, line, month, planned_cents, spent_cents)
		values ('J-08', 'insurance', '2026-09', 500000, 100000), ('J-08', 'permits', '2026-09', 90000, 0)`)
	s.Exec(t, `delete from project_cost where project_id = 'J-08' and line = 'fees'`)
	second := s.Result(t, "project-forecast", api.Values{"project": "J-08"})
	b.open(s.URL + "/results/" + second + "?view=forecast")
	b.until(`document.querySelector('[data-entering]').innerText.includes('3 entries have no row here')`)
	b.until(`[...document.querySelectorAll('[data-entry=typed]')].some(c => c.innerText === 'percent done')`)
	b.shows("insurance")
	b.shot("entered")
}

func quoted(text string) string { return "`" + text + "`" }

// TestEntriesOnTheCommandLine types in, from a file too, looks back, undoes, and takes away with
// what was typed in, as of a day too.
func TestEntriesOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	good, bad, pdf := filepath.Join(dir, "good.csv"), filepath.Join(dir, "bad.csv"), filepath.Join(dir, "out.pdf")
	for path, text := range map[string]string{
		good: "Project no.,Cost line,Estimated by,Figure\n" +
			"J-08,labour,percent done,60\nJ-08,material,cost at completion,150000\n",
		bad: "project_id,cost_line,figure\nJ-08,labour,much\nJ-08,lunch,5\n",
	} {
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	steps(t, s, []step{
		{"runa", "run project-forecast", 0, "R-000001"},
		{"runa", "show R-1", 0, "Nothing was typed in beside these rows."},
		{"runa", "entries R-1", 0, "percent done | cost to complete | cost at completion | units left"},
		{"runa", "entries R-1 --file " + bad, 2, `J-08, labour: Figure: "much"|no row has the key J-08, lunch`},
		{"runa", "entries R-1 --file " + good, 0, "J-08, labour, figure: 60.00|J-08, material, figure: 150000.00"},
		{"runa", "entries R-1 --file " + good, 0, "Nothing changed"},
		{"runa", "show R-1", 0, "With what was typed in until|(entry 4)|128,748.33|150,000.00|380,284.33|Over plan"},
		{"runa", "entries R-1 --key J-08,labour figure=", 0, "J-08, labour, figure: taken away"},
		{"runa", "entries undo R-1", 0, "J-08, labour, figure: 60.00"},
		{"runa", "entries undo R-1", 0, "taken away"},
		{"runa", "entries undo R-1", 2, "nothing of yours to be undone"},
		{"runa", "entries R-1 --file " + good, 0, "figure: 60.00"},
		{"runa", "entries cell R-1 figure 22", 0, "60.00|runa"},
		{"runa", "entries R-1 labour", 2, "say into which row"},
		{"rhea", "entries R-1 --key J-08,labour figure=1", 7, "needs the role runner"},
		{"rhea", "entries R-1", 0, "closed: typing in needs the role runner"},
		{"runa", "show R-1 --entries 2026-10-01", 0, "Nothing was typed in beside these rows, as of 2 October 2026"},
		{"runa", "show R-1 --entries soon", 2, "is neither a day nor a moment"},
		{"runa", "export R-1 --view forecast --to " + pdf, 0, "out.pdf"},
		{"lila", "sign R-1 agreed", 0, ""},
		{"runa", "entries R-1 --key J-08,labour figure=70", 2, "the result is signed off"},
		{"runa", "run project-forecast", 0, "R-000002"},
		{"runa", "entries R-2 --key J-08,labour figure=70", 0, "figure: 70.00"},
		{"runa", "show R-1", 0, "60.00|as of 15 October 2026"},
		{"runa", "entries R-2 --key J-77,labour figure=70", 2, "no row has the key J-77, labour"},
		{"runa", "run trial-balance", 0, "R-000003"},
		{"runa", "entries R-3", 2, "its report declares no entry"},
	})
	text, err := exec.Command("pdftotext", "-layout", pdf, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"With what was typed in until", "128,748.33", "percent done"} {
		if !strings.Contains(string(text), want) {
			t.Errorf("the PDF does not say %q:\n%s", want, text)
		}
	}
}
