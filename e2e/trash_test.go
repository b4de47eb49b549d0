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
