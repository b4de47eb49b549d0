package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"mantilla/demo/demotest"
)

// tabTo goes on with the Tab key until the element in focus meets a test, as e.
func (b *browser) tabTo(test string) {
	b.t.Helper()
	for range 80 {
		if b.value(`String(Boolean(((e) => `+test+`)(document.activeElement)))`) == "true" {
			return
		}
		b.keys(kb.Tab)
	}
	b.t.Fatalf("the Tab key never came to %s", test)
}

func named(text string) string { return `e.textContent.trim() === '` + text + `'` }

// writes begins a draft from nothing as a person would, and pastes a text into it.
func (b *browser) writes(s *demotest.Service, text string) {
	b.t.Helper()
	b.open(s.URL + "/office")
	b.press("New report")
	b.focused(`e.tagName === 'INPUT' && e.closest('[role=dialog]')`)
	b.keys("Written")
	b.value(`(document.querySelector('[role=dialog] input[value=nothing]')?.click(), '')`)
	b.until(`!document.querySelector('[role=dialog]').innerText.includes('Columns')`)
	b.press("Begin")
	b.until(`document.querySelector('.cm-content')`)
	b.value(`(document.querySelector('.cm-content').focus(), '')`)
	b.withCtrl("a")
	b.paste(text)
}

// paste puts a text in the place of what is chosen in the editor.
func (b *browser) paste(text string) {
	b.t.Helper()
	b.value(fmt.Sprintf(`((e, clipboardData) => (clipboardData.setData('text/plain', %q), e.dispatchEvent(`+
		`new ClipboardEvent('paste', {clipboardData, bubbles: true, cancelable: true})), ''))(`+
		`document.querySelector('.cm-content'), new DataTransfer())`, text))
}

// option goes down to an entry of the list that is open and chooses it.
func (b *browser) option(text string) {
	b.t.Helper()
	b.until(`[...document.querySelectorAll('[role=option]')].some(e => e.offsetParent && e.textContent === '` + text +
		`')`)
	for range 20 {
		at := b.value(`document.querySelector('[role=option][data-combobox-selected]')?.textContent ?? ''`)
		if at == text {
			b.keys("\r")
			return
		}
		b.keys(kb.ArrowDown)
	}
	b.t.Fatalf("the arrow never came to %s", text)
}

// shot takes a throwaway picture where a folder for them is named.
func (b *browser) shot(name string) {
	if dir := os.Getenv("MANTILLA_SHOTS"); dir != "" {
		b.picture(dir + "/" + name + ".png")
	}
}

// TestAReportIsWrittenByTheKeyboard goes from nothing to a result in the catalog: an author
// begins from a table and changes the text, a tester tries it, a librarian gives it back and
// then takes it in for a group.
func TestAReportIsWrittenByTheKeyboard(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "aron")
	b.open(s.URL + "/office")
	b.until(`[...document.querySelectorAll('button')].some(e => ` + named("New report") + `)`)
	b.tabTo(named("New report"))
	b.keys("\r")
	b.until(`document.querySelector('[role=dialog]')`)
	b.focused(`e.tagName === 'INPUT'`)
	b.keys("Keepers gone silent")
	b.tabTo(`e.closest('.mantine-Select-root')?.textContent.startsWith('Category')`)
	b.keys("Keepers")
	b.option("Keepers")
	b.tabTo(`e.closest('.mantine-Select-root')?.textContent.startsWith('Table')`)
	b.keys("keeper")
	b.option("keeper")
	b.tabTo(`e.closest('.mantine-MultiSelect-root')`)
	for _, column := range []string{"no", "name", "site_id", "joined_on", "state"} {
		b.keys(column)
		b.option(column)
	}
	b.keys(kb.Escape)
	b.shot("new-report")
	b.tabTo(named("Begin"))
	b.keys("\r")
	b.until(`location.pathname === '/office/drafts/D-1'`)
	b.until(`document.querySelector('.cm-content')`)
	b.shows("The text is right")
	b.shot("draft")

	// Faults are told as one types, at their place; undo takes them back.
	b.tabTo(`e.matches('.cm-content')`)
	b.withCtrl(kb.End)
	b.keys("\rtitel: x")
	b.shows("did you mean title?")
	b.until(`document.querySelector('.cm-lintRange-error')`)
	b.shot("fault")
	for range 12 {
		if strings.Contains(b.value(`document.body.innerText`), "The text is right") {
			break
		}
		b.withCtrl("z")
	}
	b.shows("The text is right")

	b.withCtrl("\r")
	b.until(`document.querySelector('[data-found]')?.innerText.includes('its source understands it')`)
	b.shot("checked")
	b.press("Form and first rows")
	b.press("Show the first rows")
	b.until(`document.querySelector('[data-preview]')?.innerText.includes('Nothing of')`)
	b.until(`!document.querySelector('[data-preview][data-old]')`)
	b.shot("rows")
	b.press("Source")
	b.until(`document.querySelector('details summary b')`)
	b.shot("source")

	b.press("Try and share")
	b.shows("They are told on their desk")
	b.focused(`e.tagName === 'INPUT' && e.closest('[role=dialog]')`)
	b.keys("runa\r")
	b.shot("share")
	b.tabTo(named("Keep"))
	b.keys("\r")
	b.until(`!document.querySelector('[role=dialog]')`)

	tried(t, s)

	b.press("Hand in")
	b.focused(`e.tagName === 'TEXTAREA'`)
	b.keys("for the spring letters")
	b.tabTo(named("Hand in"))
	b.keys("\r")
	b.shows("handed in")

	takenIn(t, s)
}

// withCtrl presses a key with Ctrl as the browser itself would.
func (b *browser) withCtrl(key string) {
	b.t.Helper()
	b.do(chromedp.KeyEvent(key, chromedp.KeyModifiers(chromedp.ModifierCtrl)))
}

// tried runs the draft as a tester, who finds it on their desk.
func tried(t *testing.T, s *demotest.Service) {
	t.Helper()
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/")
	b.press("Aron Quillby asks you to try the draft “Keepers gone silent”.")
	b.until(`location.pathname === '/reports/draft-1'`)
	b.shows("Draft: Keepers gone silent")
	b.value(`(document.querySelector('[data-run]').focus(), '')`)
	b.keys("\r")
	b.until(`location.pathname.startsWith('/results/R-')`)
	b.shows("Draft: Keepers gone silent")
	b.shot("tried")
	catalog, _ := s.As(t, "runa")
	if got := command(t, s.URL, catalog, "catalog", "keepers gone silent"); strings.Contains(got.out, "draft-1") {
		t.Errorf("the catalog lists the draft:\n%s", got.out)
	}
}

// takenIn gives the draft back, which the author sees, and takes it in once it is handed in again.
func takenIn(t *testing.T, s *demotest.Service) {
	t.Helper()
	aron, _ := s.As(t, "aron")
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/")
	b.until(`document.body.innerText.includes('hands in the draft')`)
	b.shot("desk")
	b.press("Aron Quillby hands in the draft “Keepers gone silent”. They say: for the spring letters")
	b.press("Give back")
	b.focused(`e.tagName === 'TEXTAREA'`)
	b.keys("say what silent means")
	b.tabTo(named("Give back"))
	b.keys("\r")
	b.shows("given back")
	if got := command(t, s.URL, aron, "notices"); !strings.Contains(got.out,
		"gives the draft “Keepers gone silent” back. "+
			"They say: say what silent means") {
		t.Errorf("aron is told %+v", got)
	}
	if got := command(t, s.URL, aron, "draft", "hand-in", "D-1"); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	b.open(s.URL + "/office/drafts/D-1")
	b.press("Take into the catalog")
	b.focused(`e.tagName === 'TEXTAREA'`)
	b.keys("asked for by the field offices")
	b.tabTo(`e.closest('.mantine-MultiSelect-root')`)
	b.keys("Field")
	b.option("Field offices")
	b.keys(kb.Escape)
	b.shot("take")
	b.tabTo(named("Take in"))
	b.keys("\r")
	b.until(`location.pathname === '/reports/keepers-gone-silent'`)
	dora, _ := s.As(t, "dora")
	if got := command(t, s.URL, dora, "catalog", "silent"); !strings.Contains(got.out, "keepers-gone-silent") {
		t.Errorf("dora of the field offices finds %+v", got)
	}
	rhea, _ := s.As(t, "rhea")
	if got := command(t, s.URL, rhea, "catalog", "silent"); strings.Contains(got.out, "keepers-gone-silent") {
		t.Errorf("rhea, who is of accounts, finds %+v", got)
	}
	if got := command(t, s.URL, aron, "definition", "versions", "keepers-gone-silent"); !strings.Contains(got.out,
		"asked for by the field offices") || !strings.Contains(got.out, "lila") {
		t.Errorf("versions %+v", got)
	}
	b.open(s.URL + "/office?desk=reports")
	b.fill("input[aria-label='Find a report']", "silent")
	b.click("[aria-label='Versions of keepers-gone-silent']")
	b.shows("Version 1")
	b.shot("versions")
}

// TestWhatIsRetiredIsToldFirst retires a report at once after a search: who depends on it is named, and
// its page says what takes its place.
func TestWhatIsRetiredIsToldFirst(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	runa, _ := s.As(t, "runa")
	if got := command(t, s.URL, runa, "criteria", "save", "near-best-before", "mine"); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/office?desk=reports")
	b.fill("input[aria-label='Find a report']", "best-before")
	b.click("[aria-label='Retire near-best-before']")
	b.until(`document.querySelector('[role=dialog]')?.innerText.includes('criteria mine of runa')`)
	b.shot("retire")
	b.tabTo(`e.closest('.mantine-Select-root')`)
	b.keys("Stock in the")
	b.option("Stock in the bays")
	b.tabTo(named("Retire it"))
	b.keys("\r")
	b.until(`!document.querySelector('[role=dialog]')`)
	b.open(s.URL + "/reports/near-best-before")
	b.shows("It is retired and runs no more")
	b.shows("In its place: stock-lines")
	b.shot("retired")
	b.press("Bring it back")
	b.until(`!document.body.innerText.includes('It is retired')`)
	if got := command(t, s.URL, runa, "notices"); !strings.Contains(got.out, "stock-lines takes its place") {
		t.Errorf("runa is told %+v", got)
	}
}
