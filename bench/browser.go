package main

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io/fs"
	"os/exec"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/tracing"
	"github.com/chromedp/chromedp"

	"mantilla/console"
)

// inBrowser scrolls a million rows in Chromium and counts frames in the
// browser's own trace; and weighs the script of the first page.
func (b *bench) inBrowser(ctx context.Context) error {
	fmt.Println("\nThe console in Chromium")
	if err := weigh(); err != nil {
		return err
	}
	path, err := exec.LookPath("chromium")
	if err != nil {
		fmt.Println("  Chromium is not installed; scrolling is not measured.")
		return nil
	}
	address, _, end, err := b.serve(ctx)
	if err != nil {
		return err
	}
	defer end()
	ctx, cancel := chromedp.NewExecAllocator(ctx, chromedp.ExecPath(path), chromedp.Headless, chromedp.NoSandbox,
		chromedp.DisableGPU, chromedp.NoFirstRun,
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.WindowSize(1280, 800))
	defer cancel()
	ctx, cancelTab := chromedp.NewContext(ctx)
	defer cancelTab()
	if err := openResult(ctx, address, fmt.Sprintf("/results/R-%06d", b.result)); err != nil {
		return err
	}
	for _, speed := range []struct {
		name  string
		lines int
	}{{"scrolled by a fast wheel, 180 rows a second", 3}, {"pushed on, 480 rows a second", 8},
		{"dragged along, 1,300 rows a second", 22},
		{"dragged by its scroll bar, 250,000 rows a second", 4167}} {
		drawn, dropped, err := scrollTraced(ctx, speed.lines)
		if err != nil {
			return fmt.Errorf("scrolling: %w", err)
		}
		fmt.Printf("  %-46s %4d frames drawn, %d dropped: one in %.0f\n", speed.name, drawn, dropped,
			float64(drawn+dropped)/max(float64(dropped), 1))
	}
	return visits(ctx)
}

// places are gone to by the band at the top, by their names.
var places = []string{"Desk", "Catalog", "Run controls", "Timetable", "Runs", "Results", "Sending"}

// visit goes to a place and tells how many milliseconds pass until its heading and what stands below it are
// drawn; the second time what it needs is there.
const visit = `new Promise(done => {
	const link = [...document.querySelectorAll('nav[aria-label=Places] a')].find(a => a.innerText === %q)
	const before = document.querySelector('#place')?.firstElementChild
	const begun = performance.now()
	link.click()
	const look = () => {
		const there = document.querySelector('#place')?.firstElementChild
		if (!there || there === before || !there.querySelector('h1') || there.children.length < 2)
			return requestAnimationFrame(look)
		requestAnimationFrame(() => done(performance.now() - begun))
	}
	look()
})`

// visits goes to every place twice and prints how long the second visits take.
func visits(ctx context.Context) error {
	most, slowest, within := 0.0, "", 0
	for _, second := range []bool{false, true} {
		for _, name := range places {
			took, err := chromedp.Run(ctx, chromedp.Evaluate[float64](fmt.Sprintf(visit, name), chromedp.EvalAwaitPromise))
			if err == nil {
				err = chromedp.Do(ctx, chromedp.Sleep(300*time.Millisecond))
			}
			if err != nil {
				return fmt.Errorf("visiting %s: %w", name, err)
			}
			if !second {
				continue
			}
			if took <= 100 {
				within++
			}
			if took > most {
				most, slowest = took, name
			}
		}
	}
	fmt.Printf("  %-46s %4d of %d drawn within 100 ms; the slowest, %s, in %.0f ms\n", "places visited again", within,
		len(places), slowest, most)
	return nil
}

// weigh prints the compressed script that the first page loads.
func weigh() error {
	files := console.Files()
	page, err := fs.ReadFile(files, "index.html")
	if err != nil {
		return err
	}
	first, later := 0, 0
	scripts, err := fs.Glob(files, "assets/*.js")
	if err != nil {
		return err
	}
	for _, name := range scripts {
		text, err := fs.ReadFile(files, name)
		if err != nil {
			return err
		}
		var packed bytes.Buffer
		w := gzip.NewWriter(&packed)
		if _, err := w.Write(text); err != nil {
			return err
		}
		if err := w.Close(); err != nil {
			return err
		}
		if bytes.Contains(page, []byte(name)) {
			first += packed.Len()
		} else {
			later += packed.Len()
		}
	}
	fmt.Printf("  %-46s %9.1f kB, %.1f kB more when needed\n", "compressed script of the first page", float64(first)/1000,
		float64(later)/1000)
	return nil
}

// scroll moves through the rows for four seconds, so many of them each frame.
const scroll = `new Promise(done => {
	const box = document.querySelector('[data-sheet=rows]')
	const begun = performance.now()
	const perLine = box.scrollHeight / 1000000
	const step = now => {
		box.scrollTop += Math.max(%d * perLine, 1)
		if (now - begun < 4000) requestAnimationFrame(step)
		else done(true)
	}
	requestAnimationFrame(step)
})`

// openResult signs in and opens a result.
func openResult(ctx context.Context, address, place string) error {
	const signIn = `fetch('/api/session', {method: 'POST', headers: {'Content-Type': 'application/json'},
			body: JSON.stringify({name: 'bench', password: 'correct-horse-battery'})}).then(r => r.ok)`
	if err := chromedp.Do(ctx, chromedp.Navigate(address+"/")); err != nil {
		return err
	}
	if ok, err := chromedp.Run(ctx, chromedp.Evaluate[bool](signIn, chromedp.EvalAwaitPromise)); err != nil || !ok {
		return fmt.Errorf("signing in: %t, %w", ok, err)
	}
	return chromedp.Do(ctx, chromedp.Navigate(address+place),
		chromedp.WaitVisible(chromedp.CSS("[data-sheet=rows] [role=cell]")), chromedp.Sleep(time.Second))
}

// scrollTraced scrolls under a trace and counts the frames in it.
func scrollTraced(ctx context.Context, lines int) (drawn, dropped int, err error) {
	ctx, cancel := context.WithCancel(ctx) // ends the listening
	defer cancel()
	var mu sync.Mutex
	complete := make(chan struct{})
	err = chromedp.Listen(ctx, func(ev any) {
		switch ev := ev.(type) {
		case *tracing.EventDataCollected:
			mu.Lock()
			defer mu.Unlock()
			for _, v := range ev.Value {
				switch text := string(v); {
				case strings.Contains(text, `"name":"DrawFrame"`):
					drawn++
				case strings.Contains(text, `"name":"DroppedFrame"`):
					dropped++
				}
			}
		case *tracing.EventTracingComplete:
			close(complete)
		}
	})
	if err != nil {
		return 0, 0, err
	}
	config := tracing.TraceConfig{IncludedCategories: []string{"devtools.timeline",
		"disabled-by-default-devtools.timeline", "disabled-by-default-devtools.timeline.frame", "devtools.timeline.frame"}}
	if _, err := chromedp.Call(ctx, tracing.Start, tracing.StartParams{TraceConfig: &config}); err != nil {
		return 0, 0, err
	}
	if _, err := chromedp.Run(ctx,
		chromedp.Evaluate[bool](fmt.Sprintf(scroll, lines), chromedp.EvalAwaitPromise)); err != nil {
		return 0, 0, err
	}
	if _, err := chromedp.Call(ctx, tracing.End, cdp.Empty{}); err != nil {
		return 0, 0, err
	}
	<-complete
	mu.Lock()
	defer mu.Unlock()
	return drawn, dropped, nil
}
