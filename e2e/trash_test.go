package e2e

import (
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestWhatIsDeletedComesBack deletes things at the command line and in the console, and
// brings them back, at once and later.
func TestWhatIsDeletedComesBack(t *testing.T) {
	t.Parallel()
	s := demotest.StartAfterAYear(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	steps(t, s, []step{
		{"runa", "criteria save intake-lots Mine received=2026-09", 0, "Mine"},
		{"runa", "views keep " + result + " Graded --group grade", 0, "V-1"},
		{"runa", "criteria delete intake-lots Mine", 0, ""},
		{"runa", "views delete intake-lots V-1", 0, "mantilla return V-1"},
		{"runa", "trash", 0, "Mine|criteria|V-1|Graded|view"},
		{"rhea", "return V-1", 3, "V-1"},
		{"runa", "return V-1 C-99", 3, "C-99"},
		{"runa", "views intake-lots", 0, "Graded"},
		{"runa", "desk put training-month stages --show table --title Stages", 0, "The desk is kept."},
	})
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/")
	b.until(`document.querySelector('[aria-label="Take the tile away"]')`)
	b.click(`[aria-label="Take the tile away"]`)
	b.until(`document.querySelector('[data-undo]')?.innerText.includes('Stages')`)
	b.until(`!document.querySelector('[data-tile]')`)
	b.shot("undo")
	b.press("Undo")
	b.until(`document.querySelector('[data-tile]') && !document.querySelector('[data-undo]')`)
	b.click("[data-person]")
	b.press("Trash")
	b.until(`location.pathname === '/trash' && document.querySelector('tbody tr')?.innerText.includes('Mine')`)
	b.shot("trash-page")
	b.click(`[aria-label="Bring Mine back"]`)
	b.shows("The trash is empty")
	steps(t, s, []step{{"runa", "criteria list intake-lots", 0, "Mine"}})
}

// TestWhatIsOverwrittenComesBack changes a run control and a tile in one window while another shows
// them; the other follows, and what is undone comes back in both.
func TestWhatIsOverwrittenComesBack(t *testing.T) {
	t.Parallel()
	s := demotest.StartAfterAYear(t)
	steps(t, s, []step{{"lila", "desk put training-month stages --show table --title Stages", 0, "The desk is kept."}})
	b := openBrowser(t)
	b.signIn(s, "lila")
	other := b.another()
	heading := func(is string) string { return `document.querySelector('h1')?.innerText === '` + is + `'` }

	b.open(s.URL + "/controls/training-month")
	other.open(s.URL + "/controls/training-month")
	other.until(heading("Training, month by month"))
	b.press("Change")
	b.fill("[name=title]", "Training by month")
	b.press("Keep the changes")
	b.until(heading("Training by month"))
	other.until(heading("Training by month"))
	b.press("Undo")
	b.until(heading("Training, month by month"))
	other.until(heading("Training, month by month"))

	title := func(is string) string { return `document.querySelector('[data-tile] h2')?.innerText === '` + is + `'` }
	b.open(s.URL + "/")
	other.open(s.URL + "/")
	other.until(title("Stages"))
	b.click(`[aria-label="Change the tile"]`)
	b.fill("[name=tile-title]", "Steps")
	b.press("Keep")
	other.until(title("Steps"))
	b.press("Undo")
	b.until(title("Stages"))
	other.until(title("Stages"))
}

// TestTheOfficeTakesBack deletes and changes what the office keeps, and takes each back in the message itself.
func TestTheOfficeTakesBack(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	steps(t, s, []step{
		{"adda", "groups put closers --title Enders --members runa,dora", 0, "closers is kept."},
		{"lila", "draft begin lot-history", 0, "D-1"},
	})
	b := openBrowser(t)
	b.signIn(s, "adda")
	line := func(has string) string {
		return `[...document.querySelectorAll('tbody tr')].some(r => r.innerText.includes('` + has + `'))`
	}
	undone := func(says, gone, back string) {
		t.Helper()
		b.until(`document.querySelector('[data-undo]')?.innerText.includes('` + says + `')`)
		b.until(gone)
		b.press("Undo")
		b.until(back + ` && !document.querySelector('[data-undo]')`)
	}
	remove := func(label string) {
		t.Helper()
		b.until(`document.querySelector('[aria-label="` + label + `"]')`)
		b.click(`[aria-label="` + label + `"]`)
		b.press("Delete it")
	}

	b.open(s.URL + "/office?desk=groups")
	remove("Delete closers")
	undone("“closers” is deleted", "!"+line("closers"), line("Enders"))
	b.shot("office-undo")
	b.click(`tr:has([aria-label="Delete closers"]) button.act`)
	b.until(`document.querySelector('[role=dialog] form')`)
	b.until(`(document.querySelectorAll("[role=dialog] input")[0].select(), true)`)
	b.keys("Closers")
	b.press("Keep")
	undone("is changed", line("Closers"), "!"+line("Closers"))

	b.open(s.URL + "/office?desk=reports")
	remove("Delete lot-changes")
	undone("“lot-changes” is deleted", "!"+line("lot-changes"), line("lot-changes"))

	b.open(s.URL + "/office?desk=sources&source=coop")
	text := `document.querySelector('[aria-label="Declaration of a source"]')?.value`
	b.until(text + `?.includes('Records of the cooperative')`)
	b.click(`[aria-label="Declaration of a source"]`)
	b.until(`(document.activeElement.setSelectionRange(1e6, 1e6), true)`)
	b.keys("\n# ours")
	b.press("Keep")
	undone("is changed", text+`?.includes('# ours')`, "!"+text+`?.includes('# ours')`)

	b.open(s.URL + "/office/drafts/D-1")
	remove("Delete D-1")
	undone("“D-1” is deleted", `location.pathname === '/office'`, `true`)
	steps(t, s, []step{{"lila", "draft get D-1", 0, "report: "}, {"adda", "trash", 0, "none"}})
}
