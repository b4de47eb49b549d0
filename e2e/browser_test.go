package e2e

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"mantilla/demo"
	"mantilla/demo/demotest"
)

// browser is one tab of a headless Chromium.
type browser struct {
	t   *testing.T
	ctx context.Context
}

// chromium is the machine's browser, started once: each test has a window and cookies of its own in it.
var chromium = sync.OnceValues(func() (context.Context, error) {
	path := ""
	for _, name := range []string{"chromium-headless-shell", "chromium", "chromium-browser"} {
		if found, err := exec.LookPath(name); err == nil {
			path = found
			break
		}
	}
	if path == "" {
		return nil, errors.New("Chromium is needed; make test installs it")
	}
	ctx, cancel := chromedp.NewExecAllocator(context.Background(), chromedp.ExecPath(path), chromedp.Headless,
		chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.NoFirstRun, chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.Flag("force-prefers-reduced-motion", true),
		chromedp.Flag("disable-renderer-backgrounding", true), chromedp.Flag("disable-backgrounding-occluded-windows", true),
		chromedp.Flag("disable-background-timer-throttling", true),
		chromedp.Flag("lang", "en-GB"), chromedp.Flag("hide-scrollbars", true), chromedp.WindowSize(1280, 800))
	closeChromium = cancel
	ctx, _ = chromedp.NewContext(ctx)
	return ctx, chromedp.Do(ctx, chromedp.Navigate("about:blank"))
})

// closeChromium ends the browser, where one was started.
var closeChromium = func() {}

// openBrowser opens a window of Chromium, at laptop size.
func openBrowser(t *testing.T) *browser { t.Helper(); return openBrowserIn(t, "Europe/Berlin") }

// openBrowserIn opens one as on a machine that stands in another zone.
func openBrowserIn(t *testing.T, zone string) *browser {
	t.Helper()
	whole, err := chromium()
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := chromedp.NewContext(whole, chromedp.WithNewBrowserContext(), chromedp.WithNewWindow(true))
	t.Cleanup(cancel)
	stand := chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		_, err := cdp.Call(ctx, tab, emulation.SetTimezoneOverride, emulation.SetTimezoneOverrideParams{TimezoneID: zone})
		if err == nil { // as if its window were the one in front, whatever other tests do
			_, err = cdp.Call(ctx, tab, emulation.SetFocusEmulationEnabled,
				emulation.SetFocusEmulationEnabledParams{Enabled: true})
		}
		return err
	})
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800), stand); err != nil {
		t.Fatal(err)
	}
	return &browser{t, ctx}
}

// another opens a second window of the same browser, whoever is signed in there.
func (b *browser) another() *browser {
	b.t.Helper()
	ctx, cancel := chromedp.NewContext(b.ctx)
	b.t.Cleanup(cancel)
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)); err != nil {
		b.t.Fatal(err)
	}
	return &browser{b.t, ctx}
}

// do carries out steps within a time that only a fault can need.
func (b *browser) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 20*time.Second)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		here, _ := chromedp.Run(b.ctx,
			chromedp.Evaluate[string](`location.pathname + location.search + "\n" + document.body.innerText.slice(0, 800)`))
		b.t.Fatalf("%v\nat %s", err, here)
	}
}

// signIn opens the console as one of the demo's people.
func (b *browser) signIn(s *demotest.Service, name string) {
	b.t.Helper()
	b.open(s.URL + "/catalog")
	b.fill("[name=name]", name)
	b.fill("[name=password]", demo.Password)
	b.keys("\r")
	b.until(`document.querySelector('[data-person=` + name + `]')`)
}

func (b *browser) open(url string) { b.t.Helper(); b.do(chromedp.Navigate(url)) }

func (b *browser) click(css string) {
	b.t.Helper()
	b.do(chromedp.WaitVisible(chromedp.CSS(css)), chromedp.Click(chromedp.CSS(css)))
}

func (b *browser) keys(keys string) { b.t.Helper(); b.do(chromedp.KeyEvent(keys)) }

// fill replaces the text of a field, as a person would.
func (b *browser) fill(css, text string) {
	b.t.Helper()
	b.click(css)
	b.do(chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		_, err := chromedp.Run(ctx, chromedp.Evaluate[bool](fmt.Sprintf(`(document.querySelector(%q).select(), true)`, css)))
		return err
	}))
	b.keys(text)
}

// press clicks the button or link with that text.
func (b *browser) press(text string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
		const found = [...document.querySelectorAll('button, a, [role=tab], label')].find(e => e.textContent.trim() === %q &&
			`+
		`e.offsetParent)
		found?.click()
		return Boolean(found)
	})()`, text))
}

// until waits until an expression is true, or is something that counts as true.
func (b *browser) until(expression string) {
	b.t.Helper()
	// What takes long is asked for less often: to ask, the page is laid out, which others wait for.
	pause := 20 * time.Millisecond
	for begun := time.Now(); ; time.Sleep(pause) {
		pause = min(pause*5/4, 150*time.Millisecond)
		ok, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool]("Boolean("+expression+")"))
		if err == nil && ok {
			return
		}
		if time.Since(begun) > 15*time.Second {
			here, _ := chromedp.Run(b.ctx,
				chromedp.Evaluate[string](`location.pathname + location.search + "\n" + document.body.innerText.slice(0, 1500)`))
			b.t.Fatalf("never: %s (%v)\nat %s", expression, err, here)
		}
	}
}

// shows waits until the page has a text.
func (b *browser) shows(text string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`document.body.innerText.replaceAll('\u00a0', ' ').includes(%q)`, text))
}

func (b *browser) value(expression string) string {
	b.t.Helper()
	v, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](expression))
	if err != nil {
		b.t.Fatalf("%s: %v", expression, err)
	}
	return v
}

// cells returns a column of the rows in sight of a sheet, by the place of the
// column.
func (b *browser) cells(view string, column int) []string {
	b.t.Helper()
	return strings.Split(
		b.value(fmt.Sprintf(
			`[...document.querySelectorAll('[data-sheet=%s] [aria-rowindex]')].map(r => r.children[%d].innerText).join('\n')`,
			view, column)), "\n")
}

// picture writes what is in sight as a PNG.
func (b *browser) picture(path string) {
	b.t.Helper()
	time.Sleep(600 * time.Millisecond) // fonts and transitions come to rest
	png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot())
	if err == nil {
		err = os.WriteFile(path, png, 0o644)
	}
	if err != nil {
		b.t.Fatal(err)
	}
}
