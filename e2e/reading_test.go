package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestReadingInTheConsole groups a result, opens a total into its rows, goes
// back, keeps the view, and opens it in a second session.
func TestReadingInTheConsole(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + result)

	b.press("Group")
	for _, level := range []string{"district", "month(received)"} {
		b.fill("[data-part=group]", level)
		b.keys("\r")
		b.until(`location.search.includes(encodeURIComponent('` + level +
			`').replaceAll('(', '(')) || decodeURIComponent(location.search).includes('` + level + `')`)
	}
	b.keys(kb.Escape)
	b.until(`document.querySelectorAll('[data-outline] button').length > 30`)
	b.until(`document.querySelector('[data-sheet=lots] [aria-rowindex="3"] ` +
		`[role=rowheader]').innerText.includes('Jul 2026')`)

	figure := `[data-sheet=lots] [aria-rowindex="3"] > [role=cell]:nth-child(3) > button`
	shown := b.value(`document.querySelector('` + figure + `').innerText`)
	b.click(figure)
	b.click("[data-rows-behind]")
	b.until(`document.querySelector('[data-agree=true]')`)
	b.shows("was " + shown)
	b.shows("month of received 2026-07")
	b.until(`[...document.querySelectorAll('[data-sheet="lots.rows"] button')].some(e => e.innerText === '` + shown + `')`)

	total := `(() => { const sheet = document.querySelector('[data-sheet="lots.rows"]'); return ` +
		`[...sheet.querySelectorAll('button')].find(e => e.innerText === '` + shown + `') })()`
	b.until(`(` + total + `.click(), document.querySelector('[data-figure-menu]'))`)
	b.click("[data-by=flower]")
	b.until(`document.querySelectorAll('[data-trail] li').length === 3`)
	b.until(`document.querySelector('[data-agree=true]') && document.querySelector('[data-sheet="lots.rows"] ` +
		`[role=rowheader]')`)

	b.until(`(history.back(), true)`)
	b.until(`document.querySelectorAll('[data-trail] li').length === 2`)
	b.click("[data-trail] li:first-child a")
	b.until(`!document.querySelector('[data-trail]') && document.querySelector('[data-sheet=lots]')`)

	b.press("Add column")
	b.fill("[name=column-name]", "Per kg")
	b.fill("[name=formula]", "sum(value) / sum(net_kq)")
	b.shows("did you mean net_kg?")
	b.fill("[name=formula]", "sum(value) / sum(net_kg)")
	b.shows("Gives money, of each group.")
	b.until(`(() => { const add = [...document.querySelectorAll('button')].find(e => e.textContent.trim() === ` +
		`'Add'); return add && !add.disabled && (add.click(), true) })()`)
	b.until(`document.querySelector('[data-sheet=lots]').innerText.includes('Per kg, EUR')`)

	b.press("Keep view")
	b.until(`(() => { const e = [...document.querySelectorAll('label')].find(l => l.innerText.includes('For ` +
		`everyone')); e?.click(); return Boolean(e) })()`)
	b.fill("[name=view-name]", "Paid per kg")
	b.keys("\r")
	b.until(`location.search === '?view=V-1'`)
	b.until(`document.querySelector('[data-sheet="V-1"]')?.innerText.includes('Per kg, EUR')`)

	other := openBrowser(t)
	other.signIn(s, "rhea")
	other.open(s.URL + "/results/" + result)
	other.press("Paid per kg")
	other.until(`document.querySelector('[data-sheet="V-1"]')?.innerText.includes('Per kg, EUR')`)
	const figures = `[...document.querySelectorAll('[data-sheet="V-1"] [aria-rowindex] [role=cell]')].map(c => ` +
		`c.innerText).join(' ')`
	for _, tab := range []*browser{b, other} {
		tab.until(`!(` + figures +
			`).includes('…') && document.querySelectorAll('[data-sheet="V-1"] [aria-rowindex]').length > 10`)
	}
	mine, theirs := b.value(figures), other.value(figures) // of as many lines as both have in sight
	if n := min(len(mine), len(theirs)); n < 300 || mine[:n] != theirs[:n] {
		t.Errorf("runa reads\n%s\nrhea\n%s", mine, theirs)
	}
}

// TestFindFoldAndRow goes through a grouped result by the keyboard.
func TestFindFoldAndRow(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + result)
	b.fill("[name=find]", "brackwick")
	b.keys("\r")
	b.until(`document.querySelector('[data-found]')?.innerText.startsWith('1 of')`)
	b.until(`document.querySelector('[data-sheet=lots] [data-hand]').innerText.includes('Brackwick')`)
	first := b.value(`location.search`)
	b.keys("\r")
	b.until(`document.querySelector('[data-found]').innerText.startsWith('2 of') && location.search !== ` + "`" + first +
		"`")
	b.until(`document.querySelector('[data-sheet=lots] [data-hand] a') && ` +
		`Number(document.querySelector('[data-sheet=lots] [data-hand]').getAttribute('aria-rowindex')) === Number(new ` +
		`URLSearchParams(location.search).get('hand').split(':')[1]) + 2`)
	b.value(`(document.querySelector('[data-sheet=lots]').focus(), '')`)
	b.keys("\r")
	b.until(`document.querySelector('[data-row-side]').innerText.includes('Brackwick')`)
	lot := b.value(`document.querySelector('[data-sheet=lots] [data-hand] a').innerText`)
	b.until(`document.querySelector('[data-row-side]').innerText.includes('` + lot + `')`)

	b.open(s.URL + "/results/" + result + "?lots.group=grade")
	b.until(`document.querySelector('[data-sheet=lots] [aria-expanded=false]')`)
	b.value(`(document.querySelector('[data-sheet=lots]').focus(), '')`)
	b.keys(kb.ArrowDown)
	b.until(`document.querySelector('[data-sheet=lots] [data-hand]')`)
	b.keys(kb.ArrowRight)
	b.until(`document.querySelector('[data-sheet=lots] [aria-rowindex="2"]').ariaExpanded === 'true' && ` +
		`document.querySelector('[data-sheet=lots] [data-kind=row]')`)
	b.keys(kb.ArrowLeft)
	b.until(`!document.querySelector('[data-sheet=lots] [data-kind=row]')`)
	b.keys("\r")
	b.until(`document.querySelector('[data-figure-menu] [data-rows-behind]')`)

	b.open(s.URL + "/results/" + result + "?lots.show=chart&lots.group=grade&lots.cell=net_kg")
	b.until(`document.querySelector('[data-chart] svg path, [data-chart] svg rect')`)
	b.value(`(document.querySelector('[data-point]').focus(), '')`)
	b.keys(kb.ArrowRight)
	b.until(`/^\w+: [\d,.]+$/.test(document.querySelector('[data-point]').innerText)`)
	figure := strings.SplitN(b.value(`document.querySelector('[data-point]').innerText`), ": ", 2)[1]
	b.keys("\r")
	b.until(`document.querySelector('[data-figure-menu]')?.innerText.includes('` + figure + `')`)

	b.open(s.URL + "/results/" + result)
	b.press("More")
	b.press("Completeness")
	b.until(`document.querySelector('[data-complete] tbody tr')`)
	empty := b.value(
		`[...document.querySelectorAll('[data-complete] tbody tr')].find(r => ` +
			`r.innerText.startsWith('Flower')).querySelector('button').innerText`)
	b.until(`([...document.querySelectorAll('[data-complete] tbody tr')].find(r => ` +
		`r.innerText.startsWith('Flower')).querySelector('button').click(), true)`)
	b.until(`document.querySelector('[data-rows]')?.dataset.rows === '` + empty + `'`)
}

// TestRowsBehindWhatTheSourceGrouped opens the figure of one line that the source
// grouped, and one of a period compared with; a reader follows a link from the rows.
func TestRowsBehindWhatTheSourceGrouped(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	id := s.Result(t, "intake-by-origin", api.Values{"received": "2026-09"})
	seasons := s.Result(t, "orders-earlier-seasons", nil)
	b := openBrowser(t)
	b.signIn(s, "rhea")
	b.open(s.URL + "/results/" + id + "?view=by_flower")
	figure := `[data-sheet=by_flower] [aria-rowindex="2"] > [role=cell]:nth-child(3) button`
	b.until(`document.querySelector('` + figure + `')`)
	shown := b.value(`document.querySelector('` + figure + `').innerText`)
	b.shot("behind-before")
	b.click(figure)
	b.until(`document.querySelector('[data-rows-behind]')`)
	b.shot("behind-menu")
	b.click("[data-rows-behind]")
	b.until(`document.querySelector('[data-agree=true]')?.innerText.includes('` + shown + `')`)
	b.until(`document.querySelector('[data-sheet="lots.rows"] [aria-rowindex="2"] a')`)
	b.shot("behind-rows")
	lot := b.value(`document.querySelector('[data-sheet="lots.rows"] [aria-rowindex="2"] a').innerText`)
	b.click(`[data-sheet="lots.rows"] [aria-rowindex="2"] a`)
	b.until(`location.pathname.startsWith('/results/') && document.querySelector('h1')?.innerText.includes('Lot history')`)
	b.shows(lot)
	b.open(s.URL + "/results/" + seasons)
	b.until(`[...document.querySelectorAll('[data-sheet] [role=columnheader]')]` +
		`.some(h => h.innerText.includes('year before'))`)
	b.shot("behind-seasons")
	runner := openBrowser(t)
	runner.signIn(s, "runa")
	runner.open(s.URL + "/results/" + seasons)
	runner.until(`document.querySelector('[data-sheet] [aria-rowindex="2"] a')`)
	then := runner.value(`document.querySelector('[data-sheet] [aria-rowindex="2"] a').innerText`)
	runner.click(`[data-sheet] [aria-rowindex="2"] a`)
	runner.until(`location.pathname.startsWith('/results/') && !location.pathname.endsWith('` + seasons + `')`)
	runner.until(`document.querySelector('[data-sheet] [aria-rowindex="2"]')?.innerText.includes('` + then + `')`)
	runner.shot("behind-then")
}

// TestAChartIsRead says what is highest, hides a series, draws each apart, and opens a figure beside it.
func TestAChartIsRead(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/results/" + result + "?lots.show=chart&lots.drawn=line&lots.group=month(received)&lots.group=grade" +
		"&lots.cell=net_kg")
	b.shows("Highest: Jul 2026, Select: 117,502.819")
	b.until(`document.querySelectorAll('[data-chart] .recharts-line').length === 3`)
	b.press("Select") // in the legend: hidden, in the figures too
	b.until(`document.querySelectorAll('[data-chart] .recharts-line').length === 2`)
	b.shows("Highest: Jul 2026, Table: 77,401.335")
	b.press("Figures")
	b.until(`[...document.querySelectorAll('[data-chart] thead th')].map(e => e.innerText).join() === ` +
		`'Month of received,Baking,Table'`)
	b.press("Each apart")
	b.until(`document.querySelectorAll('[data-chart] h3').length === 2`)
	b.until(`([...document.querySelectorAll('[data-chart] td button')]` +
		`.find(e => e.innerText === '77,401.335').click(), true)`)
	b.until(`document.querySelector('[data-figure-menu]')?.innerText.includes('77,401.335')`)
}
