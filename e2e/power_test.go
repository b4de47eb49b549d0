package e2e

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"mantilla/core/timetable"
	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/store"
)

var kills = flag.Int("kills", 8, "how often TestPowerCuts kills the service")

// plant is a data directory that services run on and are killed, with a mail
// server and an address on the web that live on.
type plant struct {
	t     *testing.T
	dir   string
	zone  *time.Location
	box   *mailbox.Box
	web   *httptest.Server
	mu    sync.Mutex
	calls map[string]int // by delivery
}

const firstDay = 20740 // 14 October 2026, in days since 1970

func newPlant(t *testing.T) *plant {
	p := &plant{t: t, dir: demotest.Dir(t), calls: map[string]int{}}
	var err error
	if p.zone, err = time.LoadLocation("Europe/Berlin"); err != nil {
		t.Fatal(err)
	}
	if p.box, err = mailbox.Open(t.TempDir(), "127.0.0.1:0", time.Now); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { p.box.Close() })
	p.web = httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		if _, err := io.Copy(io.Discard, r.Body); err != nil {
			return // cut off while it was sent; it comes again
		}
		p.mu.Lock()
		defer p.mu.Unlock()
		p.calls[r.Header.Get("Mantilla-Delivery")]++
	}))
	t.Cleanup(p.web.Close)
	return p
}

// within opens the library in this process at noon of a day, or later where the
// services that were killed went by a later hour: the clock does not step back.
func (p *plant) within(day int, do func(*library.Library)) {
	p.t.Helper()
	records, err := store.Open(context.Background(), p.dir, 32<<20)
	if err != nil {
		p.t.Fatal(err)
	}
	begun := time.Now()
	noon := time.Unix(int64(firstDay+day)*86400, 0).Add(max(10*time.Hour, begun.Sub(begun.UTC().Truncate(24*time.Hour))))
	l, err := library.Open(context.Background(), records, library.Settings{
		Organisation: model.Organisation{
			Zone:     p.zone,
			Currency: "EUR",
			Now:      func() time.Time { return noon.Add(time.Since(begun)) },
		},
		Limits: capture.Limits{Rows: 1_000_000, Time: time.Minute, Workers: 2},
		Sending: sending.Settings{
			Mail:      p.mail(),
			Calls:     deliver.Caller{Allowed: []string{strings.TrimPrefix(p.web.URL, "http://")}},
			MailLimit: 10 << 20,
			Folder:    filepath.Join(p.dir, "outgoing"),
		},
		DataDir: p.dir,
	}, slog.New(slog.DiscardHandler))
	if err != nil {
		p.t.Fatal(err)
	}
	do(l)
	if err := errors.Join(l.Close(), records.Close()); err != nil {
		p.t.Fatal(err)
	}
}

func (p *plant) mail() deliver.Server {
	return deliver.Server{Address: p.box.Address(), From: "Reports <reports@brackenfell.example>", TLS: "none"}
}

// controls makes what is due every day: one sent to two people, into a folder
// and to an address on the web, and one with a part for each region.
func (p *plant) controls(l *library.Library) {
	p.t.Helper()
	if err := demo.Load(context.Background(), l); err != nil {
		p.t.Fatal(err)
	}
	runa, err := l.AsPerson(context.Background(), "runa")
	if err != nil {
		p.t.Fatal(err)
	}
	// it would come due among them
	if err := runa.Controls.DeleteControl(context.Background(), demo.MonthEnd); err != nil {
		p.t.Fatal(err)
	}
	daily := &timetable.Timetable{Rule: "FREQ=DAILY", At: 5, Missed: "all", Start: firstDay}
	whole := controls.Control{Control: model.Control{ID: "whole", Title: "Whole"}, Outputs: []string{"xlsx", "pdf"},
		Steps: []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "last month"}},
			{Report: "near-best-before"}},
		Send: &sending.Send{
			To:      []string{"runa", "adda"},
			Folder:  "whole",
			Webhook: p.web.URL,
			Subject: "{title} {result}",
		},
		Timetable: daily}
	people := map[string][]string{}
	for _, region := range []string{"UF", "LW", "EM", "SH"} {
		people[region] = []string{region + "@brackenfell.example"}
	}
	parts := controls.Control{Control: model.Control{ID: "parts", Title: "Parts"}, Outputs: []string{"csv"},
		Steps: []controls.Step{{Report: "intake-by-origin", Typed: map[string]string{"received": "this month"}}},
		Send:  &sending.Send{Subject: "{title} {part}"}, Split: &sending.Split{Units: "region", People: people},
		Timetable: daily}
	for _, c := range []controls.Control{whole, parts} {
		if _, err := runa.Controls.PutControl(context.Background(), c); err != nil {
			p.t.Fatal(err)
		}
	}
}

// cut starts the service on a day and kills it after a while.
func (p *plant) cut(day int, after time.Duration) {
	p.t.Helper()
	log, err := os.Create(filepath.Join(p.t.TempDir(), "log"))
	if err != nil {
		p.t.Fatal(err)
	}
	defer log.Close()
	date := time.Unix(int64(firstDay+day)*86400, 0).UTC().Format("2006-01-02")
	cmd := exec.Command(binary, "serve", "--data", p.dir, "--address", "127.0.0.1:0", "--business-date", date, "--smtp",
		p.box.Address(), "--smtp-tls", "none", "--mail-from", p.mail().From, "--web-hosts",
		strings.TrimPrefix(p.web.URL, "http://"), "--log-level", "error")
	cmd.Stderr = log
	if err := cmd.Start(); err != nil {
		p.t.Fatal(err)
	}
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	select {
	case err := <-ended:
		said, _ := os.ReadFile(log.Name())
		p.t.Fatalf("the service ended by itself: %v\n%s", err, said)
	case <-time.After(after):
	}
	if err := cmd.Process.Kill(); err != nil { // SIGKILL
		p.t.Fatal(err)
	}
	<-ended
}

// TestPowerCuts kills the service at random moments, while runs are captured,
// files are written, mail is sent and moments come due, and proves that every
// due moment gave its runs once, that everybody got everything once, and that
// no row was lost. With -kills 100 it takes some minutes.
func TestPowerCuts(t *testing.T) {
	t.Parallel()
	p := newPlant(t)
	p.within(0, p.controls)
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	random := rand.New(rand.NewPCG(seed, 0))
	for day := 1; day <= *kills; day++ {
		p.cut(day, time.Duration(100+random.IntN(1100))*time.Millisecond)
	}
	p.within(*kills, func(l *library.Library) { p.settled(l, *kills) })
}

// atRest waits until nothing is under way and returns what ran.
func (p *plant) atRest(runa *library.Access, days int) []model.ControlRun {
	p.t.Helper()
	for begun := time.Now(); ; time.Sleep(50 * time.Millisecond) {
		table, err := runa.Controls.Timetable(p.t.Context(), 10_000)
		if err != nil {
			p.t.Fatal(err)
		}
		waiting, err := runa.Sending.Parcels(p.t.Context(), model.Waiting, 0, 10)
		if err != nil {
			p.t.Fatal(err)
		}
		open := len(waiting)
		for _, r := range table.Ran {
			if r.Sending == "waiting" {
				open++
			}
		}
		if open == 0 && len(table.Ran) >= 5*days {
			return table.Ran
		}
		if time.Since(begun) > time.Minute {
			p.t.Fatalf("%d are not sent, %d ran; %+v", open, len(table.Ran), waiting)
		}
	}
}

// mended does by hand what the service gave up: work that it was killed over
// twice, which it must tell, and nothing else may have failed.
func (p *plant) mended(runa *library.Access, days int) []model.ControlRun {
	p.t.Helper()
	const told = "the service ended 2 times while it did this"
	for _, r := range p.atRest(runa, days) {
		if r.Sending != "failed" {
			continue
		}
		if !strings.Contains(r.SentNote, told) {
			p.t.Errorf("%s %s of %s: %s", r.Control, r.Part, r.Moment, r.SentNote)
		}
		p.t.Logf("given up, told and tried again: %s of %s", r.Control, r.Moment)
		if _, err := runa.Controls.AgainControlRun(p.t.Context(), r.Number); err != nil {
			p.t.Fatal(err)
		}
	}
	p.atRest(runa, days)
	failed, err := runa.Sending.Parcels(p.t.Context(), model.Failed, 0, 1000)
	if err != nil {
		p.t.Fatal(err)
	}
	for _, x := range failed {
		if !strings.Contains(x.Reason, told) {
			p.t.Errorf("%s: %s", x.Title, x.Reason)
		}
		p.t.Logf("given up, told and tried again: %s by %s", x.Title, x.Way)
		if _, err := runa.Sending.MendParcel(p.t.Context(), x.Number, nil); err != nil {
			p.t.Fatal(err)
		}
	}
	return p.atRest(runa, days)
}

// settled waits until all is done, tries again what was given up, and looks
// whether all is what it should be.
func (p *plant) settled(l *library.Library, days int) {
	t, ctx := p.t, context.Background()
	runa, err := l.AsPerson(ctx, "runa")
	if err != nil {
		t.Fatal(err)
	}
	ran := p.mended(runa, days)
	letters := func() (n int) { // less the notices of what was given up, which are one for each such moment
		for _, l := range p.box.Letters() {
			if !strings.HasPrefix(strings.Trim(l.MessageID, "<"), "notice-") {
				n++
			}
		}
		return n
	}
	seen, results := map[string]int{}, 0
	for _, r := range ran {
		seen[fmt.Sprintf("%s %s %s", r.Control, r.Part, r.Moment.In(p.zone).Format("2006-01-02"))]++
		if r.Sending != "done" {
			t.Errorf("%s %s of %s: %s %s", r.Control, r.Part, r.Moment, r.Sending, r.SentNote)
		}
		for _, run := range r.Runs {
			if run.State != model.Done || run.Result == 0 {
				t.Errorf("%s of %s: %s %s", run.Report, r.Moment, run.State, run.Reason)
				continue
			}
			results++
			x, err := runa.Reading.Result(ctx, run.Result)
			if err != nil {
				t.Fatal(err)
			}
			if good, err := l.AsService().Reading.CheckSeal(ctx, x); err != nil || !good {
				t.Errorf("R-%06d is not what was sealed: %v", run.Result, err)
			}
		}
	}
	if len(seen) != 5*days || len(ran) != 5*days {
		t.Errorf("%d runs of %d moments and parts; %d are due", len(ran), len(seen), 5*days)
	}
	all, err := runa.Reading.Results(ctx, model.ResultWish{Limit: 100_000})
	if err != nil || len(all) != results {
		t.Errorf("%d results are kept of %d runs, %v", len(all), results, err)
	}
	if want := days * (2 + 4); letters() != want {
		t.Errorf("%d letters came, %d are due", letters(), want)
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if len(p.calls) != days {
		t.Errorf("%d calls came, %d are due", len(p.calls), days)
	}
	files, err := filepath.Glob(filepath.Join(p.dir, "outgoing", "whole", "*"))
	if err != nil || len(files) != days*4 {
		t.Errorf("%d files lie in the folder, %d are due", len(files), days*4)
	}
	again := 0
	for _, n := range p.calls {
		again += n - 1
	}
	t.Logf("%d kills: %d runs, %d letters (%d came again and were known), %d calls (%d repeated under their id)", days,
		results, letters(), p.box.Again(), len(p.calls), again)
}
