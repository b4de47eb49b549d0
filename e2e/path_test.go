package e2e

import (
	"testing"
	"unicode/utf8"

	"github.com/chromedp/chromedp/kb"

	"mantilla/demo/demotest"
)

// mostPresses is how many keys lead from the desk to a spreadsheet of a grouped result.
const mostPresses = 25

// TestFromTheDeskToASpreadsheetByKeys finds a report, runs it, groups what it gave and takes it away, by
// the keyboard alone and with few keys.
func TestFromTheDeskToASpreadsheetByKeys(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/")
	b.until(`document.querySelector('h1')`)
	pressed := 0
	press := func(keys string) {
		t.Helper()
		pressed += utf8.RuneCountInString(keys)
		b.keys(keys)
	}
	goTo := func(typed, finds string) {
		t.Helper()
		pressed++
		b.withCtrl("k")
		b.focused(`e.matches('[data-palette]')`)
		press(typed)
		b.until(`document.querySelector('[role=option][aria-selected=true]')?.innerText.includes('` + finds + `')`)
		press("\r")
	}
	goTo("lots", "Intake lots")
	b.focused(`e.name === 'received'`)
	pressed++
	b.withCtrl("\r")
	b.until(`document.querySelector('[data-sheet=lots] [data-kind=row]')`)
	goTo("gro", "Group")
	b.focused(`e.closest('[data-part=group]') || e.matches('[data-part=group]')`)
	press("dis")
	b.until(`[...document.querySelectorAll('[role=option]')].some(o => o.innerText === 'District' && o.offsetParent)`)
	press("\r")
	b.until(`document.querySelector('[data-sheet=lots] [role=rowheader]')`)
	press(kb.Escape)
	goTo("tak", "Take away")
	b.focused(`e.innerText === 'Write the file'`)
	b.shot("path-take")
	press("\r")
	b.until(`document.querySelector('[data-export=done] a[download]')`)
	if pressed > mostPresses {
		t.Errorf("it takes %d presses", pressed)
	}
	t.Logf("%d presses", pressed)
}
