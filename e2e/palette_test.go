package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestEverythingIsReachedByItsName opens the palette by its keys and goes to a place by another word for
// it, to a report, to a result, and to what can be done on a page.
func TestEverythingIsReachedByItsName(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-by-origin", api.Values{})
	b := openBrowser(t)
	b.signIn(s, "lila")
	typed := func(text string) {
		t.Helper()
		b.withCtrl("k")
		b.until(`document.querySelector('[data-palette]') === document.activeElement`)
		b.do(chromedp.KeyEvent(text))
	}
	first := func(text, want string) {
		t.Helper()
		typed(text)
		b.until(`document.querySelector('[role=option][aria-selected=true]')?.innerText.replaceAll('\n', ' ') === '` + want +
			`'`)
		b.keys("\r")
	}
	first("schedule", "Place Timetable")
	b.until(`location.pathname === '/timetable'`)
	first("trial bal", "Report Trial balance trial-balance")
	b.until(`location.pathname === '/reports/trial-balance'`)
	first("glos", "Library office Glossary")
	b.until(`location.search === '?desk=glossary'`)
	typed("honey intake")
	b.until(`[...document.querySelectorAll('[role=option]')].some(o => o.innerText.includes('` + result + `'))`)
	b.keys("\x1b")
	b.open(s.URL + "/results/" + result)
	b.until(`document.querySelector('[data-sheet]')`)
	first("take", "On this page Take away")
	b.until(`document.querySelector('[role=dialog]')?.innerText.includes('Take Honey intake by origin away')`)
	b.keys("\x1b")
	first("year before", "On this page Compare with the year before")
	b.until(`location.pathname.startsWith('/runs/') || location.pathname !== '/results/` + result + `'`)
	b.open(s.URL + "/results/" + result)
	b.until(`document.querySelector('[data-sheet]')`)
	first("come itself", "On this page Let it come by itself")
	b.until(`document.querySelector('[role=dialog]')`)
	b.keys("\x1b")
	typed("qqq")
	b.shows("Nothing is called so.")
}

// TestNarrowWindows: in the width of a telephone the places are one menu, and nothing is wider than the window.
func TestNarrowWindows(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-08"})
	b := openBrowser(t)
	b.signIn(s, "lila")
	for _, place := range []string{"/", "/catalog", "/reports/intake-lots", "/controls", "/timetable", "/runs", "/results",
		"/results/" + result, "/sending", "/sending?tab=book", "/office?desk=reports", "/office?desk=glossary",
		"/office?desk=shelf", "/office?desk=retired", "/office?desk=open", "/office?desk=sources", "/office?desk=days",
		"/guide", "/trash"} {
		b.open(s.URL + place)
		b.until(`document.querySelector('h1')`)
		for _, width := range []int64{320, 390} { // a laptop at 400 %, and a telephone
			b.do(chromedp.EmulateViewport(width, 844))
			if wide := b.value(`String(document.documentElement.scrollWidth)`); wide != fmt.Sprint(width) {
				t.Errorf("%s is %s px wide within %d", place, wide, width)
			}
		}
	}
	b.open(s.URL + "/results/" + result)
	b.until(`document.querySelector('[data-led] [aria-rowindex="5"]')`)
	b.until(`(() => { // pushed sideways, the first column stays
		const box = document.querySelector('[data-sheet]')
		box.scrollLeft = 300
		const first = box.querySelector('[aria-rowindex="5"] > :first-child').getBoundingClientRect()
		return Math.abs(first.left - box.getBoundingClientRect().left) < 3
	})()`)
	b.open(s.URL + "/trash")
	b.until(`document.querySelector('h1')`)
	b.pick("header button", "Places ▾")
	b.pick("[role=dialog] a", "Results")
	b.until(`location.pathname === "/results"`)
}

// TestATouchOpensTheRow has a finger open a row as a record on a telephone and close it, and the bar of a
// result fold while its rows are gone through.
func TestATouchOpensTheRow(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + result)
	b.until(`document.querySelector('[data-kind=row]')`)
	rows := func() string {
		return b.value(`String(Math.floor(document.querySelector('[data-sheet]').clientHeight))`)
	}
	before := rows()
	b.value(`(document.querySelector('[data-sheet]').scrollTop = 4000, '')`)
	b.until(`document.querySelector('[data-folded]')`)
	b.until(`document.querySelector('[data-sheet]').clientHeight > ` + before)
	b.until(`document.querySelector('[data-sentence]').getBoundingClientRect().top < 90`)
	b.shot("folded")
	b.value(`(document.querySelector('[data-sheet]').scrollTop = 0, '')`)
	b.until(`!document.querySelector('[data-folded]')`)

	b.do(chromedp.EmulateViewport(390, 844))
	b.until(`document.querySelector('[data-kind=row]')`)
	b.value(`(document.querySelector('[data-kind=row] > :nth-child(2)').dispatchEvent(
		new PointerEvent('click', {bubbles: true, pointerType: 'touch'})), '')`)
	b.until(`document.querySelector('[data-row-side] dd')?.innerText.startsWith('L26-')`)
	b.until(`document.querySelector('[data-row-side]').getBoundingClientRect().bottom <= 844`)
	b.shot("record")
	b.click(`[aria-label="Close what stands beside the rows"]`)
	b.until(`!document.querySelector('[data-row-side]')`)
}
