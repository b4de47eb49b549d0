package period

import (
	"strings"
	"testing"
	"time"
)

func day(t *testing.T, text string) Day {
	t.Helper()
	d, err := ParseDay(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func TestParseRange(t *testing.T) {
	cases := []struct{ today, text, want string }{
		{"2026-10-15", "today", "2026-10-15/2026-10-15"},
		{"2026-10-15", " Last  MONTH ", "2026-09-01/2026-09-30"},
		{"2026-01-31", "last month", "2025-12-01/2025-12-31"},
		{"2026-01-31", "next month", "2026-02-01/2026-02-28"},
		{"2024-01-31", "next month", "2024-02-01/2024-02-29"},
		{"2026-10-15", "this quarter", "2026-10-01/2026-12-31"},
		{"2026-10-15", "last quarter", "2026-07-01/2026-09-30"},
		{"2026-02-15", "last quarter", "2025-10-01/2025-12-31"},
		{"2026-10-15", "last year", "2025-01-01/2025-12-31"},
		{"2026-10-15", "this fiscal year", "2026-04-01/2027-03-31"},
		{"2026-03-31", "this fiscal year", "2025-04-01/2026-03-31"},
		{"2026-03-31", "last fiscal year", "2024-04-01/2025-03-31"},
		{"2026-10-15", "fiscal year to date", "2026-04-01/2026-10-15"},
		{"2026-10-15", "this week", "2026-10-12/2026-10-18"},
		{"2026-10-18", "this week", "2026-10-12/2026-10-18"},
		{"2026-10-12", "last week", "2026-10-05/2026-10-11"},
		{"2026-10-15", "week to date", "2026-10-12/2026-10-15"},
		{"2026-10-15", "month to date", "2026-10-01/2026-10-15"},
		{"2026-10-15", "last 90 days", "2026-07-17/2026-10-14"},
		{"2026-10-15", "last 1 day", "2026-10-14/2026-10-14"},
		{"2026-10-15", "last 12 months", "2025-10-01/2026-09-30"},
		{"2026-10-15", "next 2 weeks", "2026-10-19/2026-11-01"},
		{"2026-10-15", "next 12 months", "2026-11-01/2027-10-31"},
		{"2026-10-15", "2026-09", "2026-09-01/2026-09-30"},
		{"2026-10-15", "2024-02", "2024-02-01/2024-02-29"},
		{"2026-10-15", "2026-Q3", "2026-07-01/2026-09-30"},
		{"2026-10-15", "2026-W01", "2025-12-29/2026-01-04"},
		{"2026-10-15", "2026-W53", "2026-12-28/2027-01-03"},
		{"2026-10-15", "2020-w53", "2020-12-28/2021-01-03"},
		{"2026-10-15", "2026", "2026-01-01/2026-12-31"},
		{"2026-10-15", "2025/26", "2025-04-01/2026-03-31"},
		{"2026-10-15", "1999/00", "1999-04-01/2000-03-31"},
		{"2026-10-15", "2026-02-28", "2026-02-28/2026-02-28"},
		{"2026-10-15", "2026-01-15/2026-03-31", "2026-01-15/2026-03-31"},
		{"2026-10-15", "2026-Q1/2026-Q3", "2026-01-01/2026-09-30"},
		{"2026-10-15", "2026-01-15/P3M", "2026-01-15/2026-04-14"},
		{"2026-10-15", "2024-01-31/P1M", "2024-01-31/2024-02-28"},
		{"2026-10-15", "P2W/today", "2026-10-02/2026-10-15"},
		{"2026-10-15", "2026-04/yesterday", "2026-04-01/2026-10-14"},
	}
	for _, c := range cases {
		calendar := Calendar{Today: day(t, c.today), FiscalStart: time.April}
		got, err := calendar.ParseRange(c.text)
		if err != nil || got.String() != c.want {
			t.Errorf("on %s, %q: got %v, %v; want %s", c.today, c.text, got, err, c.want)
		}
	}
}

func TestParseRangeRefuses(t *testing.T) {
	calendar := Calendar{Today: day(t, "2026-10-15")}
	for text, says := range map[string]string{
		"":                      "no days are given",
		"2026-02-30":            "February 2026 has 28 days",
		"2026-13":               "no month 2026-13",
		"2026-Q5":               "no quarter 2026-Q5",
		"2025-W53":              "no week 53 in 2025",
		"2025/27":               "not a fiscal year",
		"2026-03-31/2026-01-15": "lies before the start",
		"last 0 days":           "not a range",
		"last 99999 days":       "not a range",
		"some time":             "not a range",
		"P1M/P2M":               "duration at both ends",
		"1700":                  "outside the years",
		"2026-01-01/":           "not a day",
	} {
		if got, err := calendar.ParseRange(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: got %v, %v; want an error with %q", text, got, err, says)
		}
	}
}

func TestParseDayExpressions(t *testing.T) {
	calendar := Calendar{Today: day(t, "2026-10-15")}
	for text, want := range map[string]string{
		"2026-09-30": "2026-09-30", "today": "2026-10-15", "Tomorrow": "2026-10-16", "month end": "2026-10-31",
		"quarter start":   "2026-10-01",
		"today - 14 days": "2026-10-01", "today + 1 month": "2026-11-15", "month end - 1 month": "2026-09-30",
		"2024-02-29 + 1 year": "2025-02-28", "week start": "2026-10-12",
	} {
		if got, err := calendar.ParseDay(text); err != nil || got.String() != want {
			t.Errorf("%q: got %v, %v; want %s", text, got, err, want)
		}
	}
	for _, text := range []string{"last month", "2026-9-1", "2026-04-31", "today - many days", ""} {
		if got, err := calendar.ParseDay(text); err == nil {
			t.Errorf("%q was read as %v", text, got)
		}
	}
}

func TestDayOfAnInstantIsTheZones(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	for instant, want := range map[string]string{
		"2026-03-28T23:30:00Z": "2026-03-29", // an hour before the clocks go forward
		"2026-10-24T21:59:00Z": "2026-10-24",
		"2026-10-24T22:00:00Z": "2026-10-25",
		"2026-10-25T23:30:00Z": "2026-10-26", // after they went back, midnight is at 23:00
	} {
		at, err := time.Parse(time.RFC3339, instant)
		if err != nil {
			t.Fatal(err)
		}
		if got := At(at, berlin, 0).Today.String(); got != want {
			t.Errorf("%s: got %s, want %s", instant, got, want)
		}
	}
}

func TestLong(t *testing.T) {
	for text, want := range map[string]string{
		"2026-09":               "1–30 September 2026",
		"2026-Q3":               "1 July – 30 September 2026",
		"2025-12-30/2026-01-04": "30 December 2025 – 4 January 2026",
		"2026-09-30":            "30 September 2026",
	} {
		r, err := Calendar{}.ParseRange(text)
		if err != nil || r.Long() != want {
			t.Errorf("%s: got %q, %v; want %q", text, r.Long(), err, want)
		}
	}
}

func TestExceeds(t *testing.T) {
	for _, c := range []struct {
		days, span string
		want       bool
	}{{"2026-01-01/2026-12-31", "1 year", false}, {"2026-01-01/2027-01-01", "1 year", true},
		{"2024-02-01/2024-02-29", "29 days", false}, {"2026-01-31/2026-03-01", "1 month", true}} {
		r, err := Calendar{}.ParseRange(c.days)
		if err != nil {
			t.Fatal(err)
		}
		n, u, err := ParseSpan(c.span)
		if err != nil || r.Exceeds(n, u) != c.want {
			t.Errorf("%s longer than %s: want %v, %v", c.days, c.span, c.want, err)
		}
	}
}

func TestPresetsResolve(t *testing.T) {
	c := Calendar{Today: day(t, "2026-10-15"), FiscalStart: time.July}
	for _, p := range c.Presets() {
		if again, err := c.ParseRange(p.Name); err != nil || again != p.Range {
			t.Errorf("%s: offered as %v, read as %v, %v", p.Name, p.Range, again, err)
		}
	}
}

// FuzzParseRange checks that a range that is read is in order and reads back.
func FuzzParseRange(f *testing.F) {
	for _, seed := range []string{"last month", "2026-W53", "2025/26", "P1M/today", "2026-01-15/P3M", "next 10000 years",
		"today - 3 days/month end"} {
		f.Add(seed)
	}
	c := Calendar{Today: Date(2026, 10, 15), FiscalStart: time.April}
	f.Fuzz(func(t *testing.T, text string) {
		r, err := c.ParseRange(text)
		if err != nil {
			return
		}
		if back, err := c.ParseRange(r.String()); err != nil || back != r || r.Last < r.First {
			t.Errorf("%q is %v, which reads back as %v, %v", text, r, back, err)
		}
	})
}
