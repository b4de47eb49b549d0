package e2e

import (
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestAReaderFollowsAndOpensTiles has a reader be told of what a run control gives, put that away, and
// look into a tile where it stands; the tile takes the room that it is given.
func TestAReaderFollowsAndOpensTiles(t *testing.T) {
	t.Parallel()
	s := demotest.StartAfterAYear(t)
	lila, _ := s.As(t, "lila")
	rhea, _ := s.As(t, "rhea")
	b := openBrowser(t)
	b.signIn(s, "rhea")
	b.open(s.URL + "/controls/training-month")
	b.press("Tell me of its results")
	b.until(`document.querySelector('button[aria-pressed=true]')?.innerText === 'You are told of its results'`)
	b.until(`!document.querySelector('[data-run]')`) // a reader runs nothing
	for _, as := range []string{"2026-09-01", "2026-10-01"} {
		if got := command(t, s.URL, lila, "control", "run", "training-month", "as_of="+as); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	if got := command(t, s.URL, rhea, "desk", "put", "training-month", "stages", "--show", "table", "--size",
		"3x2"); got.code != 0 {
		t.Fatalf("%+v", got)
	}
	b.open(s.URL + "/")
	b.shows("“Training, month by month” has run")
	b.until(`document.querySelectorAll('[data-need=notice]').length === 2`)
	b.until(`document.querySelector('[data-tile][data-across="3"][data-down="2"] tbody tr')`)
	few := b.value(`String(document.querySelectorAll('[data-tile] th').length)`)
	b.shot("desk")
	b.click(`[data-tile] [aria-label^="Open "]`)
	b.shows("Open the result")
	if all := b.value(`String(document.querySelectorAll('[data-tile] th').length)`); all < few {
		t.Errorf("opened it has %s columns, closed %s", all, few)
	}
	b.shot("desk-open")
	b.press("Put away")
	b.until(`document.querySelectorAll('[data-need=notice]').length === 1`)
	b.press("Undo")
	b.until(`document.querySelectorAll('[data-need=notice]').length === 2`)
	b.press("Put away")
	b.until(`document.querySelectorAll('[data-need=notice]').length === 1`)
	if left := command(t, s.URL, rhea, "needs").out; strings.Count(left, "has run") != 1 {
		t.Errorf("the command line has\n%s", left)
	}
}
