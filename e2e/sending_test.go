package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"

	"mantilla/demo/demotest"
)

// says runs commands of the client and holds what they print and how they end.
func says(t *testing.T, s *demotest.Service, token string, lines []struct {
	args     string
	code     int
	out, err string
}) {
	t.Helper()
	for _, c := range lines {
		var args []string
		for _, word := range strings.Split(c.args, " ") {
			args = append(args, strings.ReplaceAll(word, "_", " "))
		}
		got := command(t, s.URL, token, args...)
		if got.code != c.code {
			t.Errorf("mantilla %s: exit code %d, want %d\n%s%s", c.args, got.code, c.code, got.out, got.err)
		}
		for text, pieces := range map[string]string{got.out: c.out, got.err: c.err} {
			for _, piece := range strings.Split(pieces, "|") {
				if !strings.Contains(text, piece) {
					t.Errorf("mantilla %s: does not print %q but\n%s%s", c.args, piece, got.out, got.err)
				}
			}
		}
	}
}

const alert = `title: Near best-before
steps: [{report: near-best-before, view: stock}]
outputs: [kept, pdf]
send: {to: [management], when: count(*) > 10, subject: '{rows} rows near their end'}
timetable: {rule: 'FREQ=WEEKLY;BYDAY=MO', at: '07:00', calendar: holidays}
`

// TestSendingOnTheCommandLine keeps an address, a control with a timetable and
// an alert, sends, and mends what failed.
func TestSendingOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	dir := t.TempDir()
	path := filepath.Join(dir, "alert.yaml")
	if err := os.WriteFile(path, []byte(alert), 0o600); err != nil {
		t.Fatal(err)
	}
	wrong := filepath.Join(dir, "wrong.yaml")
	if err := os.WriteFile(wrong, []byte(strings.Replace(alert, "when:", "if:", 1)), 0o600); err != nil {
		t.Fatal(err)
	}
	type line = struct {
		args     string
		code     int
		out, err string
	}
	says(t, s, s.Token, []line{
		{"formats", 0, "xlsx|several views|parquet", ""},
		{"book", 0, "hollin|UF-HOL|districts|management", ""},
		{"book put far --name Far_away --mail far@ --groups x", 2, "", "is not a mail address"},
		{"book put far --name Far_away --mail far@brackenfell.example --groups away", 0, "", "far is kept."},
		{"timetable dates FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1 --at 18:00 --calendar holidays", 0,
			"The last working day of the month|Thu 29 Oct 2026 18:00", ""},
		{"timetable dates FREQ=SOMETIMES", 2, "", "is not a rule of RFC 5545"},
		{"calendars", 0, "holidays|2026-10-30", ""},
		{"control put alert " + wrong, 2, "", `send: json: unknown field "if"`},
		{"control put alert " + path, 0, "It is due every week on Monday, next on Mon 19 Oct 2026 07:00 CEST", ""},
		{"control show alert", 0, "when: count(*) > 10|rule: FREQ=WEEKLY;BYDAY=MO", ""},
		{"control pause alert", 0, "", "waits"},
		{"timetable", 0, "paused|districts-month", ""},
		{"control pause alert --end", 0, "", "goes on, next on Mon 19 Oct"},
		{"control run alert --send", 0, "near-best-before|done", ""},
		{"send R-000001 --to nobody", 2, "", "is called \"nobody\""},
		{"send R-000001 --to away --format csv --subject {title}:_{rows}", 0, "",
			"waits to be sent to far@brackenfell.example"},
	})
	for begun := time.Now(); ; time.Sleep(20 * time.Millisecond) {
		if got := command(t, s.URL, s.Token, "parcels", "--state", "sent"); strings.Count(got.out, "P-0") == 2 {
			break
		} else if time.Since(begun) > 20*time.Second {
			t.Fatalf("%+v", got)
		}
	}
	says(t, s, s.Token, []line{
		{"control past alert", 0, "done", ""},
		{"mailbox", 0, "rows near their end|far@brackenfell.example|runa@brackenfell.example", ""},
		{"parcels again P-000001", 2, "", "was sent"},
		{"parcels stop P-000001", 2, "", "only what waits or failed"},
		{"desk put alert stock --measure count(*)", 0, "", "The desk is kept."},
		{"desk put alert stock --measure colour", 2, "", "the measure \"colour\""},
		{"desk remove none", 2, "", "has no tile none"},
		{"timetable feed", 0, "/api/timetable/feed/", ""},
		{"book delete far --yes", 0, "", "far is deleted."},
		{"calendars delete holidays", 2, "", "counts by it"},
	})
}

// TestMonthInTheConsole sends the month of the districts from the console,
// looks into the mailbox, puts a figure on the desk and moves it by the
// keyboard.
func TestMonthInTheConsole(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.open(s.URL + "/controls/districts-month")
	b.shows("Runs Honey intake by origin and Payout detail for each district on the last working day of the month at " +
		"18:00, next Thu 29 Oct 2026, and sends a PDF and a spreadsheet to whoever stands for the district.")
	b.click("[data-try]")
	b.shows("24 runs, for 13 recipients. Nothing was kept, and nothing was sent.")
	b.shows("Dora Hollinfen, Hollin office")
	b.shot("trial")
	b.keys(kb.Escape)
	b.until(`!document.querySelector('[data-trial]')`)
	b.click("input[type=checkbox]")
	b.press("Run")
	b.until(`document.querySelectorAll('table strong').length === 12`)
	b.until(`!document.body.innerText.includes('to be sent')`)
	b.open(s.URL + "/sending?tab=mailbox")
	b.until(`document.querySelectorAll('li button strong').length === 13`)
	b.shows("district Skelby with everything below")
	b.until(`document.querySelectorAll('[data-letter] a[download]').length === 4`)

	b.open(s.URL + "/")
	b.shows("Nothing stands here yet")
	for _, part := range []string{"Hollin", "Marr"} {
		b.press("Place a tile")
		b.click("[role=dialog] input[data-autofocus]")
		b.choose("Month of the districts")
		b.until(`[...document.querySelectorAll('[role=dialog] label')].some(l => l.textContent === 'Part')`)
		b.field("Part")
		b.choose(part)
		b.field("View")
		b.choose("By district")
		b.fill("[name=measure]", "net_kg")
		b.press("Keep")
		b.until(`!document.querySelector('[role=dialog]')`)
		b.shows("Honey intake by origin " + part)
	}
	first := `document.querySelector('[data-tile] h2').title`
	if got := b.value(first); got != "Honey intake by origin Hollin" {
		t.Errorf("the first tile is %q", got)
	}
	b.value(`(document.querySelector('[data-tile] header button').focus(), '')`)
	for _, key := range []string{" ", kb.ArrowRight, " "} {
		b.keys(key)
		time.Sleep(300 * time.Millisecond) // tiles glide
	}
	b.until(first + ` === 'Honey intake by origin Marr'`)
	b.open(s.URL + "/")
	b.until(`document.querySelectorAll('[data-tile] strong').length === 2`)
	b.until(first + ` === 'Honey intake by origin Marr'`)

	b.open(s.URL + "/timetable")
	b.shows("the last working day of the month at 18:00")
	b.open(s.URL + "/controls/new")
	b.press("Add a report")
	b.click("[data-part=when] button")
	b.value(`([...document.querySelectorAll('label')].find(l => l.textContent === 'Run it by a timetable').click(), '')`)
	b.until(`document.querySelectorAll('[data-dates] li').length === 10`)
	b.shows("30 Oct 2026 18:00")
	b.shows("on the last working day of the month at 18:00, next Fri 30 Oct 2026")
	b.shot("control-form")
}

// field opens the list of a field by its label, in the dialog.
func (b *browser) field(label string) {
	b.t.Helper()
	b.until(`(() => {
		const found = [...document.querySelectorAll('[role=dialog] label')].find(l => ` +
		`l.textContent.trim() === '` + label + `')
		const input = found && document.getElementById(found.htmlFor)
		input?.click()
		return Boolean(input)
	})()`)
}
