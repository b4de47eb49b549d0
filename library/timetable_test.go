package library_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"

	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/model"
)

// TestMomentsMissedWhileTheServiceWasDown stops the service for three days and
// a half, over which three controls would have run daily.
func TestMomentsMissedWhileTheServiceWasDown(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 23, 12, 0, 0, 0, berlin))
	o.during("first", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		for _, missed := range timetable.Misses {
			_, err := runa.PutControl(t.Context(), library.Control{Control: model.Control{ID: missed, Title: missed}, Steps: []library.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}},
				Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 2*60 + 30, Missed: missed}})
			if err != nil {
				t.Fatal(err)
			}
		}
	})
	o.now.set(time.Date(2026, 10, 27, 12, 0, 0, 0, berlin)) // clocks went back on the 25th
	for range 2 {                                           // a second start settles nothing again
		o.during("later", func(t *testing.T, l *library.Library) {
			runa := person(t, l, "runa")
			var table library.Timetable
			until(t, "all runs", func() bool {
				var err error
				if table, err = runa.Timetable(t.Context(), 100); err != nil {
					t.Fatal(err)
				}
				return len(table.Ran) >= 5 && !slices.ContainsFunc(table.Ran, func(r model.ControlRun) bool { return !r.Runs[0].State.Ended() })
			})
			ran, skipped := map[string][]string{}, map[string]int{}
			for _, r := range table.Ran {
				ran[r.Control] = append(ran[r.Control], r.Moment.In(berlin).Format("2 15:04 -0700")+" "+r.Runs[0].Facts[0].Resolved)
			}
			for _, n := range table.Notes {
				skipped[n.Control+" "+n.State]++
			}
			if want := "[27 02:30 +0100 2026-10-26/2026-10-26 26 02:30 +0100 2026-10-25/2026-10-25 25 02:30 +0200 2026-10-24/2026-10-24 24 02:30 +0200 2026-10-23/2026-10-23]"; fmt.Sprint(ran["all"]) != want {
				t.Errorf("all: %v", ran["all"])
			}
			if fmt.Sprint(ran["once"]) != "[27 02:30 +0100 2026-10-26/2026-10-26]" || len(ran["skip"]) != 0 {
				t.Errorf("once: %v, skip: %v", ran["once"], ran["skip"])
			}
			if skipped["once skipped"] != 3 || skipped["skip skipped"] != 4 || len(skipped) != 2 {
				t.Errorf("%v", skipped)
			}
			for _, c := range table.Due {
				if c.Title != "Month of the districts" && !c.Next.Equal(time.Date(2026, 10, 28, 2, 30, 0, 0, berlin)) {
					t.Errorf("%s is due on %s", c.ID, c.Next)
				}
			}
		})
	}
}

func TestADueMomentThatCannotRunIsTold(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("first", func(t *testing.T, l *library.Library) {
		lila, dora := person(t, l, "lila"), person(t, l, "dora")
		for who, a := range map[string]*library.Access{"lila": lila, "dora": dora} {
			if _, err := a.PutControl(t.Context(), library.Control{Control: model.Control{ID: "of-" + who, Title: who}, Steps: []library.Step{{Report: "lot-history", Typed: map[string]string{"lot": "L99"}}},
				Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60}}); err != nil {
				t.Fatal(err)
			}
		}
		if _, err := dora.PauseControl(t.Context(), "of-lila", true); err == nil {
			t.Error("dora paused another's timetable")
		}
		c, err := dora.PauseControl(t.Context(), "of-dora", true)
		if err != nil || !c.Paused {
			t.Errorf("%+v, %v", c, err)
		}
	})
	o.now.set(time.Date(2026, 10, 16, 6, 0, 1, 0, berlin))
	o.during("next day", func(t *testing.T, l *library.Library) {
		lila := person(t, l, "lila")
		var table library.Timetable
		until(t, "a note", func() bool {
			var err error
			if table, err = lila.Timetable(t.Context(), 10); err != nil {
				t.Fatal(err)
			}
			return len(table.Notes) > 0
		})
		if len(table.Notes) != 1 || table.Notes[0].State != "refused" || !strings.Contains(table.Notes[0].Reason, "L99") || table.Notes[0].Control != "of-lila" || len(table.Ran) != 0 {
			t.Errorf("%+v", table)
		}
	})
}

func TestTimetablesAreChecked(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("checks", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		for want, change := range map[string]func(*library.Control){
			"timetable.rule":     func(c *library.Control) { c.Timetable.Rule = "daily" },
			"timetable.zone":     func(c *library.Control) { c.Timetable.Zone = "Here" },
			"timetable.calendar": func(c *library.Control) { c.Timetable.Calendar = "holiday" },
			"send.to":            func(c *library.Control) { c.Send = &library.Send{To: []string{"nobody"}} },
			"send.folder":        func(c *library.Control) { c.Send = &library.Send{Folder: "../out"} },
			"send.webhook":       func(c *library.Control) { c.Send = &library.Send{Webhook: "ftp://x"} },
			"send.when":          func(c *library.Control) { c.Send = &library.Send{To: []string{"runa"}, When: "sum(valu) > 3"} },
			"split.units":        func(c *library.Control) { c.Send, c.Split = &library.Send{}, &library.Split{Units: "village"} },
			"split.column":       func(c *library.Control) { c.Send, c.Split = &library.Send{}, &library.Split{Column: "colour"} },
			"split":              func(c *library.Control) { c.Split = &library.Split{Units: "district"} },
		} {
			c := library.Control{Control: model.Control{ID: "checked", Title: "Checked"}, Steps: []library.Step{{Report: "intake-lots"}}, Timetable: &timetable.Timetable{Rule: "FREQ=DAILY"}}
			change(&c)
			_, err := runa.PutControl(t.Context(), c)
			refused, ok := err.(*model.Refused)
			if !ok || refused.Part != want {
				t.Errorf("%s: %v", want, err)
			}
		}
	})
}

// TestFeedReadByAnother reads the feed of what is due with a second parser.
func TestFeedReadByAnother(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("feed", func(t *testing.T, l *library.Library) {
		secret, err := person(t, l, "runa").NewFeed(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		text, err := l.Feed(t.Context(), secret)
		if err != nil {
			t.Fatal(err)
		}
		calendar, err := ics.ParseCalendar(strings.NewReader(string(text)))
		if err != nil {
			t.Fatal(err)
		}
		events := calendar.Events()
		if len(events) != 6 || events[0].GetProperty(ics.ComponentPropertySummary).Value != "Month of the districts" {
			t.Fatalf("%d events", len(events))
		}
		if start, err := events[0].GetStartAt(); err != nil || !start.Equal(time.Date(2026, 10, 29, 18, 0, 0, 0, berlin)) {
			t.Errorf("the first is on %s, %v", start, err)
		}
		if _, err := person(t, l, "runa").NewFeed(t.Context()); err != nil {
			t.Fatal(err)
		}
		if _, err := l.Feed(t.Context(), secret); err == nil {
			t.Error("the earlier secret still opens the feed")
		}
	})
}

func TestCalendars(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("calendars", func(t *testing.T, l *library.Library) {
		lila := person(t, l, "lila")
		for want, text := range map[string]string{"is not a calendar": "days", "has no events": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nEND:VCALENDAR\r\n"} {
			if _, err := lila.PutCalendar(t.Context(), "more", []byte(text)); err == nil || !strings.Contains(err.Error(), want) {
				t.Errorf("want %q, got %v", want, err)
			}
		}
		if err := lila.DeleteCalendar(t.Context(), "holidays"); err == nil || !strings.Contains(err.Error(), "Month of the districts") {
			t.Errorf("a calendar in use was deleted: %v", err)
		}
		event := func(lines string) []byte {
			return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Off\r\n" + lines + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
		}
		// The days of an event are those of its own zone; in UTC, those of the service's.
		for lines, want := range map[string]string{
			"DTSTART;VALUE=DATE:20261225":                                                                "2026-12-25",
			"DTSTART:20261224T230000Z\r\nDTEND:20261225T230000Z":                                         "2026-12-25",
			"DTSTART;TZID=America/Chicago:20261224T200000\r\nDTEND;TZID=America/Chicago:20261224T230000": "2026-12-24",
			"DTSTART:20261225T000000\r\nDTEND:20261226T000000":                                           "2026-12-25",
		} {
			c, err := lila.PutCalendar(t.Context(), "zones", event(lines))
			if err != nil || len(c.Days) != 1 || c.Days[0].String() != want {
				t.Errorf("%s: %v, %v; want %s", lines, c.Days, err, want)
			}
		}
		for _, lines := range []string{"DTSTART:20261224T230000Z\r\nRRULE:FREQ=SECONDLY", "DTSTART:20261224T230000Z\r\nRRULE:FREQ=DAILY;BYHOUR=1,2,3", "DTSTART;VALUE=DATE:20260101\r\nDTEND;VALUE=DATE:20960101"} {
			if _, err := lila.PutCalendar(t.Context(), "zones", event(lines)); err == nil {
				t.Errorf("%s was taken", lines)
			}
		}
		if err := lila.DeleteCalendar(t.Context(), "zones"); err != nil {
			t.Error(err)
		}
		// A further day off moves what is due.
		all, err := lila.Calendars(t.Context())
		if err != nil || len(all) != 1 || !slices.IsSorted(all[0].Days) {
			t.Fatalf("%v, %v", all, err)
		}
		more := strings.Replace(all[0].Text, "END:VCALENDAR", "BEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:20261028\r\nDTEND;VALUE=DATE:20261030\r\nSUMMARY:Stock-taking\r\nEND:VEVENT\r\nEND:VCALENDAR", 1)
		if _, err := lila.PutCalendar(t.Context(), "holidays", []byte(more)); err != nil {
			t.Fatal(err)
		}
		table, err := lila.Timetable(t.Context(), 1)
		if err != nil || !table.Due[0].Next.Equal(time.Date(2026, 10, 27, 18, 0, 0, 0, berlin)) {
			t.Errorf("due on %v, %v", table.Due[0].Next, err)
		}
	})
}
