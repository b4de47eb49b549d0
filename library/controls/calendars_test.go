package controls_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"

	"mantilla/library"
	"mantilla/library/librarytest"
)

// TestFeedReadByAnother reads the feed of what is due with a second parser.
func TestFeedReadByAnother(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("feed", func(t *testing.T, l *library.Library) {
		secret, err := librarytest.Person(t, l, "runa").Controls.NewFeed(t.Context())
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
		if start, err := events[0].GetStartAt(); err != nil ||
			!start.Equal(time.Date(2026, 10, 29, 18, 0, 0, 0, librarytest.Berlin)) {
			t.Errorf("the first is on %s, %v", start, err)
		}
		if _, err := librarytest.Person(t, l, "runa").Controls.NewFeed(t.Context()); err != nil {
			t.Fatal(err)
		}
		if _, err := l.Feed(t.Context(), secret); err == nil {
			t.Error("the earlier secret still opens the feed")
		}
	})
}

func TestCalendars(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("calendars", func(t *testing.T, l *library.Library) {
		lila := librarytest.Person(t, l, "lila")
		for want, text := range map[string]string{"is not a calendar": "days",
			"has no events": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nEND:VCALENDAR\r\n"} {
			if _, err := lila.Controls.PutCalendar(t.Context(), "more", []byte(text)); err == nil ||
				!strings.Contains(err.Error(), want) {
				t.Errorf("want %q, got %v", want, err)
			}
		}
		if err := lila.Controls.DeleteCalendar(t.Context(), "holidays"); err == nil ||
			!strings.Contains(err.Error(), "Month of the districts") {
			t.Errorf("a calendar in use was deleted: %v", err)
		}
		event := func(lines string) []byte {
			return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:x\r\n" +
				"DTSTAMP:20260101T000000Z\r\nSUMMARY:Off\r\n" + lines + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
		}
		// The days of an event are those of its own zone; in UTC, those of the service's.
		for lines, want := range map[string]string{
			"DTSTART;VALUE=DATE:20261225":                                                                "2026-12-25",
			"DTSTART:20261224T230000Z\r\nDTEND:20261225T230000Z":                                         "2026-12-25",
			"DTSTART;TZID=America/Chicago:20261224T200000\r\nDTEND;TZID=America/Chicago:20261224T230000": "2026-12-24",
			"DTSTART:20261225T000000\r\nDTEND:20261226T000000":                                           "2026-12-25",
		} {
			c, err := lila.Controls.PutCalendar(t.Context(), "zones", event(lines))
			if err != nil || len(c.Days) != 1 || c.Days[0].String() != want {
				t.Errorf("%s: %v, %v; want %s", lines, c.Days, err, want)
			}
		}
		for _, lines := range []string{"DTSTART:20261224T230000Z\r\nRRULE:FREQ=SECONDLY",
			"DTSTART:20261224T230000Z\r\nRRULE:FREQ=DAILY;BYHOUR=1,2,3",
			"DTSTART;VALUE=DATE:20260101\r\nDTEND;VALUE=DATE:20960101"} {
			if _, err := lila.Controls.PutCalendar(t.Context(), "zones", event(lines)); err == nil {
				t.Errorf("%s was taken", lines)
			}
		}
		if err := lila.Controls.DeleteCalendar(t.Context(), "zones"); err != nil {
			t.Error(err)
		}
		// A further day off moves what is due.
		all, err := lila.Controls.Calendars(t.Context())
		if err != nil || len(all) != 1 || !slices.IsSorted(all[0].Days) {
			t.Fatalf("%v, %v", all, err)
		}
		more := strings.Replace(all[0].Text, "END:VCALENDAR",
			"BEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:20261028\r\n"+
				"DTEND;VALUE=DATE:20261030\r\nSUMMARY:Stock-taking\r\nEND:VEVENT\r\nEND:VCALENDAR", 1)
		if _, err := lila.Controls.PutCalendar(t.Context(), "holidays", []byte(more)); err != nil {
			t.Fatal(err)
		}
		table, err := lila.Controls.Timetable(t.Context(), 1)
		if err != nil || !table.Due[0].Next.Equal(time.Date(2026, 10, 27, 18, 0, 0, 0, librarytest.Berlin)) {
			t.Errorf("due on %v, %v", table.Due[0].Next, err)
		}
	})
}
