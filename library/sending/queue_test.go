package sending_test

import (
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"mantilla/deliver"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/store"
	"mantilla/store/storetest"
)

// TestWebAddressesThatDoNotAnswerHoldUpNothingElse also ends the service over
// them.
func TestWebAddressesThatDoNotAnswerHoldUpNothingElse(t *testing.T) {
	release := make(chan struct{})
	var calls atomic.Int32
	web := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { calls.Add(1); <-release }))
	defer web.Close()
	defer close(release)
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	l := librarytest.OpenWith(t, o.Dir, o.Now, func(s *library.Settings) {
		s.Sending.Mail = deliver.Server{Address: o.Box.Address(), From: "r@brackenfell.example", TLS: "none"}
		s.Sending.Calls = deliver.Caller{Allowed: []string{strings.TrimPrefix(web.URL, "http://")}}
	})
	if err := demo.Load(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	runa := librarytest.Person(t, l, "runa")
	for i := range 4 {
		librarytest.Send(t, runa,
			librarytest.Control(fmt.Sprintf("silent%d", i),
				func(c *controls.Control) { c.Send = &sending.Send{Webhook: web.URL} }))
	}
	librarytest.Until(t, "four calls", func() bool { return calls.Load() == 4 })
	begun := time.Now()
	librarytest.Send(t, runa, librarytest.Control("letter", func(*controls.Control) {}))
	librarytest.Until(t, "the letter", func() bool { return len(o.Box.Letters()) == 1 })
	if took := time.Since(begun); took > 5*time.Second {
		t.Errorf("the letter waited %s", took)
	}
	begun = time.Now()
	if err := l.Close(); err != nil || time.Since(begun) > 5*time.Second {
		t.Errorf("closing took %s, %v", time.Since(begun), err)
	}
}

// TestAFullDiskRepeatsNothingAndComesBackByItself fills the disk while a call is
// under way: the call is made once though its outcome cannot be recorded, a run
// that was going on fails, and all goes on when there is space again.
func TestAFullDiskRepeatsNothingAndComesBackByItself(t *testing.T) {
	disk := storetest.NewDisk("full")
	var calls atomic.Int32
	web := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) {
		calls.Add(1)
		disk.Fails(func(int) error { return storetest.Full })
	}))
	defer web.Close()
	dir, now := demotest.Dir(t), librarytest.At(time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	records, err := store.OpenOn(t.Context(), dir, 32<<20, disk.Name)
	if err != nil {
		t.Fatal(err)
	}
	l, err := library.Open(t.Context(), records, library.Settings{
		Organisation: model.Organisation{Zone: librarytest.Berlin, Currency: "EUR", Now: now.Time},
		Limits:       capture.Limits{Rows: 1_000_000, Time: 10 * time.Minute, Workers: 1},
		Sending: sending.Settings{
			MailLimit: 10 << 20,
			Calls:     deliver.Caller{Allowed: []string{strings.TrimPrefix(web.URL, "http://")}},
		},
		DataDir: dir,
	}, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	defer func() {
		disk.Fails(nil)
		if err := errors.Join(l.Close(), records.Close()); err != nil {
			t.Error(err)
		}
	}()
	if err := demo.Load(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	runa := librarytest.Person(t, l, "runa")
	runs := librarytest.Send(t, runa,
		librarytest.Control("call", func(c *controls.Control) { c.Send = &sending.Send{Webhook: web.URL} }))
	librarytest.Until(t, "the call", func() bool { return calls.Load() == 1 })
	time.Sleep(2 * time.Second) // it was made 19 times in so long
	if n := calls.Load(); n != 1 {
		t.Errorf("%d calls while the disk was full", n)
	}
	_, err = runa.Capture.StartRun(t.Context(), capture.Ask{Report: "intake-lots"})
	if !errors.Is(err, model.ErrFull) {
		t.Errorf("a run was taken: %v", err)
	}
	if _, err := runa.Reading.Result(t.Context(), 1); err != nil {
		t.Errorf("results cannot be read: %v", err)
	}
	disk.Fails(nil)
	librarytest.Until(t, "the record of the call", func() bool {
		all, err := runa.Sending.Parcels(t.Context(), model.Sent, 0, 10)
		return err == nil && len(all) == 1
	})
	if n := calls.Load(); n != 1 || len(runs) != 1 {
		t.Errorf("%d calls in the end", n)
	}
	librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots"})
	disk.Fails(func(write int) error { // amid a capture
		if write > 45 { // which leaves room for the asking
			return storetest.Broken
		}
		return nil
	})
	cut, err := runa.Capture.StartRun(t.Context(),
		capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026"}})
	if err != nil {
		t.Fatal(err)
	}
	time.Sleep(500 * time.Millisecond)
	disk.Fails(nil)
	librarytest.Until(t, "the end of the run", func() bool {
		r, err := runa.Capture.Run(t.Context(), cut.Number)
		return err == nil && r.State.Ended()
	})
}
