// Package timetable says when something is due: recurrence rules as RFC 5545
// has them, in a zone, less days off and exceptions.
package timetable

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/teambition/rrule-go"

	"mantilla/core/period"
)

// Timetable is when something is due.
type Timetable struct {
	Rule     string       // RRULE of RFC 5545: FREQ=MONTHLY;BYMONTHDAY=3
	Start    period.Day   // first day
	At       int          // minute of the day
	Zone     string       // IANA name
	Until    period.Day   // last day; 0 for no end
	Except   []period.Day // days on which it is not due
	Calendar string       // whose days off count; "" for Saturdays and Sundays alone where the rule speaks of working days
	OffDay   string       // what becomes of a day off: run, skip, next or previous working day
	Missed   string       // what becomes of moments that passed while the service was down: once, all or skip
}

// What can become of a day off and of missed moments.
var (
	OffDays = []string{"run", "skip", "next", "previous"}
	Misses  = []string{"once", "all", "skip"}
)

// DaysOff tells whether nobody works on a day.
type DaysOff func(period.Day) bool

// Plan is a timetable that was read and checked.
type Plan struct {
	Timetable
	rule      *rrule.RRule
	zone      *time.Location
	positions []int // of working days within a period, from 1 or from -1
}

// Part names what of a timetable is wrong.
type Part struct {
	Name string
	Err  error
}

func (p *Part) Error() string { return p.Err.Error() }

func (p *Part) Unwrap() error { return p.Err }

func wrong(name, format string, args ...any) error { return &Part{name, fmt.Errorf(format, args...)} }

// workdays is how a rule speaks of working days.
const workdays = "BYDAY=MO,TU,WE,TH,FR"

// Check reads a timetable, fills in what is left out and says what is wrong.
// The error is a [*Part].
func (t Timetable) Check() (*Plan, error) {
	for _, f := range []struct {
		name  string
		value *string
		known []string
	}{{"off_day", &t.OffDay, OffDays}, {"missed", &t.Missed, Misses}} {
		if *f.value == "" {
			*f.value = f.known[0]
		}
		if !slices.Contains(f.known, *f.value) {
			return nil, wrong(f.name, "%q is none of %s", *f.value, strings.Join(f.known, ", "))
		}
	}
	zone, err := time.LoadLocation(t.Zone)
	if err != nil || t.Zone == "" {
		return nil, wrong("zone", "%q is not an IANA time zone such as Europe/Berlin", t.Zone)
	}
	if t.At < 0 || t.At >= 24*60 {
		return nil, wrong("at", "the time of day is from 00:00 to 23:59")
	}
	if t.Until > 0 && t.Until < t.Start {
		return nil, wrong("until", "the last day, %s, is before the first, %s", t.Until, t.Start)
	}
	text := strings.TrimPrefix(strings.TrimSpace(t.Rule), "RRULE:")
	option, err := rrule.StrToROptionInLocation(text, time.UTC)
	if err != nil {
		return nil, wrong("rule", "%q is not a rule of RFC 5545 such as FREQ=WEEKLY;BYDAY=MO: %w", t.Rule, err)
	}
	if option.Freq > rrule.DAILY {
		return nil, wrong("rule", "a rule is due once a day at most; use FREQ=DAILY, WEEKLY, MONTHLY or YEARLY")
	}
	if len(option.Byhour)+len(option.Byminute)+len(option.Bysecond) > 0 {
		return nil, wrong("rule", "the time of day stands beside the rule, not in it")
	}
	p := &Plan{Timetable: t, zone: zone}
	if len(option.Bysetpos) > 0 && strings.Contains(strings.ToUpper(text), workdays) {
		// Positions count working days, which only the days off tell.
		p.positions, option.Bysetpos = option.Bysetpos, nil
		if option.Freq != rrule.MONTHLY && option.Freq != rrule.YEARLY {
			return nil, wrong("rule", "working days are counted within months or years; use FREQ=MONTHLY or YEARLY")
		}
	}
	option.Dtstart = t.Start.Time()
	if p.positions != nil { // a period is counted from its beginning
		day := t.Start.Time()
		option.Dtstart = time.Date(day.Year(), day.Month(), 1, 0, 0, 0, 0, time.UTC)
		if option.Freq == rrule.YEARLY {
			option.Dtstart = time.Date(day.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
		}
	}
	if p.rule, err = rrule.NewRRule(*option); err != nil {
		return nil, wrong("rule", "%q: %w", t.Rule, err)
	}
	p.Rule = text
	return p, nil
}

// most bounds how many days are looked at for one answer: a rule may never be
// due again.
const most = 20_000

// Next returns the moments after a moment, at most n, in order.
func (p *Plan) Next(after time.Time, off DaysOff, n int) (moments []time.Time) {
	looked := 0
	p.days(period.DayOf(after.In(p.zone), p.zone)-40, off, func(d period.Day) bool {
		m := p.moment(d)
		if m.After(after) && !slices.ContainsFunc(moments, m.Equal) {
			moments = append(moments, m)
		}
		looked++
		return len(moments) < n+4 && looked < most // a moved day may come before one that is not
	})
	slices.SortFunc(moments, time.Time.Compare)
	return moments[:min(n, len(moments))]
}

// days hands on the days that are due, from some day on, as moved by days off,
// until visit returns false.
func (p *Plan) days(from period.Day, off DaysOff, visit func(period.Day) bool) {
	hand := func(d period.Day) bool {
		if d < p.Start || p.Until > 0 && d > p.Until+7 {
			return p.Until == 0 || d <= p.Until+7
		}
		moved, due := p.moved(d, off)
		if !due || slices.Contains(p.Except, d) || slices.Contains(p.Except, moved) || p.Until > 0 && moved > p.Until {
			return true
		}
		return visit(moved)
	}
	next := p.rule.Iterator()
	var group []period.Day
	key := ""
	flush := func() bool {
		for _, at := range p.positions {
			i := at - 1
			if at < 0 {
				i = len(group) + at
			}
			if i >= 0 && i < len(group) && group[i] >= from && !hand(group[i]) {
				return false
			}
		}
		group = group[:0]
		return true
	}
	for range most {
		t, ok := next()
		d := period.DayOf(t, time.UTC)
		if p.positions == nil {
			if !ok || d >= from && !hand(d) {
				return
			}
			continue
		}
		month := t.Format("2006-01")
		if p.rule.OrigOptions.Freq == rrule.YEARLY {
			month = t.Format("2006")
		}
		if !ok || month != key {
			if !flush() || !ok {
				return
			}
			key = month
		}
		if !off(d) {
			group = append(group, d)
		}
	}
}

// moved is the day that a day becomes when nobody works on it.
func (p *Plan) moved(d period.Day, off DaysOff) (period.Day, bool) {
	if p.OffDay == "run" || !off(d) {
		return d, true
	}
	step := period.Day(1)
	switch p.OffDay {
	case "skip":
		return d, false
	case "previous":
		step = -1
	}
	for range 60 {
		if d += step; !off(d) {
			return d, true
		}
	}
	return d, false
}

// moment is when a day is due. A time of day that does not exist when clocks
// go forward is as long after the gap; one that exists twice is the first
// (RFC 5545, 3.3.5).
func (p *Plan) moment(d period.Day) time.Time {
	day := d.Time()
	naive := time.Date(day.Year(), day.Month(), day.Day(), 0, p.At, 0, 0, time.UTC)
	_, before := naive.Add(-26 * time.Hour).In(p.zone).Zone()
	early := naive.Add(-time.Duration(before) * time.Second)
	if _, now := early.In(p.zone).Zone(); now == before {
		return early.In(p.zone)
	}
	// The offset changed since the day before: either the time is after the
	// change, or it fell into the gap.
	_, after := naive.Add(26 * time.Hour).In(p.zone).Zone()
	late := naive.Add(-time.Duration(after) * time.Second)
	if _, now := late.In(p.zone).Zone(); now == after {
		return late.In(p.zone)
	}
	return early.In(p.zone)
}

// Weekend is a calendar of Saturdays and Sundays.
func Weekend(d period.Day) bool {
	w := d.Time().Weekday()
	return w == time.Saturday || w == time.Sunday
}

// Off is a calendar of weekends and further days.
func Off(days []period.Day) DaysOff {
	off := map[period.Day]bool{}
	for _, d := range days {
		off[d] = true
	}
	return func(d period.Day) bool { return off[d] || Weekend(d) }
}
