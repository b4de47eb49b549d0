package e2e

import (
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// dragFrom moves the pointer, held down, from the middle of an element by so many pixels.
func (b *browser) dragFrom(css string, aside, down float64) {
	b.t.Helper()
	b.until(`document.querySelector('` + css + `')`)
	at := func(side string) float64 {
		x, err := chromedp.Run(b.ctx, chromedp.Evaluate[float64](`(r => `+side+`)(document.querySelector('`+css+
			`').getBoundingClientRect())`))
		if err != nil {
			b.t.Fatal(err)
		}
		return x
	}
	x, y := at("r.x + r.width / 2"), at("r.y + r.height / 2")
	b.do(chromedp.DragAndDropXY(x, y, x+aside, y+down, 4))
}

// copied is what a copy of what is chosen on the page puts into the clipboard.
func (b *browser) copied() string {
	b.t.Helper()
	return b.value(`(() => { const held = new DataTransfer()
		document.activeElement.dispatchEvent(new ClipboardEvent('copy',
			{clipboardData: held, bubbles: true, cancelable: true}))
		return held.getData('text/plain') })()`)
}

// TestColumnsAndCells widens a column, which stays so; groups by bands and takes a column out by its
// menu; picks cells by the pointer and by the keyboard, reads what they come to, and copies them.
func TestColumnsAndCells(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + result)
	heading := `[...document.querySelectorAll('[role=columnheader]')].find(e => e.querySelector('[data-sort=keeper]'))`
	b.until(heading)
	before := b.value(`String(` + heading + `.getBoundingClientRect().width)`)
	b.value(`(` + heading + `.querySelector('[data-grip]').id = 'grip', '')`)
	b.dragFrom("#grip", 120, 0)
	b.until(heading + `.getBoundingClientRect().width > ` + before + ` + 90`)
	b.do(chromedp.Reload())
	b.until(heading + `?.getBoundingClientRect().width > ` + before + ` + 90`)

	b.value(`(document.querySelector('[data-kind=row] > :nth-child(8)').id = 'from', '')`)
	b.dragFrom("#from", 0, 56)
	b.shows("3 cells")
	b.shows("sum ")
	three := b.value(`[...document.querySelectorAll('[data-kind=row] > :nth-child(8)')].slice(0, 3)` +
		`.map(e => e.innerText).join()`)
	b.shot("picked")
	text := strings.Split(strings.TrimSpace(b.copied()), "\n")
	if len(text) != 4 || strings.ReplaceAll(three, ",", "") != strings.Join(text[1:], "") {
		t.Errorf("%q was copied of %q", text, three)
	}
	b.value(`(document.querySelector('[data-sheet]').focus(), '')`)
	b.keys(kb.Escape)
	b.until(`!document.querySelector('[data-picked]')`)
	b.keys(kb.Home)
	b.until(`document.querySelector('[data-hand]')`)
	b.keys(kb.ArrowRight)
	b.until(`document.querySelector('[data-hand] [data-at]')`)
	b.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(chromedp.ModifierShift)))
	b.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)))
	b.shot("keys")
	b.shows("4 cells")

	b.do(chromedp.DragAndDrop(chromedp.CSS("[data-sort=district]"), chromedp.CSS("[data-group-bar]")))
	b.until(`new URLSearchParams(location.search).get('lots.group') === 'district'`)
	b.press("Undo")
	b.until(`!location.search.includes('lots.group')`)
	b.click("[data-filter=grade]")
	b.press("Leave it out")
	b.until(`!document.querySelector('[data-sort=grade]')`)
	b.click("[data-filter=net_kg]")
	b.shows("Group in bands of it")
	b.shot("column-menu")
	b.press("Group in bands of it")
	b.until(`decodeURIComponent(location.search).includes('band(net_kg')`)
	b.shot("bands")
	b.until(`[...document.querySelectorAll('[role=rowheader]')].some(e => e.innerText.includes('100'))`)
	b.click("[data-filter=net_kg]")
	b.click("[data-act='total median']")
	b.shows("the total of net weight is the median")
	b.until(`document.querySelector('[data-totals]')?.innerText.includes('median')`)
	b.press("the total of net weight is the median") // each part of the sentence can be taken away
	b.until(`!location.search.includes('lots.total')`)
	b.click("[data-filter=net_kg]")
	b.click("[data-act=average]")
	b.shows("Net weight, average")
	b.click("[data-filter=net_kg]")
	b.press("Where it comes from")
	b.until(`document.querySelector('[data-origin]')?.innerText.includes('Net weight')`)
	b.shot("origin")
}

// TestFoldedColumnsAreNotPicked picks all cells of a sheet of which a group of columns is folded away: as
// many columns are copied as are seen.
func TestFoldedColumnsAreNotPicked(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "staff-list", api.Values{})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + result)
	b.click("[role=columnheader] [aria-expanded=true][type=button]:not([data-filter])")
	b.until(`document.querySelector('[role=columnheader] [aria-expanded=false]:not([data-filter])')`)
	seen := b.value(`String(document.querySelector('[data-kind=row]').children.length)`)
	b.value(`(document.querySelector('[data-sheet]').focus(), '')`)
	b.withCtrl("a")
	b.until(`document.querySelector('[data-picked]')?.innerText.includes('cells')`)
	heads, _, _ := strings.Cut(b.copied(), "\n")
	if got := strconv.Itoa(len(strings.Split(heads, "\t"))); got != seen {
		t.Errorf("%s columns are seen, and copied are %q", seen, heads)
	}
}
