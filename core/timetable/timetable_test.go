package timetable

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/core/period"
)

func plan(t *testing.T, table Timetable) *Plan {
	t.Helper()
	if table.Zone == "" {
		table.Zone = "Europe/Berlin"
	}
	p, err := table.Check()
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func day(t *testing.T, text string) period.Day {
	t.Helper()
	d, err := period.ParseDay(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func TestNext(t *testing.T) {
	christmas := Off([]period.Day{day(t, "2026-12-24"), day(t, "2026-12-25"), day(t, "2026-12-31"), day(t, "2027-01-01")})
	for _, c := range []struct {
		table Timetable
		after string
		off   DaysOff
		want  string
	}{
		{Timetable{Rule: "FREQ=DAILY", At: 390}, "2026-10-15 06:30", Weekend,
			"2026-10-16 06:30 +0200; 2026-10-17 06:30 +0200"},
		{Timetable{Rule: "FREQ=DAILY", At: 390}, "2026-10-15 06:29", Weekend,
			"2026-10-15 06:30 +0200; 2026-10-16 06:30 +0200"},
		{Timetable{Rule: "FREQ=WEEKLY;BYDAY=MO,TH", At: 0}, "2026-10-15 06:30", Weekend,
			"2026-10-19 00:00 +0200; 2026-10-22 00:00 +0200"},
		{Timetable{Rule: "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", At: 1080}, "2026-10-15 00:00", Weekend,
			"2026-10-30 18:00 +0100; 2026-11-30 18:00 +0100; 2026-12-31 18:00 +0100"},
		{Timetable{Rule: "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", At: 1080}, "2026-12-01 00:00", christmas,
			"2026-12-30 18:00 +0100; 2027-01-29 18:00 +0100"},
		{Timetable{Rule: "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=3", At: 480}, "2026-12-01 09:00", christmas,
			"2026-12-03 08:00 +0100; 2027-01-06 08:00 +0100"},
		{Timetable{Rule: "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYMONTH=1,4,7,10;BYSETPOS=5", At: 480}, "2026-10-15 09:00",
			Weekend, "2027-01-07 08:00 +0100; 2027-04-07 08:00 +0200"},
		{Timetable{Rule: "FREQ=MONTHLY;INTERVAL=3;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=2", At: 480}, "2026-10-15 09:00", Weekend,
			"2027-01-04 08:00 +0100; 2027-04-02 08:00 +0200"},
		{Timetable{Rule: "FREQ=MONTHLY;BYMONTHDAY=31", At: 480}, "2026-10-15 09:00", Weekend,
			"2026-10-31 08:00 +0100; 2026-12-31 08:00 +0100"},
		{Timetable{Rule: "FREQ=MONTHLY;BYMONTHDAY=31", At: 480, OffDay: "previous"}, "2026-10-15 09:00", Weekend,
			"2026-10-30 08:00 +0100; 2026-12-31 08:00 +0100"},
		{Timetable{Rule: "FREQ=MONTHLY;BYMONTHDAY=31", At: 480, OffDay: "next"}, "2026-10-15 09:00", Weekend,
			"2026-11-02 08:00 +0100; 2026-12-31 08:00 +0100"},
		{Timetable{Rule: "FREQ=MONTHLY;BYMONTHDAY=31", At: 480, OffDay: "skip"}, "2026-10-15 09:00", Weekend,
			"2026-12-31 08:00 +0100; 2027-03-31 08:00 +0200"},
		{Timetable{Rule: "FREQ=MONTHLY;BYDAY=-1FR", At: 480}, "2026-10-15 09:00", Weekend,
			"2026-10-30 08:00 +0100; 2026-11-27 08:00 +0100"},
		{Timetable{Rule: "FREQ=YEARLY;BYMONTH=4;BYMONTHDAY=1", At: 480}, "2026-10-15 09:00", Weekend,
			"2027-04-01 08:00 +0200"},
		{Timetable{Rule: "FREQ=DAILY", At: 480, Until: day(t, "2026-10-16"), Except: []period.Day{day(t, "2026-10-15")}},
			"2026-10-14 09:00", Weekend, "2026-10-16 08:00 +0200"},
		// Clocks go forward at 2 and back at 3 o'clock.
		{Timetable{Rule: "FREQ=DAILY", At: 150}, "2026-03-27 12:00", Weekend,
			"2026-03-28 02:30 +0100; 2026-03-29 03:30 +0200; 2026-03-30 02:30 +0200"},
		{Timetable{Rule: "FREQ=DAILY", At: 150}, "2026-10-24 00:00", Weekend,
			"2026-10-24 02:30 +0200; 2026-10-25 02:30 +0200; 2026-10-26 02:30 +0100"},
		{Timetable{Rule: "FREQ=DAILY", At: 200}, "2026-10-24 12:00", Weekend,
			"2026-10-25 03:20 +0100; 2026-10-26 03:20 +0100"},
		{Timetable{Rule: "FREQ=DAILY", At: 150, Zone: "America/New_York"}, "2026-03-07 12:00", Weekend,
			"2026-03-08 03:30 -0400; 2026-03-09 02:30 -0400"},
		{Timetable{Rule: "FREQ=DAILY", At: 30, Zone: "Pacific/Auckland"}, "2026-09-26 12:00", Weekend,
			"2026-09-27 00:30 +1200; 2026-09-28 00:30 +1300"},
	} {
		c.table.Start = day(t, "2026-01-01")
		p := plan(t, c.table)
		after, err := time.ParseInLocation("2006-01-02 15:04", c.after, p.zone)
		if err != nil {
			t.Fatal(err)
		}
		n := strings.Count(c.want, ";") + 1
		var got []string
		for _, m := range p.Next(after, c.off, n) {
			got = append(got, m.Format("2006-01-02 15:04 -0700"))
		}
		if strings.Join(got, "; ") != c.want {
			t.Errorf("%s %d %s after %s:\n got %s\nwant %s", c.table.Rule, c.table.At, c.table.OffDay, c.after,
				strings.Join(got, "; "), c.want)
		}
	}
}

// TestEveryMomentOnce walks from each moment to the next over more than a year of
// changing clocks: no day is left out and none comes twice.
func TestEveryMomentOnce(t *testing.T) {
	for _, zone := range []string{"Europe/Berlin", "America/New_York", "Australia/Lord_Howe", "UTC", "America/Sao_Paulo"} {
		for _, at := range []int{0, 30, 90, 120, 150, 179, 180, 1439} {
			p := plan(t, Timetable{Rule: "FREQ=DAILY", Start: day(t, "2025-01-01"), At: at, Zone: zone})
			now := time.Date(2025, 1, 10, 0, 0, 0, 0, p.zone)
			days := map[string]bool{}
			for range 480 {
				next := p.Next(now, Weekend, 1)
				if len(next) != 1 || !next[0].After(now) || next[0].Sub(now) > 26*time.Hour {
					t.Fatalf("%s at %d: after %s comes %v", zone, at, now, next)
				}
				now = next[0]
				key := now.Format("2006-01-02")
				if days[key] {
					t.Fatalf("%s at %d: %s comes twice", zone, at, key)
				}
				days[key] = true
			}
		}
	}
}

func TestRefusals(t *testing.T) {
	for _, c := range []struct {
		table Timetable
		part  string
	}{
		{Timetable{Rule: "every day"}, "rule"}, {Timetable{Rule: "FREQ=HOURLY"}, "rule"},
		{Timetable{Rule: "FREQ=DAILY;BYHOUR=7"}, "rule"},
		{Timetable{Rule: "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1"}, "rule"},
		{Timetable{Rule: "FREQ=DAILY", Zone: "Mars/Base"}, "zone"},
		{Timetable{Rule: "FREQ=DAILY", At: 1440}, "at"}, {Timetable{Rule: "FREQ=DAILY", Start: 20000, Until: 19000}, "until"},
		{Timetable{Rule: "FREQ=DAILY", OffDay: "perhaps"}, "off_day"},
		{Timetable{Rule: "FREQ=DAILY", Missed: "perhaps"}, "missed"},
	} {
		if c.table.Zone == "" {
			c.table.Zone = "Europe/Berlin"
		}
		_, err := c.table.Check()
		part, ok := err.(*Part)
		if !ok || part.Name != c.part {
			t.Errorf("%+v: %v", c.table, err)
		}
	}
}

func TestARuleThatIsNeverDueEnds(t *testing.T) {
	p := plan(t, Timetable{Rule: "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", Start: day(t, "2026-01-01")})
	if got := p.Next(time.Now(), Weekend, 1); len(got) != 0 {
		t.Errorf("got %v", got)
	}
	p = plan(t, Timetable{Rule: "FREQ=DAILY", Start: day(t, "2026-01-01"), OffDay: "next"})
	if got := p.Next(time.Now(), func(period.Day) bool { return true }, 1); len(got) != 0 {
		t.Errorf("when nobody ever works: %v", got)
	}
}

func TestSay(t *testing.T) {
	for rule, want := range map[string]string{
		"FREQ=DAILY": "every day", "FREQ=DAILY;INTERVAL=2": "every 2 days",
		"FREQ=WEEKLY;BYDAY=MO,TH":                       "every week on Monday and Thursday",
		"FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR":              "every weekday",
		"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1": "the last working day of the month",
		"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=3":  "the third working day of the month",
		"FREQ=MONTHLY;BYMONTHDAY=-1":                    "the last day of the month",
		"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYMONTH=1,4,7,10;BYSETPOS=5": "the fifth working day of the month after each " +
			"quarter",
		"FREQ=MONTHLY;BYMONTHDAY=5": "day 5 of the month", "FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=5": "day 5 of every 3rd month",
		"FREQ=MONTHLY;BYDAY=-1FR":            "the last Friday of the month",
		"FREQ=MONTHLY;BYDAY=2TU":             "the second Tuesday of the month",
		"FREQ=YEARLY;BYMONTH=4;BYMONTHDAY=1": "every year on 1 April", "FREQ=YEARLY;BYWEEKNO=20": "FREQ=YEARLY;BYWEEKNO=20",
	} {
		if got := Say(rule); got != want {
			t.Errorf("%s: got %q, want %q", rule, got, want)
		}
	}
}

func ExamplePlan_Next() {
	p, err := Timetable{
		Rule:  "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1",
		Start: period.Date(2026, 10, 1),
		At:    18 * 60,
		Zone:  "Europe/Berlin",
	}.Check()
	if err != nil {
		panic(err)
	}
	for _, m := range p.Next(time.Date(2026, 10, 15, 0, 0, 0, 0, time.UTC), Weekend, 2) {
		fmt.Println(m.Format("Mon 2 Jan 2006 15:04"))
	}
	// Output:
	// Fri 30 Oct 2026 18:00
	// Mon 30 Nov 2026 18:00
}
