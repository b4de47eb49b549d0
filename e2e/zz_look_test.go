package e2e

import (
	"os"
	"strings"
	"testing"
	"time"

	"mantilla/demo/demotest"
)

func TestLook(t *testing.T) {
	list := os.Getenv("LOOK")
	if list == "" {
		t.Skip()
	}
	b := openBrowser(t)
	b.signIn(&demotest.Service{URL: "http://127.0.0.1:8480"}, "adda")
	for _, item := range strings.Split(list, "\n") {
		parts := strings.Split(strings.TrimSpace(item), " ")
		if len(parts) < 2 {
			continue
		}
		b.open("http://127.0.0.1:8480" + parts[1])
		b.until(`!document.body.innerText.includes('Reading the rows') && document.querySelector('[data-sentence],table,h1')`)
		for _, click := range parts[2:] {
			time.Sleep(400 * time.Millisecond)
			if strings.HasPrefix(click, "key:") {
				b.keys(strings.TrimPrefix(click, "key:"))
			} else {
				b.click(click)
			}
		}
		time.Sleep(700 * time.Millisecond)
		b.picture("/tmp/w/look/" + parts[0] + ".png")
	}
}
