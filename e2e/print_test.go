package e2e

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestPrintingGivesTheSheet prints a result by the browser: all its columns and the lines that are here,
// with what was done, and without the band of the console; it tells where lines are left out.
func TestPrintingGivesTheSheet(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	b := openBrowser(t)
	b.signIn(s, "lila")
	b.open(s.URL + "/results/" + result + "?lots.filter=grade=Select")
	b.until(`document.querySelector('[data-sheet] [data-kind=row]')`)
	b.shows("Of which grade Select")
	file := filepath.Join(t.TempDir(), "print.pdf")
	b.do(chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		printed, err := cdp.Call(ctx, tab, page.PrintToPDF, page.PrintToPDFParams{})
		if err == nil {
			err = os.WriteFile(file, printed.Data, 0o600)
		}
		return err
	}))
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	got := string(text)
	for _, want := range []string{"Received 1–30 September 2026", "Of which grade Select", "State", "The first 200 of "} {
		if !strings.Contains(got, want) {
			t.Errorf("it does not say %q", want)
		}
	}
	if n := strings.Count(got, "L26-"); n != 200 {
		t.Errorf("%d lots are printed", n)
	}
	for _, screen := range []string{"Run controls", "Take away", "Find in result"} {
		if strings.Contains(got, screen) {
			t.Errorf("%s is printed", screen)
		}
	}
}
