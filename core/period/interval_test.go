package period

import (
	"strings"
	"testing"
	"time"
)

// inZone is the calendar of a day at noon in a zone.
func inZone(t testing.TB, zone, today string) Calendar {
	t.Helper()
	z, err := time.LoadLocation(zone)
	if err != nil {
		t.Fatal(err)
	}
	d, err := ParseDay(today)
	if err != nil {
		t.Fatal(err)
	}
	y, m, day := d.Time().Date()
	return At(time.Date(y, m, day, 12, 0, 0, 0, z), z, time.April)
}

func TestParseInterval(t *testing.T) {
	c := inZone(t, "Europe/Berlin", "2026-10-15")
	c.Last = Last{At: time.Date(2026, 10, 14, 7, 30, 0, 250e6, time.UTC), Of: "your last good run"}
	for text, want := range map[string]string{
		"2026-10-14 06:00/2026-10-15 14:00":         "2026-10-14T04:00:00Z/2026-10-15T12:00:00Z",
		"2026-10-14 06:00/14:30":                    "2026-10-14T04:00:00Z/2026-10-14T12:30:00Z",
		"2026-10-14T06:00/2026-10-14T06:00:30":      "2026-10-14T04:00:00Z/2026-10-14T04:00:30Z",
		"2026-10-14T04:00:00Z/2026-10-14T12:00:00Z": "2026-10-14T04:00:00Z/2026-10-14T12:00:00Z",
		"yesterday 06:00/now":                       "2026-10-14T04:00:00Z/2026-10-15T10:00:00Z",
		"2026-10-14 22:00/2026-10-14":               "2026-10-14T20:00:00Z/2026-10-14T22:00:00Z",
		"2026-10-25 00:00/24:00":                    "2026-10-24T22:00:00Z/2026-10-25T23:00:00Z",
		"last month":                                "2026-08-31T22:00:00Z/2026-09-30T22:00:00Z",
		"today":                                     "2026-10-14T22:00:00Z/2026-10-15T22:00:00Z",
		"Since last run":                            "2026-10-14T07:30:00.25Z/2026-10-15T10:00:00Z",
		"since last run or last 7 days":             "2026-10-14T07:30:00.25Z/2026-10-15T10:00:00Z",
		// The day on which the clocks go back has 25 hours, and 02:30 comes twice.
		"2026-10-25":                                       "2026-10-24T22:00:00Z/2026-10-25T23:00:00Z",
		"2026-10-25 02:30/2026-10-25 03:00":                "2026-10-25T00:30:00Z/2026-10-25T02:00:00Z",
		"2026-10-25T02:30:00+01:00/2026-10-25 03:00":       "2026-10-25T01:30:00Z/2026-10-25T02:00:00Z",
		"2026-03-29":                                       "2026-03-28T23:00:00Z/2026-03-29T22:00:00Z",
		"2026-03-29 01:59/03:00":                           "2026-03-29T00:59:00Z/2026-03-29T01:00:00Z",
		"2024-02-29 00:00/2024-02-29":                      "2024-02-28T23:00:00Z/2024-02-29T23:00:00Z",
		"2026-10-14T07:30:00.25Z/2026-10-15T10:00:00.001Z": "2026-10-14T07:30:00.25Z/2026-10-15T10:00:00.001Z",
	} {
		i, err := c.ParseInterval(text)
		if err != nil || i.String() != want {
			t.Errorf("%q: got %v, %v; want %s", text, i, err, want)
			continue
		}
		if again, err := c.ParseInterval(i.String()); err != nil || !again.From.Equal(i.From) || !again.To.Equal(i.To) {
			t.Errorf("%q reads back as %v, %v", text, again, err)
		}
	}
}

func TestParseIntervalRefuses(t *testing.T) {
	c := inZone(t, "Europe/Berlin", "2026-10-15")
	for text, says := range map[string]string{
		"2026-03-29 02:30/04:00":            "the clocks skip 02:30 on 29 March 2026; the time after it is",
		"2026-10-14 14:00/06:00":            "does not lie after the start",
		"2026-10-14 14:00/14:00":            "does not lie after the start",
		"2026-10-14 25:00/2026-10-15":       `"25:00" is not a time of day`,
		"2026-10-14 06:00":                  "has one end",
		"2026-02-30 06:00/07:00":            "is not a time",
		"since last run":                    "there is no earlier run to begin at",
		"since last run or some time":       "is not a range",
		"2026-10-14 06:00/2026-13-01 07:00": "is not a time",
	} {
		if got, err := c.ParseInterval(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: got %v, %v; want an error with %q", text, got, err, says)
		}
	}
}

// In some zones the clocks change at midnight: the day begins at one.
func TestDayWithoutMidnight(t *testing.T) {
	c := inZone(t, "Africa/Cairo", "2024-05-01")
	i, err := c.ParseInterval("2024-04-26")
	if err != nil || i.String() != "2024-04-25T22:00:00Z/2024-04-26T21:00:00Z" {
		t.Errorf("got %v, %v", i, err)
	}
}

func TestLongInterval(t *testing.T) {
	c := inZone(t, "Europe/Berlin", "2026-10-15")
	for text, want := range map[string]string{
		"2026-10-14 06:00/14:00":            "14 October 2026 06:00–14:00",
		"2026-10-14 06:00/2026-10-15 14:00": "14 October 2026 06:00 – 15 October 2026 14:00",
		"2026-10-01/2026-10-15":             "1–15 October 2026",
		"2026-10-25":                        "25 October 2026",
	} {
		i, err := c.ParseInterval(text)
		if err != nil || c.Long(i) != want {
			t.Errorf("%q: %q, %v; want %q", text, c.Long(i), err, want)
		}
	}
}

func TestSinceLastRunInDays(t *testing.T) {
	c := inZone(t, "Europe/Berlin", "2026-10-15")
	if r, err := c.ParseRange("since last run or last 7 days"); err != nil || r.String() != "2026-10-08/2026-10-14" {
		t.Errorf("without a run: %v, %v", r, err)
	}
	c.Last.At = time.Date(2026, 10, 9, 22, 30, 0, 0, time.UTC) // half past midnight on the 10th
	if r, err := c.ParseRange("since last run or last 7 days"); err != nil || r.String() != "2026-10-10/2026-10-15" {
		t.Errorf("with a run: %v, %v", r, err)
	}
}

func TestParsePeriod(t *testing.T) {
	c := inZone(t, "UTC", "2026-10-15")
	for _, c2 := range []struct {
		grain      Unit
		text, want string
		long       string
	}{
		{Months, "last month", "2026-09", "September 2026"},
		{Months, "2026-q3", "2026-Q3", "quarter 3 of 2026"},
		{Months, "2025/26", "2025/26", "fiscal year 2025/26"},
		{Months, "this fiscal year", "2026/27", "fiscal year 2026/27"},
		{Days, "2024-02-29", "2024-02-29", "29 February 2024"},
		{Days, "today", "2026-10-15", "15 October 2026"},
		{Days, "2026-W53", "2026-W53", "week 53 of 2026"},
		{Weeks, "last week", "2026-W41", "week 41 of 2026"},
		{Quarters, "2026", "2026", "2026"},
	} {
		p, err := c.ParsePeriod(c2.text, c2.grain)
		if err != nil || p.String() != c2.want || p.Long() != c2.long {
			t.Errorf("%s: got %v %q, %v; want %s %q", c2.text, p, p.Long(), err, c2.want, c2.long)
			continue
		}
		if again, err := c.ParsePeriod(p.String(), c2.grain); err != nil || again != p {
			t.Errorf("%s reads back as %v, %v", p, again, err)
		}
	}
	for _, c2 := range []struct {
		grain      Unit
		text, says string
	}{
		{Months, "2026-W36", "is a week, and the data has one figure a month; write a period such as 2026-09 or last month"},
		{Months, "yesterday", "is a day"},
		{Quarters, "2026-09", "is a month"},
		{Weeks, "2026-09", "is a month, and the data has one figure a week"},
		{Months, "2026-13", "there is no month"},
		{Months, "last 3 months", "is not a period"},
	} {
		if p, err := c.ParsePeriod(c2.text, c2.grain); err == nil || !strings.Contains(err.Error(), c2.says) {
			t.Errorf("%s at %s: got %v, %v; want %q", c2.text, c2.grain, p, err, c2.says)
		}
	}
}

func TestPeriodsAreOfTheGrainOrCoarser(t *testing.T) {
	c := inZone(t, "UTC", "2026-10-15")
	for grain := range coarser {
		for _, p := range c.Periods(grain) {
			if again, err := c.ParsePeriod(p.Name, grain); err != nil || again.Range != p.Range {
				t.Errorf("%s offers %s, which is %v, %v", grain, p.Name, again, err)
			}
		}
	}
}

func TestParseCompared(t *testing.T) {
	c := inZone(t, "UTC", "2026-10-15")
	for text, want := range map[string]string{
		"last month":                                              "",
		"last month against previous period":                      "2026-08-01/2026-08-31",
		"2026-Q3 against previous period and year before":         "2026-04-01/2026-06-30 2025-07-01/2025-09-30",
		"2026-01/2026-02 against previous period":                 "2025-11-01/2025-12-31",
		"2026-03-10/2026-03-16 against previous period":           "2026-03-03/2026-03-09",
		"2026-W10 against previous period":                        "2026-02-23/2026-03-01",
		"2025-02 against year before":                             "2024-02-01/2024-02-29",
		"2024-02-29 against year before":                          "2023-02-28/2023-02-28",
		"year to date against year before and 2 years before":     "2025-01-01/2025-10-15 2024-01-01/2024-10-15",
		"2025/26 against previous period":                         "2024-04-01/2025-03-31",
		"2026-09 against 2019-09 and 2018-01-01/2018-12-31":       "2019-09-01/2019-09-30 2018-01-01/2018-12-31",
		"2026-10-01/2026-10-15 against PREVIOUS  period and 2024": "2026-09-16/2026-09-30 2024-01-01/2024-12-31",
	} {
		_, companions, err := c.ParseCompared(text)
		var got []string
		for _, o := range companions {
			got = append(got, o.Range.String())
		}
		if err != nil || strings.Join(got, " ") != want {
			t.Errorf("%q: got %q, %v; want %q", text, got, err, want)
		}
	}
	for text, says := range map[string]string{
		"last month against":                          "is not a range",
		"last month against year before and 2 and 3":  "3 companions are given; at most 2",
		"last month against some time":                "or as previous period",
		"2026-09 against year before and 2025-09":     "are the same days",
		"2026-02-30 against previous period":          "February 2026 has 28 days",
		"last month against previous period and 2026": "",
	} {
		if _, got, err := c.ParseCompared(text); says == "" && err != nil || says != "" &&
			(err == nil || !strings.Contains(err.Error(), says)) {
			t.Errorf("%q: got %v, %v; want %q", text, got, err, says)
		}
	}
}

// FuzzParseInterval checks that what is read is in order and reads back.
func FuzzParseInterval(f *testing.F) {
	for _, seed := range []string{"2026-10-25 02:30/03:00", "since last run or today", "now/now",
		"2026-03-29 02:30/2026-03-30", "P1M/today", "2026-10-14T04:00:00Z/now"} {
		f.Add(seed)
	}
	c := inZone(f, "Europe/Berlin", "2026-10-15")
	f.Fuzz(func(t *testing.T, text string) {
		i, err := c.ParseInterval(text)
		if err != nil {
			return
		}
		back, err := c.ParseInterval(i.String())
		if err != nil || !i.From.Before(i.To) ||
			!back.From.Truncate(time.Millisecond).Equal(i.From.Truncate(time.Millisecond)) {
			t.Errorf("%q is %v, which reads back as %v, %v", text, i, back, err)
		}
	})
}
