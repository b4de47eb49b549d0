package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestOneZoneWhereverTheBrowserStands reads moments and days in browsers west and
// east of the service, and at home: all say the same, with its zone.
func TestOneZoneWhereverTheBrowserStands(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "keeper-file", api.Values{"keeper": "K-1002"})
	trend := s.Result(t, "portal-activity", api.Values{"visited": "2026-09-01/2026-09-30"})
	said := map[string]string{}
	for _, zone := range []string{"America/Los_Angeles", "Europe/Berlin", "Pacific/Auckland"} {
		b := openBrowserIn(t, zone)
		b.signIn(s, "lila")
		b.open(s.URL + "/results")
		b.until(`document.querySelector('tbody tr')`)
		kept := b.value(`[...document.querySelectorAll('tbody tr td:nth-child(2)')].map(e => e.innerText).join('; ')`)
		b.open(s.URL + "/results/" + result + "?view=keeper")
		b.until(`document.querySelector('[data-sheet]')`)
		born := b.value(`document.querySelector('[data-sheet]').innerText.replace(/\\s+/g, ' ')`)
		b.open(s.URL + "/results/" + trend + "?view=days")
		b.until(`document.querySelector('[data-chart] svg text')`)
		axis := b.value(`[...document.querySelectorAll('[data-chart] svg text')].map(e => e.textContent).join('; ')`)
		b.open(s.URL + "/office?desk=days")
		b.until(`document.querySelector('tbody tr')`)
		off := b.value(`document.querySelector('tbody').innerText`)
		said[zone] = strings.Join([]string{kept, born, axis, off}, "\n")
		if !strings.Contains(kept, "CEST") {
			t.Errorf("in %s the moments are said without a zone: %s", zone, kept)
		}
	}
	for zone, text := range said {
		if text != said["Europe/Berlin"] {
			t.Errorf("in %s the console says\n%s\nat home\n%s", zone, text, said["Europe/Berlin"])
		}
	}
}

// TestMomentsInOnesOwnZoneAreSaidEverywhere sets a zone in the console and reads the
// same moment there and by the command line, and the days of rows as they were.
func TestMomentsInOnesOwnZoneAreSaidEverywhere(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	token, _ := s.As(t, "runa")
	kept := func(b *browser) string {
		b.open(s.URL + "/results")
		b.until(`document.querySelector('tbody tr')`)
		return b.value(`document.querySelector('tbody tr td:nth-child(2)').innerText`)
	}
	s.Result(t, "lot-changes", api.Values{"changed": "2026-09-01"})
	b := openBrowser(t)
	b.signIn(s, "runa")
	home := kept(b)
	b.click("[data-person]")
	b.press("Preferences")
	const field = "[data-way=zone]"
	b.until(`document.querySelector("` + field + `")?.value === 'the zone of the organisation'`)
	b.shot("preferences")
	for way, liked := range map[string]string{"The console opens with": "results", "Lines of sheets stand": "close",
		"Its colours are": "dark", "A week begins on": "Sunday"} {
		b.field(way)
		b.choose(liked)
	}
	b.fill(field, "Tokyo")
	b.option("Asia/Tokyo")
	// The page is loaded anew at once, so that who presses does not wait for what comes of it.
	b.until(`(() => {
		const set = [...document.querySelectorAll('[role=dialog] button')].find(e => e.textContent.trim() === 'Set them')
		if (set) setTimeout(() => set.click())
		return Boolean(set)
	})()`)
	b.until(`!document.querySelector("` + field + `")`)
	there := kept(b)
	if !strings.Contains(home, "CEST") || !strings.Contains(there, "GMT+9") {
		t.Errorf("at home %q, there %q", home, there)
	}
	listed := command(t, s.URL, token, "results").out
	if !strings.Contains(listed, "JST") || strings.Contains(listed, "CEST") {
		t.Errorf("the command line says\n%s", listed)
	}
	if rows := command(t, s.URL, token, "show", "R-000001").out; !strings.Contains(rows, "CEST") {
		t.Errorf("the rows moved:\n%s", rows)
	}
	if said := command(t, s.URL, token, "zone", "--none").out; said != "Europe/Berlin, the organisation's\n" {
		t.Errorf("said %q", said)
	}
	b.open(s.URL + "/")
	b.until(`location.pathname === '/results'`) // where the console opens now
	b.until(`document.documentElement.dataset.mantineColorScheme === 'dark'`)
	b.open(s.URL + "/results/R-000001")
	b.until(`document.querySelector('[data-kind=row]')?.getBoundingClientRect().height === 23`)
	b.open(s.URL + "/reports/intake-lots")
	if ways := command(t, s.URL, token, "ways").out; !strings.Contains(ways, "week     sunday") {
		t.Errorf("the command line says\n%s", ways)
	}
	if back := kept(b); back != home {
		t.Errorf("home again %q", back)
	}

	// Figures and days in the form of the person: what they read, type and copy, here and there.
	command(t, s.URL, token, "ways", "--numbers", "dot", "--days", "dots")
	lots := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3"})
	b.open(s.URL + "/results/" + lots + "?lots.filter=received%3E%3D2026-09-01")
	b.shows("Of which received at least 01.09.2026")
	b.click("[data-filter=net_kg]")
	b.fill("[name=from]", "1.000,5")
	b.keys(kb.Enter)
	b.shows("net weight at least 1.000,5")
	b.until(`location.search.includes('1000.5')`)
	b.open(s.URL + "/results/" + lots + "?lots.filter=received%3E%3D2026-09-01")
	b.until(`document.querySelector('[data-kind=row] > :nth-child(8)')`)
	cell := b.value(`document.querySelector('[data-kind=row] > :nth-child(8)').innerText`)
	b.value(`(document.querySelector('[data-sheet]').focus(), '')`)
	b.keys(kb.Home)
	b.until(`document.querySelector('[data-hand]')`)
	for range 8 {
		b.keys(kb.ArrowRight)
	}
	b.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(chromedp.ModifierShift)))
	b.shows("2 cells")
	if copied := b.copied(); !strings.Contains(cell, ",") || !strings.Contains(copied, strings.ReplaceAll(cell, ".", "")) {
		t.Errorf("%q is copied of %q", copied, cell)
	}
	b.shot("form")
	if rows := command(t, s.URL, token, "show", lots, "--filter", "received>=2026-09-01", "--limit",
		"1").out; !strings.Contains(
		rows, cell) {
		t.Errorf("the command line does not have %s in\n%s", cell, rows)
	}
}
