package e2e

import (
	"testing"
	"unicode/utf8"

	"github.com/chromedp/chromedp/kb"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// counted is a browser that counts what its person presses and clicks.
type counted struct {
	*browser
	count int
}

func (c *counted) press(text string) { c.t.Helper(); c.count++; c.browser.press(text) }

func (c *counted) click(css string) {
	c.t.Helper()
	c.count++
	c.until(`document.querySelector('` + css + `')?.offsetParent`)
	c.browser.click(css)
}

func (c *counted) keys(keys string) {
	c.t.Helper()
	c.count += utf8.RuneCountInString(keys)
	c.browser.keys(keys)
}

// most holds that a task took so many clicks and keys at most, and begins to count anew.
func (c *counted) most(task string, n int) {
	c.t.Helper()
	if c.count > n {
		c.t.Errorf("%s took %d clicks and keys, %d are allowed", task, c.count, n)
	}
	c.t.Logf("%s: %d", task, c.count)
	c.count = 0
}

// TestWhatIsDoneEveryDay does six tasks as somebody would who runs reports every day, with few clicks
// and keys: what they ran yesterday run for this month; the district that fell most against last year, and
// the lots behind it; that on the desk; mailed to two people; coming by itself; a result that was signed
// off last year.
func TestWhatIsDoneEveryDay(t *testing.T) {
	t.Parallel()
	s := demotest.StartAfterAYear(t)
	runa, _ := s.As(t, "runa")
	steps(t, s, []step{{"lila", "sign R-000002", 0, ""}})
	result := command(t, s.URL, runa, "run", "intake-lots", "received=2026-09")
	if result.code != 0 {
		t.Fatalf("%+v", result)
	}
	sent := s.Result(t, "intake-by-origin", api.Values{"received": "2026-09"})
	for _, to := range []string{"ada@brackenfell.example", "ben@brackenfell.example"} {
		if got := command(t, s.URL, runa, "send", sent, "--to", to); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	b := &counted{browser: openBrowser(t)}
	b.signIn(s, "runa")
	b.count = 0

	b.open(s.URL + "/")
	b.click(`[aria-label="Run Intake lots again for other days"]`)
	b.until(`[...document.querySelectorAll('[role=menuitem]')].some(e => e.innerText.startsWith('this month'))`)
	b.count++
	b.pick("[role=menuitem]", "this month")
	b.until(`document.querySelector('[data-sentence]')?.innerText.includes('1–31 October 2026')`)
	b.most("what was run yesterday, for this month", 2)

	b.open(s.URL + "/results/" + s.Result(t, "intake-lots", api.Values{"received": "2026-09"}))
	b.press("Compare")
	b.press("With the year before")
	b.until(`document.querySelector('h1')?.innerText === 'What changed: Intake lots'`)
	b.click("[role=tab][id$=changes]")
	b.until(`document.querySelector('[role=tab][id$=changes]')?.ariaSelected === 'true' &&
		document.querySelectorAll('[data-sheet]').length === 1`)
	b.press("Group")
	b.shot("task-group")
	b.count++
	b.pick("[role=option]", "District")
	b.until(`document.querySelector('[data-sheet=changes] [data-kind=group]')`)
	b.keys(kb.Escape)
	b.until(`!document.querySelector('[data-part=group]')?.offsetParent`)
	b.count++
	b.value(`(document.querySelector('[data-sort$=change]').click(), '')`)
	b.until(`document.querySelector('[data-kind=group]')?.innerText.includes('Lórrin')`)
	b.shot("task-fell")
	page := b.value(`location.href`)
	b.count++ // by the page itself: lines are drawn anew while they are sorted
	b.value(`(document.querySelector('[data-kind=group] [role=cell] button').click(), '')`)
	b.click("[data-rows-behind]")
	b.until(`document.querySelector('[data-kind=row]')?.innerText.includes('Lórrin')`)
	b.most("which district fell most, and its lots", 10)

	b.open(page)
	b.press("Place")
	b.until(`document.querySelector('[data-undo]')?.innerText.includes('is on your desk')`)
	b.most("that on the desk", 1)
	b.open(s.URL + "/")
	b.until(`document.querySelector('[data-tile] tbody tr')?.innerText.includes('Lórrin')`)
	b.shot("task-desk")
	b.browser.click(`[aria-label="Change the tile"]`) // one that stays can be called otherwise
	b.fill("[name=tile-title]", "Fell most")
	b.browser.press("Keep")
	b.until(`document.querySelector('[data-tile] h2')?.innerText === 'Fell most'`)
	b.count = 0

	b.open(s.URL + "/results/" + sent)
	b.press("Send")
	b.click("[data-lately^=ada]")
	b.click("[data-lately^=ben]")
	b.click("[name=text]")
	b.browser.keys("Have a look at Lórrin.") // the note is as long as it is
	b.count++
	b.withCtrl("\r")
	b.shows("is on its way to ada@brackenfell.example, ben@brackenfell.example")
	b.most("mailed to two people with a note", 5)

	b.open(s.URL + "/results/" + sent)
	b.press("More")
	b.press("Let it come by itself")
	b.until(`document.activeElement.closest('[role=dialog]') && document.activeElement.type === 'submit'`)
	b.keys("\r")
	b.shows("next on 2 Nov 2026 08:00 CET")
	b.most("every first working day", 3)

	b.open(s.URL + "/")
	b.press("Results")
	b.press("Signed off")
	b.press("Last year")
	b.until(`document.querySelectorAll('tbody tr').length === 1`)
	b.press("R-000002")
	b.until(`document.querySelector('h1')?.innerText === 'Training progress by stage'`)
	b.most("last year's signed result", 4)
}
