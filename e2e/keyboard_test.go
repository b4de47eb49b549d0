package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// focused waits until the element in focus meets a test, as e.
func (b *browser) focused(test string) {
	b.t.Helper()
	b.until(`((e) => ` + test + `)(document.activeElement)`)
}

// ctrl presses a key with Ctrl.
func (b *browser) ctrl(key string) {
	b.t.Helper()
	b.value(`(document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: '` + key + `', code: 'Key' + '` +
		key + `'.toUpperCase(), ctrlKey: true, bubbles: true, cancelable: true})), '')`)
}

// TestKeyboardAlone goes from the catalog to a result without the mouse, as a
// person who sees one district, through every kind of field of the longest
// form, and keeps what was filled in.
func TestKeyboardAlone(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	_, dora := s.As(t, "dora")
	b := openBrowser(t)
	b.signIn(s, "dora")
	b.focused(`e.matches('[data-search]')`)
	b.keys("intake lots")
	b.until(`document.querySelector('li a')?.textContent.includes('Intake lots')`)
	b.keys(kb.ArrowDown + "\r")
	b.shows("Every lot received")

	b.focused(`e.name === 'received'`)
	b.keys(kb.ArrowDown) // opens the named ranges
	b.focused(`e.textContent.startsWith('last month')`)
	b.keys(kb.ArrowDown + kb.ArrowDown + kb.ArrowDown)
	b.focused(`e.textContent.startsWith('last quarter')`)
	b.keys("\r")
	b.focused(`e.name === 'received' && e.value === 'last quarter'`)
	b.keys("\r")

	b.focused(`e.ariaLabel === 'Region, district or site'`)
	b.keys(kb.ArrowDown)
	b.focused(`e.placeholder === 'Search units'`)
	b.keys("abbey")
	b.until(`document.querySelectorAll('[role=treeitem]').length === 2`)
	b.keys(kb.ArrowDown + kb.ArrowDown)
	b.focused(`e.role === 'treeitem' && e.textContent.includes('Hollin Abbey')`)
	b.keys(" ")
	b.until(`document.activeElement.ariaSelected === 'true'`)
	b.keys(kb.ArrowUp)
	b.focused(`e.textContent.includes('UF-HOL,')`)
	b.keys(" \r") // the whole district too, and done
	b.focused(`e.ariaLabel === 'Region, district or site'`)
	b.keys("\r")

	b.focused(`e.closest('[data-field=grade]')`)
	b.keys("a") // all of them
	b.until(`document.querySelectorAll('[data-field=grade] input:checked').length === 4`)
	b.keys(" " + kb.ArrowRight + kb.ArrowRight)
	b.until(`document.querySelectorAll('[data-field=grade] input:checked').length === 3`)
	b.keys("\r")
	b.focused(`e.closest('[data-field=origin]')`)
	b.keys("\r")

	b.focused(`e.name === 'keeper'`)
	b.keys("as")
	b.until(`document.querySelectorAll('[role=option]').length > 0`)
	b.keys(kb.Escape + kb.Backspace + kb.Backspace)
	b.until(`document.activeElement.value === ''`)
	b.keys("\r")

	b.focused(`e.dataset.field === 'more'`)
	// A real Enter ends with the field it was pressed in; a simulated one may
	// press the button that the focus came to as well.
	if b.value(`document.querySelector('[data-field=more]').ariaExpanded`) == "false" {
		b.keys("\r")
	}
	b.until(`document.querySelector('[name=at_least]')`)
	b.keys(kb.Tab)
	b.focused(`e.name === 'at_least'`)
	b.keys("12.3456\r")
	b.shows("more than 3 decimal places")
	b.focused(`e.closest('[data-field=corrections]')`)
	b.value(`(document.querySelector('[name=at_least]').focus(), document.querySelector('[name=at_least]').select(), '')`)
	b.keys("12.345\r")
	b.focused(`e.closest('[data-field=corrections]')`)
	b.until(`document.querySelector('[data-sentence]').innerText.includes('at least 12.345 kg')`)

	b.ctrl("s")
	b.focused(`e.name === 'criteria-name'`)
	b.keys("Hollin by the quarter\r")
	b.until(`document.querySelector('[data-criteria="Hollin by the quarter"][data-loaded]')`)
	b.value(`(document.querySelector('[data-field=corrections] input:checked').focus(), '')`)
	b.keys("\r") // from the last field to Run
	b.until(`document.activeElement.dataset.run !== undefined || !location.pathname.startsWith('/reports/')`)
	if b.value(`location.pathname`) == "/reports/intake-lots" {
		b.keys("\r")
	}
	b.until(`location.pathname.startsWith('/results/R-')`)
	b.until(`Number(document.querySelector('[data-rows]')?.dataset.rows) > 100`)
	b.shows("Received 1 July – 30 September 2026")

	b.open(s.URL + "/reports/orders-by-grouping") // what cannot be cut says so before it is run
	b.until(`document.querySelector('[data-refused]')?.innerText.includes('cannot be cut to your units')`)

	kept, err := dora.ListCriteriaWithResponse(t.Context(), "intake-lots", nil)
	if err != nil || kept.JSON200 == nil || len(*kept.JSON200) != 1 {
		t.Fatalf("%v %s", err, kept.Body)
	}
	if c := (*kept.JSON200)[0]; c.Values["received"] != "last quarter" || c.Values["at_least"] != "12.345" ||
		c.LastRows == nil || *c.LastRows < 100 || c.LastRun == nil {
		t.Errorf("kept as %+v", c)
	}
}

// TestCriteriaAndValuesThatPartWays overwrites criteria after seeing what
// changes, deletes them and brings them back, and changes the values beside a
// result.
func TestCriteriaAndValuesThatPartWays(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	_, runa := s.As(t, "runa")
	if r, err := runa.KeepCriteriaWithResponse(t.Context(), "payout-detail",
		api.CriteriaChange{Name: "Autumn", Values: api.Values{"settled": "2026-09", "unit": "Hollin"}}); err != nil ||
		r.JSON201 == nil {
		t.Fatalf("%v %s", err, r.Body)
	}
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/reports/payout-detail?criteria=C-1&settled=last+week")
	b.until(`document.querySelector('[name=settled]')?.value === 'last week'`)
	b.shows("district Hollin with everything below")
	b.press("Keep these values")
	b.until(`document.querySelector('[name=criteria-name]')?.value === 'Autumn'`)
	b.until(`[...document.querySelectorAll('td')].map(d => d.innerText).join(' ') === 'Settled 2026-09 last week'`)
	b.press("Overwrite “Autumn”")
	b.until(`!document.querySelector('[name=criteria-name]')`)
	b.until(`document.querySelector('[data-criteria=Autumn]').innerText.includes('5–11 October 2026')`)
	b.click(`[aria-label="More for Autumn"]`)
	b.press("Earlier values")
	b.until(`document.querySelector('[data-past]')?.innerText.includes('1–30 September 2026')`)
	b.press("Bring back")
	b.until(`document.querySelector('[data-criteria=Autumn]').innerText.includes('1–30 September 2026')`)
	b.click(`[aria-label="More for Autumn"]`)
	b.press("Delete")
	b.shows("“Autumn” is deleted.")
	b.press("Bring it back")
	b.until(`document.querySelector('[data-criteria=Autumn]')`)

	result := s.Result(t, "payout-detail", api.Values{"settled": "2026-08", "unit": "Hollin"})
	b.open(s.URL + "/results/" + result)
	b.press("Change values")
	b.shows("The form says what this result says.")
	b.fill("[name=settled]", "2026-07")
	b.until(`document.querySelector('[data-earlier]')?.innerText.includes('The form: settled 1–31 July 2026. The ` +
		`rows: settled 1–31 August 2026.')`)
	b.press("Run")
	b.until(`location.pathname.startsWith('/results/') && location.pathname !== '/results/` + result + `'`)
	b.shows("Settled 1–31 July 2026")
	b.open(s.URL + "/reports/payout-detail?settled=2026-07&unit=UF-HOL")
	b.until(`document.querySelector('[data-kept]')`) // the same values are kept already

	// A keeper of another district is left out when the unit changes, and told.
	b.open(s.URL + "/reports/intake-lots?keeper=K-1002")
	b.until(`document.querySelector('[name=keeper]')?.value.includes('Aris Lingcombe')`)
	b.click(`[data-field=unit] .mantine-PillsInput-input`)
	b.until(`[...document.querySelectorAll('[role=treeitem]')].some(u => u.innerText.includes('Upper Fells'))`)
	b.value(`([...document.querySelectorAll('[role=treeitem]')].find(u => u.innerText.includes('Upper ` +
		`Fells')).focus(), '')`)
	b.keys(" ")
	b.until(`document.querySelector('[data-dropped=keeper]')?.innerText.includes('Aris Lingcombe')`)
	b.until(`document.querySelector('[name=keeper]').value === ''`)
}

// TestSeveralEntitiesArePicked adds agents one by one and leaves one out.
func TestSeveralEntitiesArePicked(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/reports/agent-commission")
	for _, agent := range []string{"belis", "kelo"} {
		b.fill("[name=agent]", agent)
		b.until(`[...document.querySelectorAll('[role=option]')].filter(o => o.offsetParent).length === 1`)
		b.keys(kb.ArrowDown + "\r")
	}
	b.until(`document.querySelector('[data-sentence]').innerText.includes('agents Belis Østlow (AG-1) and Kelo ` +
		`Heathby (AG-4)')`)
	b.click(`[aria-label="Leave out Belis Østlow (AG-1)"]`)
	b.until(`document.querySelector('[data-sentence]').innerText.includes('agents Kelo Heathby (AG-4)')`)
}

// TestControlInTheConsole makes a run control, runs it, and opens what it gave.
func TestControlInTheConsole(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/controls")
	b.press("New run control")
	b.fill("[name=title]", "Month end")
	b.until(`document.querySelector('[name=id]').value === 'month-end'`)
	b.click(`[aria-label="Report 1"]`)
	b.keys("intake lots")
	b.until(`[...document.querySelectorAll('[role=option]')].some(o => o.innerText === 'Intake lots')`)
	b.value(`([...document.querySelectorAll('[role=option]')].find(o => o.innerText === 'Intake lots').click(), '')`)
	b.shows("Received 1–30 September 2026; the whole cooperative; all grades.")
	b.press("Keep")
	b.until(`location.pathname === '/controls/month-end'`)
	b.shows("It has never run.")
	b.fill("[name=other-values]", "unit=Hollin; Marr; received=2026-02-30")
	b.press("Run")
	b.shows("intake-lots.received: there is no day 2026-02-30")
	b.fill("[name=other-values]", "unit=Hollin; Marr")
	b.press("Run")
	b.press("117 rows")
	b.until(`location.pathname.startsWith('/results/')`)
	b.shows("districts Hollin and Marr with everything below")

	b.open(s.URL + "/controls/month-end")
	b.press("Change")
	b.fill("[name=title]", "Quarter end")
	b.press("Keep the changes")
	b.until(`document.querySelector('h1')?.innerText === 'Quarter end'`)
	b.press("Earlier versions")
	b.until(`document.querySelector('[data-past]')?.innerText.includes('Month end')`)
	b.shot("versions")
	b.press("Bring back")
	b.until(`document.querySelector('h1')?.innerText === 'Month end'`)
}
