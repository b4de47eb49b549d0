package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// state is a place as somebody meets it: an address, what is pressed there, and
// what tells that it is drawn.
type state struct {
	address, drawn string
	press          []string // selectors, one after the other
}

// states are every place of the console and what opens over it.
func states(t *testing.T, s *demotest.Service) []state {
	result := func(report string, values api.Values) string { return "/results/" + s.Result(t, report, values) }
	lots := result("intake-lots", api.Values{"received": "2026-Q3"})
	sheet := `document.querySelector('[data-sheet] [aria-rowindex]')`
	forecast := result("project-forecast", nil) + "?view=forecast"
	reconciled := "/results/" + reconciledOf(t, s, s.Result(t, "payout-settlement", api.Values{"settles": "2025-10"}))
	draft := "/office/drafts/" + s.Draft(t, "lot-history")
	return []state{
		{"/", `document.querySelector('h1')`, nil},
		{"/catalog", `document.querySelectorAll('main li a').length > 40`, nil},
		{"/reports/intake-lots", `document.querySelector('[data-form] input')`, nil},
		{"/reports/orders-by-grouping", `document.querySelector('h1')`, nil},
		{"/reports/agent-commission", `document.querySelector('h1')`, nil},
		{"/reports/keeper-file", `document.querySelector('h1')`, nil},
		{"/controls", `document.querySelector('h1')`, nil},
		{"/controls/month-of-the-districts", `document.querySelector('h1')`, nil},
		{"/timetable", `document.querySelector('h1')`, nil},
		{"/runs", `document.querySelector('table')`, nil},
		{"/runs/RUN-999999", `document.querySelector('h1')`, nil},
		{"/results", `document.querySelector('table')`, nil},
		{"/sending", `document.querySelector('h1')`, nil},
		{"/trash", `document.querySelector('h1')`, nil},
		{"/office", `document.querySelector('h1')`, nil},
		{"/reports/nowhere", `document.querySelector('h1')`, nil},
		{lots, sheet, nil},
		{lots + "?lots.group=district&lots.group=month(received)&lots.open=2", sheet, nil},
		{lots, sheet, []string{"text:Take away"}},
		{lots, sheet, []string{"text:More"}},
		{lots, sheet, []string{"text:Send"}},
		{lots, sheet, []string{"[data-filter]"}},
		{result("seasonal-pay", nil), `document.querySelector('[data-chart] path')`, nil},
		{result("site-return", nil), `document.querySelector('dl')`, nil},
		{result("project-timeline", nil), `document.querySelector('[data-sheet]')`, nil},
		{"/catalog", `document.querySelector('main li a')`, []string{"[aria-label='Help and keys']"}},
		{"/catalog", `document.querySelector('main li a')`, []string{"[aria-label='Go to, or do']"}},
		{"/catalog", `document.querySelector('main li a')`, []string{"[data-person]"}},
		{"/catalog", `document.querySelector('main li a')`, []string{"[data-person]", "text:Preferences"}},
		{"/catalog", `document.querySelector('main li a')`, []string{"[data-person]", "text:Passkeys"}},
		{"/reports/intake-lots", `document.querySelector('[data-form] input')`, []string{"[aria-label='Pick Received']"}},
		{"/reports/intake-lots", `document.querySelector('[data-form] input')`,
			[]string{"[aria-label='Pick Region, district or site']"}},
		{"/reports/intake-lots?received=nonsense&unit=Nowhere", `document.querySelector('[data-fault]')`, nil},
		{"/reports/keepers-by-age", `document.querySelector('[data-form] input')`, []string{"[aria-label='Pick As of']"}},
		{lots, sheet, []string{"text:Group"}},
		{lots, sheet, []string{"text:Columns"}},
		{lots, sheet, []string{"text:Add column"}},
		{lots, sheet, []string{"text:Keep view"}},
		{lots, sheet, []string{"text:How it was made"}},
		{lots, sheet, []string{"text:More", "text:Completeness"}},
		{lots, sheet, []string{"text:More", "text:Row in hand"}},
		{lots, sheet, []string{"text:Change values"}},
		{lots + "?lots.group=district&lots.filter=grade%3DSelect", sheet, []string{"[role=treegrid] [role=cell] button"}},
		{"/", `document.querySelector('h1')`, []string{"text:Place a tile"}},
		{"/sending?tab=book", `document.querySelector('table')`, nil},
		{"/sending?tab=book", `document.querySelector('table')`, []string{"text:New entry"}},
		{"/sending?tab=mailbox", `document.querySelector('h1')`, nil},
		{"/office?desk=people", `document.querySelector('h1')`, nil},
		{"/office?desk=groups", `document.querySelector('h1')`, nil},
		{"/office?desk=backups", `document.querySelector('[aria-label="Back-ups"]')`, nil},
		{"/office?desk=space", `document.querySelector('[aria-label="Space"] tbody tr')`, nil},
		{"/office?desk=audit", `document.querySelector('[aria-label="Audit"] tbody tr')`, nil},
		{"/office?desk=open", `document.querySelector('h1')`, nil},
		{"/office?desk=sources", `document.querySelector('h1')`, nil},
		{"/office?desk=days", `document.querySelector('h1')`, nil},
		{"/office?desk=shared", `document.querySelector('h1')`, nil},
		{"/controls/new", `document.querySelector('h1')`, nil},
		{"/office", `document.querySelector('h1')`, []string{"text:New report"}},
		{"/office?desk=reports", `document.querySelector('td a')`, nil},
		{"/office?desk=reports", `document.querySelector('td a')`, []string{"[aria-label='Versions of lot-history']"}},
		{lots, sheet, []string{"text:More", "text:Meanings"}},
		{lots, sheet, []string{"text:Compare"}},
		{lots, sheet, []string{"text:Notes and sign-off"}},
		{reconciled, sheet, []string{"text:Choose what belongs together"}},
		{"/controls/training-month", `document.querySelector('[data-said]')`, []string{"[data-try]"}},
		{lots + "?lots.show=chart&lots.group=month(received)&lots.group=grade&lots.cell=net_kg",
			`document.querySelector('[data-chart] path')`, []string{"text:Figures"}},
		{"/controls/training-month", `document.querySelector('[data-history]')`, nil},
		{forecast, `document.querySelector('[data-entering]')`, []string{"[data-entry] button"}},
		{"/office?desk=glossary", `document.querySelector('tbody tr')`, nil},
		{"/office?desk=glossary", `document.querySelector('tbody tr')`, []string{"text:New term"}},
		{"/office?desk=shelf", `document.querySelector('tbody tr')`, nil},
		{"/office?desk=shelf", `document.querySelector('tbody tr')`, []string{"text:New document or link"}},
		{"/guide/results", `document.querySelector('article p')`, nil},
		{"/office?desk=retired", `document.querySelector('form')`, nil},
		{"/office?desk=reports", `document.querySelector('td a')`, []string{"[aria-label='Care of lot-history']"}},
		{"/office?desk=reports", `document.querySelector('td a')`, []string{"[aria-label='Rename lot-history']"}},
		{"/office?desk=people", `document.querySelector('tbody tr')`, []string{"[aria-label='Hand over what runa keeps']"}},
		{"/catalog?recent&search=diastase", `document.querySelector('h1')`, nil},
		{draft, `document.querySelector('.cm-content')`, []string{"text:Expected", "text:Try the expectations"}},
		{draft, `document.querySelector('.cm-content')`, []string{"text:Check"}},
		{draft, `document.querySelector('.cm-content')`, []string{"text:Form and first rows", "text:Show the first rows"}},
		{draft, `document.querySelector('.cm-content')`, []string{"text:Source", "summary"}},
		{draft, `document.querySelector('.cm-content')`, []string{"text:Try and share"}},
		{draft, `document.querySelector('.cm-content')`, []string{"text:Take into the catalog"}},
	}
}

// looks are the ways in which every place is looked at, each one step from the
// one before. By the rules everything is looked at once in each size, with the style sheets
// (preload) once; where only the colours are others, only these are. Where something opened over
// a place, the first look is at both, and the others are at what opened: the place behind has
// been looked at without it.
var looks = []struct {
	scheme        string
	width, height int64
	rules         string
}{
	{"light", 1280, 800, "{resultTypes: ['violations']}"},
	{"dark", 1280, 800, onlyColours},
	{"dark", 390, 844, "{resultTypes: ['violations'], preload: false}"},
	{"light", 390, 844, onlyColours},
}

const onlyColours = "{resultTypes: ['violations'], preload: false, runOnly: ['color-contrast', 'link-in-text-block']}"

// TestNothingStandsInTheWay looks at every place of the console with axe-core,
// which knows the success criteria of WCAG 2.2: light and dark, on a laptop and on
// a telephone. There may be no violation. Two browsers have half of the places each.
func TestNothingStandsInTheWay(t *testing.T) {
	t.Parallel()
	axe, err := os.ReadFile("../console/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	s := demotest.StartAfterAYear(t)
	all := states(t, s)
	for _, part := range [][]state{all[:len(all)/2], all[len(all)/2:]} {
		t.Run(fmt.Sprintf("%d places", len(part)), func(t *testing.T) {
			t.Parallel()
			b := openBrowser(t)
			b.signIn(s, "adda")
			found := map[string][]string{}
			for _, at := range part {
				for i, look := range looks {
					b.do(chromedp.EmulateViewport(look.width, look.height))
					if i == 0 {
						b.visit(s.URL, at)
						b.load(string(axe))
					}
					b.wear(look.scheme)
					of := "document"
					if i > 0 {
						of = opened
					}
					for _, v := range lasting(b, of, look.rules) {
						found[v.Id] = append(found[v.Id],
							fmt.Sprintf("%s %v %s at %d: %s", at.address, at.press, look.scheme, look.width, v.says()))
					}
				}
			}
			for id, places := range found {
				slices.Sort(places)
				t.Errorf("%s: %d times, such as\n\t%s", id, len(places), strings.Join(places[:min(len(places), 4)], "\n\t"))
			}
		})
	}
}

// wear changes the page in sight to light or dark, as another window of the same
// person would.
func (b *browser) wear(scheme string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(scheme => {
		const key = 'mantine-color-scheme-value'
		localStorage.setItem(key, scheme)
		dispatchEvent(new StorageEvent('storage', { key, newValue: scheme, storageArea: localStorage }))
		return true
	})(%q)`, scheme))
	b.until(fmt.Sprintf(`document.documentElement.dataset.mantineColorScheme === %q
		&& document.getAnimations().every(a => a.playState === 'finished')`, scheme))
}

// visit goes to a state and waits until what opened has come to rest.
func (b *browser) visit(service string, at state) {
	b.t.Helper()
	b.open(service + at.address)
	b.until(at.drawn)
	for _, css := range at.press {
		if text, ok := strings.CutPrefix(css, "text:"); ok {
			b.press(text)
			continue
		}
		b.until(fmt.Sprintf(`(e => { e?.click(); return e })(document.querySelector(%q))`, css))
	}
	b.until(`document.getAnimations().every(a => a.playState === 'finished')`)
}

type violation struct {
	Id, Help string
	Nodes    []struct{ Html, FailureSummary string }
}

func (v violation) says() string {
	out := v.Help
	for _, n := range v.Nodes[:min(len(v.Nodes), 2)] {
		out += "\n\t\t" + n.Html[:min(len(n.Html), 300)] + "\n\t\t  " + strings.ReplaceAll(n.FailureSummary, "\n", " ")
	}
	return fmt.Sprintf("%s (%d)", out, len(v.Nodes))
}

// opened is what stands over a place, or the place where nothing does.
const opened = `(over => over.length ? {include: over} : document)(
	[...document.querySelectorAll('[data-portal]')].filter(e => e.innerText.trim()))`

// lasting are the violations of a page that has come to rest: on a machine that is
// busy a dialog may be seen before it has its name.
func lasting(b *browser, of, rules string) (out []violation) {
	b.t.Helper()
	for range 5 {
		if out = violations(b, of, rules); len(out) == 0 {
			return nil
		}
		time.Sleep(400 * time.Millisecond)
	}
	return out
}

// load runs a script in the page in sight.
func (b *browser) load(script string) {
	b.t.Helper()
	b.do(chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		_, err := chromedp.Run(ctx, chromedp.Evaluate[bool](script+"; true"))
		return err
	}))
}

// violations runs axe on a part of the page in sight.
func violations(b *browser, of, rules string) (out []violation) {
	b.t.Helper()
	b.until("(() => { window.told = undefined; axe.run(" + of + ", " + rules +
		").then(r => { window.told = JSON.stringify(r.violations) }); return true })()")
	b.until("window.told !== undefined")
	if err := json.Unmarshal([]byte(b.value("window.told")), &out); err != nil {
		b.t.Fatal(err)
	}
	return out
}
