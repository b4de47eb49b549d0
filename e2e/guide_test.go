package e2e

import (
	"testing"

	"mantilla/demo/demotest"
)

// TestTheGuideIsAtHand goes from a place to its page of the guide, finds another by what it says, and reads
// it with its picture.
func TestTheGuideIsAtHand(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/controls")
	b.until(`document.querySelector('[data-about-place]')?.innerText.startsWith('What you run again and again')`)
	b.press("How it is used")
	b.until(`location.pathname === '/guide/controls'`)
	b.shows("Try it, without sending")
	b.until(`document.querySelector('article img')?.naturalWidth > 1000`)
	b.shot("guide")
	b.fill("[data-search]", "spredsheet") // as it may be written
	b.press("Reading a result")
	b.until(`location.pathname === '/guide/results'`)
	b.shows("A figure opens")
	b.open(s.URL + "/")
	b.click("[aria-label='Help and keys']")
	b.until(`document.querySelector('[role=dialog] [data-about-place]')?.innerText.startsWith('What you look at')`)
}
