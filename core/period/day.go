// Package period reckons with days, periods and ranges of days: calendar and
// fiscal units, ISO weeks, and moving ranges such as "last month" that are
// resolved against a given day.
package period

import (
	"fmt"
	"time"
)

// Day is a calendar day, counted from 1970-01-01.
type Day int32

// DayOf returns the local day of an instant in a zone.
func DayOf(t time.Time, zone *time.Location) Day {
	y, m, d := t.In(zone).Date()
	return Date(y, m, d)
}

// Date returns a day; months and days out of range run over, as in time.Date.
func Date(year int, month time.Month, day int) Day {
	return Day(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// ParseDay reads an ISO 8601 day such as 2026-09-30.
func ParseDay(text string) (Day, error) {
	t, err := time.Parse(time.DateOnly, text)
	if err == nil {
		return DayOf(t, time.UTC), nil
	}
	var y, m, d int
	if n, _ := fmt.Sscanf(text, "%4d-%2d-%2d", &y, &m, &d); n == 3 && len(text) == 10 && m >= 1 && m <= 12 {
		return 0, fmt.Errorf("there is no day %s; %s has %d days", text, monthName(y, m), daysIn(y, time.Month(m)))
	}
	return 0, fmt.Errorf("%q is not a day; write it as 2026-09-30", text)
}

func monthName(year, month int) string { return fmt.Sprintf("%s %d", time.Month(month), year) }

func daysIn(year int, month time.Month) int {
	return int(Date(year, month+1, 1) - Date(year, month, 1))
}

// Time returns midnight UTC of the day.
func (d Day) Time() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

// String writes the day as 2026-09-30.
func (d Day) String() string { return d.Time().Format(time.DateOnly) }

// Long writes the day as people say it: 30 September 2026.
func (d Day) Long() string { return d.Time().Format("2 January 2006") }

// Range is the days from First to Last, both included.
type Range struct{ First, Last Day }

// String writes the range as an ISO 8601 interval of days.
func (r Range) String() string { return r.First.String() + "/" + r.Last.String() }

// Days returns how many days the range has.
func (r Range) Days() int { return int(r.Last-r.First) + 1 }

// Long writes the range as people say it, leaving out what both ends share:
// 1–30 September 2026.
func (r Range) Long() string {
	a, b := r.First.Time(), r.Last.Time()
	switch {
	case r.First == r.Last:
		return r.First.Long()
	case a.Year() != b.Year():
		return r.First.Long() + " – " + r.Last.Long()
	case a.Month() != b.Month():
		return a.Format("2 January") + " – " + r.Last.Long()
	}
	return a.Format("2") + "–" + r.Last.Long()
}

// Calendar is what moving expressions are resolved against.
type Calendar struct {
	Today       Day
	FiscalStart time.Month     // first month of the fiscal year; 0 means January
	Now         time.Time      // the present instant
	Zone        *time.Location // where days begin; nil means UTC
	Last        Last           // the run that "since last run" speaks of
	Signed      *Range         // the days that "last signed" speaks of; nil where nothing is signed off
}

// Last is an earlier run: when it was and whose, as "your last good run". At
// is zero when there was none.
type Last struct {
	At time.Time
	Of string
}

// At returns the calendar as it stands at an instant in a zone.
func At(now time.Time, zone *time.Location, fiscalStart time.Month) Calendar {
	return Calendar{Today: DayOf(now, zone), FiscalStart: fiscalStart, Now: now, Zone: zone}
}

// Unit is a length of calendar time.
type Unit uint8

// The units of periods.
const (
	Days Unit = iota
	Weeks
	Months
	Quarters
	Years
	FiscalYears
)

var unitNames = [...]string{"day", "week", "month", "quarter", "year", "fiscal year"}

func (u Unit) String() string { return unitNames[u] }

// MarshalText writes a unit by its name, so that what is kept does not depend on
// the order of the units.
func (u Unit) MarshalText() ([]byte, error) { return []byte(u.String()), nil }

// UnmarshalText reads a unit by its name.
func (u *Unit) UnmarshalText(text []byte) error {
	for i, name := range unitNames {
		if name == string(text) {
			*u = Unit(i)
			return nil
		}
	}
	return fmt.Errorf("%q is not a unit of periods", text)
}

// Period returns the unit's period that holds the day. Weeks begin on Monday,
// as in ISO 8601.
func (c Calendar) Period(u Unit, d Day) Range {
	y, m, _ := d.Time().Date()
	switch u {
	case Weeks:
		monday := d - Day((int(d.Time().Weekday())+6)%7)
		return Range{monday, monday + 6}
	case Months:
		return Range{Date(y, m, 1), Date(y, m+1, 1) - 1}
	case Quarters:
		q := (m-1)/3*3 + 1
		return Range{Date(y, q, 1), Date(y, q+3, 1) - 1}
	case Years:
		return Range{Date(y, 1, 1), Date(y+1, 1, 1) - 1}
	case FiscalYears:
		start := max(c.FiscalStart, time.January)
		if m < start {
			y--
		}
		return Range{Date(y, start, 1), Date(y+1, start, 1) - 1}
	}
	return Range{d, d}
}

// Shift returns the period that lies n units after the one that holds the day.
func (c Calendar) Shift(u Unit, d Day, n int) Range {
	first := c.Period(u, d).First
	return c.Period(u, addUnits(first, u, n))
}

// addUnits moves a day by n units; a day that the month reached does not have
// becomes that month's last.
func addUnits(d Day, u Unit, n int) Day {
	months := 0
	switch u {
	case Days:
		return d + Day(n)
	case Weeks:
		return d + Day(7*n)
	case Months:
		months = n
	case Quarters:
		months = 3 * n
	case Years, FiscalYears:
		months = 12 * n
	}
	y, m, day := d.Time().Date()
	first := Date(y, m+time.Month(months), 1).Time()
	return Date(first.Year(), first.Month(), min(day, daysIn(first.Year(), first.Month())))
}

// isoWeek returns the days of an ISO 8601 week, or an error when the year has
// no such week.
func isoWeek(year, week int) (Range, error) {
	monday := Calendar{}.Period(Weeks, Date(year, 1, 4)).First + Day(7*(week-1))
	if y, w := monday.Time().ISOWeek(); y != year || w != week {
		return Range{}, fmt.Errorf("there is no week %d in %d", week, year)
	}
	return Range{monday, monday + 6}, nil
}
