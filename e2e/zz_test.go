package e2e

import (
	"testing"

	"mantilla/demo/demotest"
)

func TestZZ(t *testing.T) {
	s := &demotest.Service{URL: "http://127.0.0.1:8481"}
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.open(s.URL + "/office?desk=audit")
	b.until(`document.querySelector('[aria-label="Audit"] tbody tr')`)
	b.press("Check that it is whole")
	b.until(`document.querySelector('[data-audit]')`)
	b.shot("audit")
	b.open(s.URL + "/office?desk=sources")
	b.until(`document.querySelector('h1')`)
	b.shot("sources")
	b.open(s.URL + "/results/R-000001")
	b.press("How it was made")
	b.until(`document.querySelector('[aria-label="Seen by"] dt')`)
	b.shot("seen")
}
