package library_test

import (
	"bytes"
	"log/slog"
	"strings"
	"testing"
	"time"

	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/model"
	"mantilla/store"

	"github.com/xuri/excelize/v2"
)

// office is a data directory with the demo in it, and a mail server beside.
type office struct {
	t   *testing.T
	dir string
	now *clock
	box *mailbox.Box
}

func newOffice(t *testing.T, at time.Time) *office {
	t.Helper()
	o := &office{t: t, dir: demotest.Dir(t), now: clockAt(at)}
	var err error
	if o.box, err = mailbox.Open(t.TempDir(), "127.0.0.1:0", o.now.time); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { o.box.Close() })
	return o
}

// during runs the service for as long as do takes.
func (o *office) during(name string, do func(t *testing.T, l *library.Library)) {
	o.t.Helper()
	o.t.Run(name, func(t *testing.T) {
		l := openWith(t, o.dir, o.now, func(s *library.Settings) {
			s.Mail = deliver.Server{Address: o.box.Address(), From: "Reports <reports@brackenfell.example>", TLS: "none"}
			s.Mailbox, s.Address = o.box, "https://reports.brackenfell.example"
		})
		if err := demo.Load(t.Context(), l); err != nil {
			t.Fatal(err)
		}
		do(t, l)
	})
}

// untilOr is until, which also shows something where it never comes.
func untilOr(t *testing.T, what string, ok func() bool, shown func() any) {
	t.Helper()
	defer func() {
		if t.Failed() {
			t.Logf("%+v", shown())
		}
	}()
	until(t, what, ok)
}

func until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for begun := time.Now(); !ok(); time.Sleep(5 * time.Millisecond) {
		if time.Since(begun) > 30*time.Second {
			t.Fatalf("never: %s", what)
		}
	}
}

// person is somebody of the demo, without the long way of signing in.
func person(t *testing.T, l *library.Library, name string) *library.Access {
	t.Helper()
	a, err := l.AsPerson(t.Context(), name)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

var berlin = func() *time.Location {
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		panic(err)
	}
	return zone
}()

// workbooks are the spreadsheets of the letters to somebody, by name.
func (o *office) workbooks(t *testing.T, recipient string) map[string]*excelize.File {
	t.Helper()
	out := map[string]*excelize.File{}
	for _, l := range o.box.Letters() {
		if l.Recipient != recipient {
			continue
		}
		_, text, err := o.box.Message(l.ID)
		if err != nil {
			t.Fatal(err)
		}
		_, parts, err := mailbox.Parts(text)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range parts {
			if strings.HasSuffix(p.Name, ".xlsx") {
				book, err := excelize.OpenReader(bytes.NewReader(p.Data))
				if err != nil {
					t.Fatal(err)
				}
				out[p.Name] = book
			}
		}
	}
	return out
}

// runWell runs a report to a good end.
func runWell(t *testing.T, a *library.Access, ask library.Ask) model.Run {
	t.Helper()
	run, err := a.StartRun(t.Context(), ask)
	if err != nil {
		t.Fatal(err)
	}
	until(t, "the run's end", func() bool {
		if run, err = a.Run(t.Context(), run.Number); err != nil {
			t.Fatal(err)
		}
		return run.State.Ended()
	})
	if run.State != model.Done {
		t.Fatalf("%s %s: %s", run.Report, run.State, run.Reason)
	}
	return run
}

// libraryOn is a library over records that are open, with another currency.
func libraryOn(t *testing.T, records *store.Store, dir string, now *clock, currency string) *library.Library {
	t.Helper()
	l, err := library.Open(t.Context(), records, library.Settings{Zone: berlin, Currency: currency, MaxRows: 1_000_000, MaxTime: time.Minute, Workers: 1,
		DataDir: dir, Now: now.time, MailLimit: 10 << 20}, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	return l
}
