package library_test

import (
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/timetable"
	"mantilla/deliver"
	"mantilla/demo"
	"mantilla/library"
	"mantilla/model"
	"mantilla/store"
)

// exec changes the records behind the service's back.
func exec(t *testing.T, dir, text string, args ...any) {
	t.Helper()
	c, err := sqlite3.Open(dir + "/" + store.RecordsFile)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	if err := c.BusyTimeout(10 * time.Second); err != nil {
		t.Fatal(err)
	}
	stmt, _, err := c.Prepare(text)
	if err != nil {
		t.Fatal(text, err)
	}
	defer stmt.Close()
	for i, a := range args {
		if err := stmt.BindText(i+1, fmt.Sprint(a)); err != nil {
			t.Fatal(err)
		}
	}
	if err := stmt.Exec(); err != nil {
		t.Fatal(text, err)
	}
}

// TestOneBadControlStopsOnlyItself lets three controls come due: one whose record
// cannot be read, one that ran for the moment before since the clock was set
// back, and a good one.
func TestOneBadControlStopsOnlyItself(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	daily := func(id string) library.Control {
		return library.Control{Control: model.Control{ID: id, Title: id}, Steps: []library.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}},
			Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60}}
	}
	o.during("first", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		for _, id := range []string{"bad", "good", "twice"} {
			if _, err := runa.PutControl(t.Context(), daily(id)); err != nil {
				t.Fatal(err)
			}
		}
	})
	o.now.set(time.Date(2026, 10, 16, 6, 0, 1, 0, berlin))
	o.during("due", func(t *testing.T, l *library.Library) {
		until(t, "three runs", func() bool { table, _ := person(t, l, "runa").Timetable(t.Context(), 10); return len(table.Ran) == 3 })
	})
	exec(t, o.dir, `update control set body = '{"steps": 7}' where id = 'bad'`)
	exec(t, o.dir, `update control set next_at = '2026-10-16T04:00:00.000Z' where id in ('bad', 'twice')`) // as a clock that was set back leaves it
	o.now.set(time.Date(2026, 10, 16, 6, 0, 5, 0, berlin))
	o.during("again", func(t *testing.T, l *library.Library) {
		until(t, "two notes", func() bool { table, _ := person(t, l, "runa").Timetable(t.Context(), 10); return len(table.Notes) == 2 })
	})
	o.now.set(time.Date(2026, 10, 17, 6, 0, 1, 0, berlin))
	o.during("next day", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		var table library.Timetable
		until(t, "what is good", func() bool {
			var err error
			if table, err = runa.Timetable(t.Context(), 20); err != nil {
				t.Fatal(err)
			}
			ran := map[string]int{}
			for _, r := range table.Ran {
				ran[r.Control]++
			}
			return ran["good"] == 2 && ran["twice"] == 2 && ran["bad"] == 1
		})
		said := map[string]string{}
		for _, n := range table.Notes {
			said[n.Control] += n.State + ": " + n.Reason
		}
		if !strings.Contains(said["bad"], "refused: its record cannot be read") || !strings.Contains(said["twice"], "skipped: it ran for this moment before") {
			t.Errorf("the owner is told %v", said)
		}
		c, err := runa.Control(t.Context(), "bad")
		if err != nil || c.Broken == "" {
			t.Errorf("%+v, %v", c, err)
		}
		if all, err := runa.Controls(t.Context(), "", 100); err != nil || len(all) < 3 {
			t.Errorf("%d controls, %v", len(all), err)
		}
		c = daily("bad")
		c.Revision = 1
		if _, err := runa.PutControl(t.Context(), c); err != nil {
			t.Errorf("it cannot be mended: %v", err)
		}
	})
}

func TestARestoredControlGoesOnFromNow(t *testing.T) {
	o := newOffice(t, time.Date(2026, 8, 1, 12, 0, 0, 0, berlin))
	o.during("deleted", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		_, err := runa.PutControl(t.Context(), library.Control{Control: model.Control{ID: "all", Title: "All"}, Steps: []library.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}},
			Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60, Missed: "all"}})
		if err := errors.Join(err, runa.DeleteControl(t.Context(), "all")); err != nil {
			t.Fatal(err)
		}
	})
	o.now.set(time.Date(2026, 10, 1, 12, 0, 0, 0, berlin))
	o.during("restored", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		c, err := runa.RestoreControl(t.Context(), "all")
		if err != nil || !c.Next.Equal(time.Date(2026, 10, 2, 6, 0, 0, 0, berlin)) {
			t.Fatalf("next on %s, %v", c.Next, err)
		}
		time.Sleep(300 * time.Millisecond)
		if table, err := runa.Timetable(t.Context(), 100); err != nil || len(table.Ran) != 0 {
			t.Errorf("%d ran at once, %v", len(table.Ran), err)
		}
	})
	// A clock that was once a year ahead leaves a moment there.
	exec(t, o.dir, `update control set next_at = '2027-10-02T04:00:00.000Z' where id = 'all'`)
	o.during("after a clock ahead", func(t *testing.T, l *library.Library) {
		if c, err := person(t, l, "runa").Control(t.Context(), "all"); err != nil || c.Next.Year() != 2026 {
			t.Errorf("next on %s, %v", c.Next, err)
		}
	})
}

// TestWorkThatKillsTheServiceIsGivenUp marks work as it is when the service ends
// over it, twice.
func TestWorkThatKillsTheServiceIsGivenUp(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("first", func(t *testing.T, l *library.Library) {
		runs := send(t, person(t, l, "runa"), control("c", func(*library.Control) {}))
		parcelsOf(t, person(t, l, "runa"), runs)
	})
	for i := range 2 {
		exec(t, o.dir, `update parcel set state = 'waiting', trying = 1, next_at = '2027-01-01T00:00:00.000Z', ended_at = null`)
		exec(t, o.dir, `update run set state = 'running', after_crash = 'again'`)
		exec(t, o.dir, `update control_run set sending = 'waiting', composing = 1`)
		exec(t, o.dir, `delete from result`)
		records, err := store.Open(t.Context(), o.dir, 1<<20)
		if err != nil {
			t.Fatal(err)
		}
		again, failed, err := records.Recover(t.Context(), o.now.time())
		if err := errors.Join(err, records.Resume(t.Context(), o.now.time()), records.Close()); err != nil {
			t.Fatal(err)
		}
		if (i == 0) != (again == 1) || failed != 0 {
			t.Errorf("end %d: %d runs again, %d failed", i+1, again, failed)
		}
	}
	o.during("at last", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		runs, err := runa.ControlRuns(t.Context(), "c", 1)
		if err != nil || runs[0].Sending != "failed" || !strings.Contains(runs[0].SentNote, "ended 2 times") || runs[0].Runs[0].State != model.Failed || !strings.Contains(runs[0].Runs[0].Reason, "ended 2 times") {
			t.Errorf("%+v, %v", runs, err)
		}
		all, err := runa.Parcels(t.Context(), "", 0, 10)
		if err != nil || len(all) != 1 || all[0].State != model.Failed || !strings.Contains(all[0].Reason, "ended 2 times") {
			t.Errorf("%+v, %v", all, err)
		}
		if _, err := runa.MendParcel(t.Context(), all[0].Number, nil); err != nil {
			t.Errorf("it cannot be tried again by hand: %v", err)
		}
		triedAgain(t, l, runs[0].Number)
	})
}

// triedAgain tries a failed run of a control again as those who may not, and as
// its owner, until its run has a result and its sending is settled.
func triedAgain(t *testing.T, l *library.Library, number int64) {
	t.Helper()
	for _, name := range []string{"rhea", "aron"} {
		if _, err := person(t, l, name).AgainControlRun(t.Context(), number); err == nil {
			t.Errorf("%s tried again what is runa's", name)
		}
	}
	runa := person(t, l, "runa")
	r, err := runa.AgainControlRun(t.Context(), number)
	if err != nil || r.Sending != "waiting" || len(r.Runs) != 1 || !strings.Contains(r.Runs[0].Note, "tried again after: the service ended 2 times") {
		t.Fatalf("%+v, %v", r, err)
	}
	untilOr(t, "it is done", func() bool {
		all, err := runa.ControlRuns(t.Context(), "c", 1)
		if err != nil {
			t.Fatal(err)
		}
		r = all[0]
		return r.Sending == "done"
	}, func() any { return r })
	if r.Runs[0].State != model.Done || r.Runs[0].Result == 0 {
		t.Errorf("%+v", r)
	}
	if _, err := runa.AgainControlRun(t.Context(), number); err == nil || !strings.Contains(err.Error(), "nothing of S-") {
		t.Errorf("what went well was tried again: %v", err)
	}
	if _, err := runa.AgainControlRun(t.Context(), 999); err == nil || !strings.Contains(err.Error(), `there is no set of runs "S-000999"`) {
		t.Errorf("a set that is not there: %v", err)
	}
}

// TestWebAddressesThatDoNotAnswerHoldUpNothingElse also ends the service over
// them.
func TestWebAddressesThatDoNotAnswerHoldUpNothingElse(t *testing.T) {
	release := make(chan struct{})
	var calls atomic.Int32
	web := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { calls.Add(1); <-release }))
	defer web.Close()
	defer close(release)
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	l := openWith(t, o.dir, o.now, func(s *library.Settings) {
		s.Mail = deliver.Server{Address: o.box.Address(), From: "r@brackenfell.example", TLS: "none"}
		s.Calls = deliver.Caller{Allowed: []string{strings.TrimPrefix(web.URL, "http://")}}
	})
	if err := demo.Load(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	runa := person(t, l, "runa")
	for i := range 4 {
		send(t, runa, control(fmt.Sprintf("silent%d", i), func(c *library.Control) { c.Send = &library.Send{Webhook: web.URL} }))
	}
	until(t, "four calls", func() bool { return calls.Load() == 4 })
	begun := time.Now()
	send(t, runa, control("letter", func(*library.Control) {}))
	until(t, "the letter", func() bool { return len(o.box.Letters()) == 1 })
	if took := time.Since(begun); took > 5*time.Second {
		t.Errorf("the letter waited %s", took)
	}
	begun = time.Now()
	if err := l.Close(); err != nil || time.Since(begun) > 5*time.Second {
		t.Errorf("closing took %s, %v", time.Since(begun), err)
	}
}

func TestSplitByAColumnOfManyValuesIsRefusedWithTheirNumber(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("many", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		runs := send(t, runa, control("many", func(c *library.Control) {
			c.Steps[0].Typed = map[string]string{"received": "2023-01-01/2026-10-15"}
			c.Send = &library.Send{Folder: "many"}
			c.Split = &library.Split{Column: "lot_no"}
		}))
		var note string
		until(t, "an end", func() bool {
			all, err := runa.ControlRuns(t.Context(), "many", 1)
			if err != nil {
				t.Fatal(err)
			}
			note = all[0].SentNote
			return all[0].Sending == "failed"
		})
		if !strings.Contains(note, "parts; at most 5000") || !strings.Contains(note, "lot_no") {
			t.Errorf("the note is %q", note)
		}
		if all, err := runa.Parcels(t.Context(), "", 0, 10); err != nil || len(all) != 0 || len(runs) != 1 {
			t.Errorf("%d parcels of it, %v", len(all), err)
		}
	})
}
