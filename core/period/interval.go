package period

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"time"
)

// Interval is the time from From up to, but not including, To.
type Interval struct{ From, To time.Time }

const instant = "2006-01-02T15:04:05.999Z"

// String writes the interval as an ISO 8601 interval in UTC, to the
// millisecond.
func (i Interval) String() string {
	return i.From.UTC().Format(instant) + "/" + i.To.UTC().Format(instant)
}

// MarshalJSON writes both ends in UTC: RFC 3339 has offsets of whole minutes only,
// which the local mean times of earlier centuries are not.
func (i Interval) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct{ From, To time.Time }{i.From.UTC(), i.To.UTC()})
}

// Long writes the interval as people in the calendar's zone say it, leaving
// out what both ends share: 14 October 2026 06:00–14:00.
func (c Calendar) Long(i Interval) string {
	from, to := i.From.In(c.zone()), i.To.In(c.zone())
	const day, hour = "2 January 2006", "15:04"
	midnight := func(t time.Time) bool { return t.Equal(startOf(DayOf(t, c.zone()), c.zone())) }
	first, last := DayOf(from, c.zone()), DayOf(to, c.zone())
	switch {
	case midnight(from) && midnight(to):
		return Range{first, last - 1}.Long()
	case first == last:
		return from.Format(day+" "+hour) + "–" + to.Format(hour)
	}
	return from.Format(day+" "+hour) + " – " + to.Format(day+" "+hour)
}

func (c Calendar) zone() *time.Location {
	if c.Zone == nil {
		return time.UTC
	}
	return c.Zone
}

// startOf is the first instant of a local day, which is not midnight where the
// clocks skip it.
func startOf(d Day, zone *time.Location) time.Time {
	y, m, day := d.Time().Date()
	t := time.Date(y, m, day, 0, 0, 0, 0, zone)
	if DayOf(t, zone) < d { // midnight was skipped and resolved to the day before
		t = time.Date(y, m, day, 1, 0, 0, 0, zone)
	}
	return t
}

// Interval returns the time that a range of local days takes: 23 or 25 hours
// for a day on which the clocks change.
func (c Calendar) Interval(r Range) Interval {
	return Interval{startOf(r.First, c.zone()), startOf(r.Last+1, c.zone())}
}

// spaced writes one space between words; an underscore stands for a space, which
// command lines would want quotes for.
func spaced(text string) string {
	return strings.Join(strings.Fields(strings.ReplaceAll(text, "_", " ")), " ")
}

const sinceLastRun = "since last run"

// isSince tells whether a text begins at the last run, with something to fall
// back on or without.
func isSince(t string) bool { return t == sinceLastRun || strings.HasPrefix(t, sinceLastRun+" or ") }

// beforeFirst returns what stands for "since last run or ..." as long as there
// was no run.
func (c Calendar) beforeFirst(t string) (rest string, ok bool) {
	rest, ok = strings.CutPrefix(t, sinceLastRun+" or ")
	return rest, ok && c.Last.At.IsZero()
}

func (c Calendar) hasLast() error {
	if c.Last.At.IsZero() {
		return fmt.Errorf("there is no earlier run to begin at; write days such as last month, and since last run from the " +
			"next time on")
	}
	return nil
}

// ParseInterval resolves what a person wrote for an interval of time: what
// [Calendar.ParseRange] reads, meaning whole local days, and
//
//	2026-10-14 06:00/2026-10-15 14:00    local times, T or a space between
//	2026-10-14 06:00/14:00               on the same day
//	2026-10-14 06:00/now
//	2026-10-14T04:00:00Z/2026-10-14T12:00:00Z
//	since last run                       from the instant of the calendar's Last to now
//
// A local time that the clocks skip is an error; one that comes twice is the
// first of the two unless its offset is written.
func (c Calendar) ParseInterval(text string) (Interval, error) {
	t := spaced(text)
	if rest, ok := c.beforeFirst(strings.ToLower(t)); ok {
		return c.ParseInterval(rest)
	}
	if isSince(strings.ToLower(t)) {
		return Interval{c.Last.At, c.Now}, c.hasLast()
	}
	from, to, two := strings.Cut(t, "/")
	if !timed.MatchString(t) || !two {
		r, err := c.ParseRange(text)
		if err != nil {
			if timed.MatchString(t) {
				err = fmt.Errorf("%q has one end; write both, as in 2026-10-14 06:00/14:00", t)
			}
			return Interval{}, err
		}
		return c.Interval(r), nil
	}
	a, err := c.parseMoment(strings.TrimSpace(from), "", false)
	if err != nil {
		return Interval{}, err
	}
	b, err := c.parseMoment(strings.TrimSpace(to), DayOf(a, c.zone()).String(), true)
	if err != nil {
		return Interval{}, err
	}
	if !b.After(a) {
		return Interval{},
			fmt.Errorf("the end %s does not lie after the start %s", b.In(c.zone()).Format("2 January 2006 15:04"),
				a.In(c.zone()).Format("2 January 2006 15:04"))
	}
	return Interval{a, b}, nil
}

var (
	timed    = regexp.MustCompile(`(?i)\d{1,2}:\d{2}|\bnow\b`)
	dayTime  = regexp.MustCompile(`^(.+?)[Tt ](\d{1,2}:\d{2}(?::\d{2})?)$`)
	timeOnly = regexp.MustCompile(`^\d{1,2}:\d{2}(:\d{2})?$`)
)

// parseMoment reads one end. Day is meant where only a time is written; a day
// alone is its start, or its end at the end of an interval.
func (c Calendar) parseMoment(t, day string, end bool) (time.Time, error) {
	if strings.EqualFold(t, "now") {
		return c.Now, nil
	}
	if at, err := time.Parse(time.RFC3339Nano, strings.ToUpper(t)); err == nil {
		return at, nil
	}
	if !timed.MatchString(t) {
		d, err := c.ParseDay(t)
		if err != nil {
			return time.Time{}, err
		}
		if end {
			d++
		}
		return startOf(d, c.zone()), nil
	}
	if day != "" && timeOnly.MatchString(t) {
		t = day + " " + t
	}
	m := dayTime.FindStringSubmatch(t)
	if m == nil {
		return time.Time{}, fmt.Errorf("%q is not a time; write it as 2026-10-14 06:00", t)
	}
	d, err := c.ParseDay(m[1])
	if err != nil {
		return time.Time{}, fmt.Errorf("%q is not a time; write it as 2026-10-14 06:00", t)
	}
	return c.local(d, m[2])
}

// local is the instant of a time of a local day.
func (c Calendar) local(d Day, clock string) (time.Time, error) {
	if clock == "24:00" { // the end of the day, as in ISO 8601
		return startOf(d+1, c.zone()), nil
	}
	var of time.Time
	var err error
	for _, layout := range []string{"15:04", "15:04:05"} {
		if of, err = time.Parse(layout, clock); err == nil {
			break
		}
	}
	if err != nil {
		return of, fmt.Errorf("%q is not a time of day; write it as 06:00", clock)
	}
	y, m, day := d.Time().Date()
	at := time.Date(y, m, day, of.Hour(), of.Minute(), of.Second(), 0, c.zone())
	if at.Hour() != of.Hour() || at.Minute() != of.Minute() {
		return at, fmt.Errorf("the clocks skip %s on %s; the time after it is %s", clock, d.Long(),
			at.Add(time.Hour).Truncate(time.Hour).Format("15:04"))
	}
	if earlier := at.Add(-time.Hour); earlier.Hour() == at.Hour() { // the hour comes twice; take the first
		at = earlier
	}
	return at, nil
}
