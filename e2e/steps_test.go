package e2e

import (
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestRowsStandHigh: at laptop size little stands above the rows of a single table.
func TestRowsStandHigh(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/results/" + s.Result(t, "intake-lots", api.Values{"received": "2026-08"}))
	b.until(`document.querySelectorAll('[data-sheet] [aria-rowindex]').length > 15`)
	number := func(expression string) float64 {
		t.Helper()
		n, err := strconv.ParseFloat(b.value("String("+expression+")"), 64)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	if top := number(`document.querySelector('[data-sheet] [aria-rowindex="2"]').getBoundingClientRect().top`); top > 190 {
		t.Errorf("the first row stands %v px from the top", top)
	}
	whole := number(`[...document.querySelectorAll('[data-sheet] [aria-rowindex]')].map(r => r.getBoundingClientRect())
		.filter(r => { const total = document.querySelector('[data-totals]').getBoundingClientRect()
			return r.height < 40 && r.bottom <= total.top }).length`)
	if whole < 19 {
		t.Errorf("%v rows are in sight", whole)
	}
}

// TestWhatIsDoneToAViewIsSaid in a sentence whose parts can be taken away, and whose last step can be undone.
func TestWhatIsDoneToAViewIsSaid(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "lila")
	lots := s.URL + "/results/" + s.Result(t, "intake-lots", api.Values{"received": "2026-08"})
	said := func(want string) {
		t.Helper()
		b.until(`(document.querySelector('[data-told]')?.innerText ?? '') === ` + strconv.Quote(want))
	}
	b.open(lots)
	b.until(`document.querySelector('[data-sheet]')`)
	said("")
	b.open(lots + "?lots.filter=grade%3DSelect&lots.filter=district%3DMarr&lots.group=grade" +
		"&lots.column=lot_no&lots.column=received&lots.column=district&lots.column=keeper&lots.column=grade" +
		"&lots.column=flower&lots.column=net_kg&lots.column=value")
	said("Of which grade Select and district Marr: 53 of 911 rows; grouped by grade; moisture, price per kg and state " +
		"left out. This is an extract.")
	take := func(what string) {
		t.Helper()
		b.click("[aria-label='Take away: " + what + "']")
	}
	take("grade Select")
	said("Of which district Marr: 83 of 911 rows; grouped by grade; moisture, price per kg and state left out. " +
		"This is an extract.")
	take("moisture, price per kg and state left out")
	said("Of which district Marr: 83 of 911 rows; grouped by grade. This is an extract.")
	take("grouped by grade")
	said("Of which district Marr: 83 of 911 rows. This is an extract.")
	b.press("Undo")
	said("Of which district Marr: 83 of 911 rows; grouped by grade. This is an extract.")
	b.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl))) // Ctrl Z
	said("Of which district Marr: 83 of 911 rows; grouped by grade; moisture, price per kg and state left out. " +
		"This is an extract.")
	b.press("Redo")
	said("Of which district Marr: 83 of 911 rows; grouped by grade. This is an extract.")
	b.press("As made")
	said("")
	b.press("Undo")
	said("Of which district Marr: 83 of 911 rows; grouped by grade. This is an extract.")
	if strings.Contains(b.value(`location.search`), "moisture") {
		t.Error("the address says what is no longer so")
	}

	// What a kept view has is taken away too, and is there again when it is as it was kept.
	steps(t, s, []step{{"lila", "views keep R-000001 Marr --filter district=Marr --total net_kg:avg", 0, "V-1"}})
	b.open(lots + "?view=V-1")
	kept := "Of which district Marr: 83 of 911 rows; the total of net weight is the average. This is an extract."
	said(kept)
	take("district Marr")
	said("The total of net weight is the average.")
	take("The total of net weight is the average")
	b.until(`document.querySelector('[data-sheet]') && !document.querySelector('[data-told]')`)
	b.press("As made")
	said(kept)
}
