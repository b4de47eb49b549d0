package library_test

import (
	"errors"
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
	"mantilla/model"
	"mantilla/store"
	"mantilla/store/storetest"
)

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
	dir, now := demotest.Dir(t), clockAt(time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	records, err := store.OpenOn(t.Context(), dir, 32<<20, disk.Name)
	if err != nil {
		t.Fatal(err)
	}
	l, err := library.Open(t.Context(), records, library.Settings{Zone: berlin, Currency: "EUR", MaxRows: 1_000_000, MaxTime: time.Minute, Workers: 1, DataDir: dir, Now: now.time,
		MailLimit: 10 << 20, Calls: deliver.Caller{Allowed: []string{strings.TrimPrefix(web.URL, "http://")}}}, slog.New(slog.DiscardHandler))
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
	runa := person(t, l, "runa")
	runs := send(t, runa, control("call", func(c *library.Control) { c.Send = &library.Send{Webhook: web.URL} }))
	until(t, "the call", func() bool { return calls.Load() == 1 })
	time.Sleep(2 * time.Second) // it was made 19 times in so long
	if n := calls.Load(); n != 1 {
		t.Errorf("%d calls while the disk was full", n)
	}
	_, err = runa.StartRun(t.Context(), library.Ask{Report: "intake-lots"})
	if !errors.Is(err, model.ErrFull) {
		t.Errorf("a run was taken: %v", err)
	}
	if _, err := runa.Result(t.Context(), 1); err != nil {
		t.Errorf("results cannot be read: %v", err)
	}
	disk.Fails(nil)
	until(t, "the record of the call", func() bool {
		all, err := runa.Parcels(t.Context(), model.Sent, 0, 10)
		return err == nil && len(all) == 1
	})
	if n := calls.Load(); n != 1 || len(runs) != 1 {
		t.Errorf("%d calls in the end", n)
	}
	runWell(t, runa, library.Ask{Report: "intake-lots"})
	disk.Fails(func(write int) error { // amid a capture
		if write > 25 {
			return storetest.Broken
		}
		return nil
	})
	cut, err := runa.StartRun(t.Context(), library.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026"}})
	if err != nil {
		t.Fatal(err)
	}
	time.Sleep(500 * time.Millisecond)
	disk.Fails(nil)
	until(t, "the end of the run", func() bool {
		r, err := runa.Run(t.Context(), cut.Number)
		return err == nil && r.State.Ended()
	})
}
