package compare

import (
	"fmt"
	"regexp"
	"strconv"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
)

// shift brings days, months and weeks of a companion period to the same place in
// the period itself: September of last year to this September.
type shift struct {
	days, weeks, months int
	begins              period.Day // of the companion
}

// shift returns how far a period lies from the first one.
func (l Layout) shift(n int) shift {
	if n == 0 || n >= len(l.Begins) {
		return shift{}
	}
	to, from := l.Begins[0], l.Begins[n]
	a, b := to.Time(), from.Time()
	return shift{
		days:   int(to - from),
		weeks:  int(monday(to)-monday(from)) / 7,
		months: (a.Year()-b.Year())*12 + int(a.Month()) - int(b.Month()),
		begins: from,
	}
}

func monday(d period.Day) period.Day {
	return d - period.Day((int(d.Time().Weekday())+6)%7)
}

// placed writes a key's value as it finds the row of the period itself.
func (s shift) placed(v frame.Value) string { return s.value(v).String() }

var (
	monthText = regexp.MustCompile(`^(\d{4})-(0[1-9]|1[0-2])$`)
	weekText  = regexp.MustCompile(`^(\d{4})-W(\d{2})$`)
)

// value moves a day, month or week; anything else stays.
func (s shift) value(v frame.Value) frame.Value {
	if v.Null || s == (shift{}) {
		return v
	}
	switch {
	case v.Kind == frame.Date:
		v.Number = frame.Exact(int64(s.day(period.Day(v.Int()))), 0)
	case v.Kind == frame.Text && monthText.MatchString(v.Text):
		first, err := period.ParseDay(v.Text + "-01")
		if err == nil {
			v.Text = addMonths(first, s.months).String()[:7]
		}
	case v.Kind == frame.Text && weekText.MatchString(v.Text):
		m := weekText.FindStringSubmatch(v.Text)
		year, _ := strconv.Atoi(m[1]) // digits
		week, _ := strconv.Atoi(m[2])
		first := monday(period.Date(year, time.January, 4)) + period.Day(7*(week-1+s.weeks))
		y, w := first.Time().ISOWeek()
		v.Text = fmt.Sprintf("%04d-W%02d", y, w)
	}
	return v
}

// day moves a day by whole months where both periods begin on the same day of
// the month, as a year and the year before do, and otherwise by days.
func (s shift) day(d period.Day) period.Day {
	if addMonths(s.begins, s.months) == s.begins+period.Day(s.days) {
		return addMonths(d, s.months)
	}
	return d + period.Day(s.days)
}

// addMonths is the same day of another month, or the last one it has.
func addMonths(d period.Day, n int) period.Day {
	t := d.Time()
	first := time.Date(t.Year(), t.Month()+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	return period.Date(first.Year(), first.Month(), min(t.Day(), last))
}
