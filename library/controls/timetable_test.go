package controls_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/library/sending"
	"mantilla/model"
)

// TestMomentsMissedWhileTheServiceWasDown stops the service for three days and
// a half, over which three controls would have run daily.
func TestMomentsMissedWhileTheServiceWasDown(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 23, 12, 0, 0, 0, librarytest.Berlin))
	o.During("first", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		for _, missed := range timetable.Misses {
			_, err := runa.Controls.PutControl(t.Context(),
				controls.Control{Control: model.Control{ID: missed, Title: missed},
					Steps:     []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}},
					Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 2*60 + 30, Missed: missed}})
			if err != nil {
				t.Fatal(err)
			}
		}
	})
	o.Now.Set(time.Date(2026, 10, 27, 12, 0, 0, 0, librarytest.Berlin)) // clocks went back on the 25th
	for range 2 {                                                       // a second start settles nothing again
		o.During("later", func(t *testing.T, l *library.Library) {
			runa := librarytest.Person(t, l, "runa")
			var table controls.Timetable
			librarytest.Until(t, "all runs", func() bool {
				var err error
				if table, err = runa.Controls.Timetable(t.Context(), 100); err != nil {
					t.Fatal(err)
				}
				return len(table.Ran) >= 5 &&
					!slices.ContainsFunc(table.Ran, func(r model.ControlRun) bool { return !r.Runs[0].State.Ended() })
			})
			ran, skipped := map[string][]string{}, map[string]int{}
			for _, r := range table.Ran {
				ran[r.Control] = append(ran[r.Control],
					r.Moment.In(librarytest.Berlin).Format("2 15:04 -0700")+" "+r.Runs[0].Facts[0].Resolved)
			}
			for _, n := range table.Notes {
				skipped[n.Control+" "+n.State]++
			}
			if want := "[27 02:30 +0100 2026-10-26/2026-10-26 26 02:30 +0100 2026-10-25/2026-10-25 25 02:30 +0200 " +
				"2026-10-24/2026-10-24 24 02:30 +0200 2026-10-23/2026-10-23]"; fmt.Sprint(ran["all"]) != want {
				t.Errorf("all: %v", ran["all"])
			}
			if fmt.Sprint(ran["once"]) != "[27 02:30 +0100 2026-10-26/2026-10-26]" || len(ran["skip"]) != 0 {
				t.Errorf("once: %v, skip: %v", ran["once"], ran["skip"])
			}
			if skipped["once skipped"] != 3 || skipped["skip skipped"] != 4 || len(skipped) != 2 {
				t.Errorf("%v", skipped)
			}
			for _, c := range table.Due {
				if c.Title != "Month of the districts" && !c.Next.Equal(time.Date(2026, 10, 28, 2, 30, 0, 0, librarytest.Berlin)) {
					t.Errorf("%s is due on %s", c.ID, c.Next)
				}
			}
		})
	}
}

func TestADueMomentThatCannotRunIsTold(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("first", func(t *testing.T, l *library.Library) {
		lila, dora := librarytest.Person(t, l, "lila"), librarytest.Person(t, l, "dora")
		for who, a := range map[string]*library.Access{"lila": lila, "dora": dora} {
			if _, err := a.Controls.PutControl(t.Context(),
				controls.Control{Control: model.Control{ID: "of-" + who, Title: who},
					Steps:     []controls.Step{{Report: "lot-history", Typed: map[string]string{"lot": "L99"}}},
					Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60}}); err != nil {
				t.Fatal(err)
			}
		}
		if _, err := dora.Controls.PauseControl(t.Context(), "of-lila", true); err == nil {
			t.Error("dora paused another's timetable")
		}
		c, err := dora.Controls.PauseControl(t.Context(), "of-dora", true)
		if err != nil || !c.Paused {
			t.Errorf("%+v, %v", c, err)
		}
	})
	o.Now.Set(time.Date(2026, 10, 16, 6, 0, 1, 0, librarytest.Berlin))
	o.During("next day", func(t *testing.T, l *library.Library) {
		lila := librarytest.Person(t, l, "lila")
		var table controls.Timetable
		librarytest.Until(t, "a note", func() bool {
			var err error
			if table, err = lila.Controls.Timetable(t.Context(), 10); err != nil {
				t.Fatal(err)
			}
			return len(table.Notes) > 0
		})
		if len(table.Notes) != 1 || table.Notes[0].State != "refused" || !strings.Contains(table.Notes[0].Reason, "L99") ||
			table.Notes[0].Control != "of-lila" || len(table.Ran) != 0 {
			t.Errorf("%+v", table)
		}
	})
}

func TestTimetablesAreChecked(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("checks", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		for want, change := range map[string]func(*controls.Control){
			"timetable.rule":     func(c *controls.Control) { c.Timetable.Rule = "daily" },
			"timetable.zone":     func(c *controls.Control) { c.Timetable.Zone = "Here" },
			"timetable.calendar": func(c *controls.Control) { c.Timetable.Calendar = "holiday" },
			"send.to":            func(c *controls.Control) { c.Send = &sending.Send{To: []string{"nobody"}} },
			"send.folder":        func(c *controls.Control) { c.Send = &sending.Send{Folder: "../out"} },
			"send.webhook":       func(c *controls.Control) { c.Send = &sending.Send{Webhook: "ftp://x"} },
			"send.when": func(c *controls.Control) {
				c.Send = &sending.Send{To: []string{"runa"}, When: "sum(valu) > 3"}
			},
			"split.units":  func(c *controls.Control) { c.Send, c.Split = &sending.Send{}, &sending.Split{Units: "village"} },
			"split.column": func(c *controls.Control) { c.Send, c.Split = &sending.Send{}, &sending.Split{Column: "colour"} },
			"split":        func(c *controls.Control) { c.Split = &sending.Split{Units: "district"} },
		} {
			c := controls.Control{
				Control:   model.Control{ID: "checked", Title: "Checked"},
				Steps:     []controls.Step{{Report: "intake-lots"}},
				Timetable: &timetable.Timetable{Rule: "FREQ=DAILY"},
			}
			change(&c)
			_, err := runa.Controls.PutControl(t.Context(), c)
			refused, ok := err.(*model.Refused)
			if !ok || refused.Part != want {
				t.Errorf("%s: %v", want, err)
			}
		}
	})
}

// TestOneBadControlStopsOnlyItself lets three controls come due: one whose record
// cannot be read, one that ran for the moment before since the clock was set
// back, and a good one.
func TestOneBadControlStopsOnlyItself(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	daily := func(id string) controls.Control {
		return controls.Control{Control: model.Control{ID: id, Title: id},
			Steps:     []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}},
			Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60}}
	}
	o.During("first", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		for _, id := range []string{"bad", "good", "twice"} {
			if _, err := runa.Controls.PutControl(t.Context(), daily(id)); err != nil {
				t.Fatal(err)
			}
		}
	})
	o.Now.Set(time.Date(2026, 10, 16, 6, 0, 1, 0, librarytest.Berlin))
	o.During("due", func(t *testing.T, l *library.Library) {
		librarytest.Until(t, "three runs", func() bool {
			table, _ := librarytest.Person(t, l, "runa").Controls.Timetable(t.Context(), 10)
			return len(table.Ran) == 3
		})
	})
	librarytest.Exec(t, o.Dir, `update control set body = '{"steps": 7}' where id = 'bad'`)
	// as a clock that was set back leaves it
	librarytest.Exec(t, o.Dir, `update control set next_at = '2026-10-16T04:00:00.000Z' where id in ('bad', 'twice')`)
	o.Now.Set(time.Date(2026, 10, 16, 6, 0, 5, 0, librarytest.Berlin))
	o.During("again", func(t *testing.T, l *library.Library) {
		librarytest.Until(t, "two notes", func() bool {
			table, _ := librarytest.Person(t, l, "runa").Controls.Timetable(t.Context(), 10)
			return len(table.Notes) == 2
		})
	})
	o.Now.Set(time.Date(2026, 10, 17, 6, 0, 1, 0, librarytest.Berlin))
	o.During("next day", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		var table controls.Timetable
		librarytest.Until(t, "what is good", func() bool {
			var err error
			if table, err = runa.Controls.Timetable(t.Context(), 20); err != nil {
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
		if !strings.Contains(said["bad"], "refused: its record cannot be read") ||
			!strings.Contains(said["twice"], "skipped: it ran for this moment before") {
			t.Errorf("the owner is told %v", said)
		}
		c, err := runa.Controls.Control(t.Context(), "bad")
		if err != nil || c.Broken == "" {
			t.Errorf("%+v, %v", c, err)
		}
		if all, err := runa.Controls.Controls(t.Context(), "", 100); err != nil || len(all) < 3 {
			t.Errorf("%d controls, %v", len(all), err)
		}
		c = daily("bad")
		c.Revision = 1
		if _, err := runa.Controls.PutControl(t.Context(), c); err != nil {
			t.Errorf("it cannot be mended: %v", err)
		}
	})
}

func TestARestoredControlGoesOnFromNow(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 8, 1, 12, 0, 0, 0, librarytest.Berlin))
	o.During("deleted", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		_, err := runa.Controls.PutControl(t.Context(),
			controls.Control{Control: model.Control{ID: "all", Title: "All"},
				Steps:     []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}},
				Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60, Missed: "all"}})
		if err := errors.Join(err, runa.Controls.DeleteControl(t.Context(), "all")); err != nil {
			t.Fatal(err)
		}
	})
	o.Now.Set(time.Date(2026, 8, 25, 12, 0, 0, 0, librarytest.Berlin)) // it is still in the trash
	o.During("restored", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		c, err := runa.Controls.RestoreControl(t.Context(), "all", 0)
		if err != nil || !c.Next.Equal(time.Date(2026, 8, 26, 6, 0, 0, 0, librarytest.Berlin)) {
			t.Fatalf("next on %s, %v", c.Next, err)
		}
		time.Sleep(300 * time.Millisecond)
		if table, err := runa.Controls.Timetable(t.Context(), 100); err != nil || len(table.Ran) != 0 {
			t.Errorf("%d ran at once, %v", len(table.Ran), err)
		}
	})
	// A clock that was once a year ahead leaves a moment there.
	librarytest.Exec(t, o.Dir, `update control set next_at = '2027-10-02T04:00:00.000Z' where id = 'all'`)
	o.During("after a clock ahead", func(t *testing.T, l *library.Library) {
		if c, err := librarytest.Person(t, l, "runa").Controls.Control(t.Context(), "all"); err != nil ||
			c.Next.Year() != 2026 {
			t.Errorf("next on %s, %v", c.Next, err)
		}
	})
}
