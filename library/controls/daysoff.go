package controls

import (
	"fmt"
	"regexp"
	"time"

	"github.com/emersion/go-ical"

	"mantilla/core/period"
)

// What a calendar of days off may hold. Repetitions within a day are no days off.
const (
	mostDaysOff = 50_000
	longestOff  = 3_660 // days of one event
)

// withinDay finds rules that repeat an event within a day.
var withinDay = regexp.MustCompile(`(?i)FREQ=(SECONDLY|MINUTELY|HOURLY)|BY(SECOND|MINUTE|HOUR)=`)

// daysOf are the days that the events of a calendar lie on: those of the event's
// own zone, and of the service's where the event names none or says UTC.
func (a *Access) daysOf(c *ical.Calendar) (days []period.Day, err error) {
	from := a.room.org.Now().AddDate(-2, 0, 0)
	for _, e := range c.Events() {
		name, _ := e.Props.Text(ical.PropSummary)
		if rule := e.Props.Get(ical.PropRecurrenceRule); rule != nil && withinDay.MatchString(rule.Value) {
			return nil, fmt.Errorf("the event %q repeats within a day (%s); days off repeat by days, weeks, months or years",
				name, rule.Value)
		}
		start, long, err := a.lies(e)
		if err != nil {
			return nil, fmt.Errorf("the event %q: %w", name, err)
		}
		begins := []time.Time{start}
		set, err := e.RecurrenceSet(start.Location())
		if err != nil {
			return nil, fmt.Errorf("the event %q: %w", name, err)
		}
		if set != nil {
			begins = set.Between(from, from.AddDate(12, 0, 0), true)
		}
		if len(days)+len(begins)*(long+1) > mostDaysOff {
			return nil, fmt.Errorf("the file has more than %d days off", mostDaysOff)
		}
		for _, b := range begins {
			for i := range long + 1 {
				days = append(days, period.DayOf(b, start.Location())+period.Day(i))
			}
		}
	}
	return days, nil
}

// lies tells when an event begins, in the zone whose days count, and how many
// days it goes on after the first.
func (a *Access) lies(e ical.Event) (start time.Time, long int, err error) {
	zone := a.room.org.Zone
	start, err = e.DateTimeStart(zone)
	if err != nil || start.IsZero() {
		return start, 0, fmt.Errorf("it has no day on which it begins")
	}
	if start.Location() == time.UTC {
		start = start.In(zone)
	}
	end, err := e.DateTimeEnd(zone)
	if err != nil || !end.After(start) {
		return start, 0, nil
	}
	last := period.DayOf(end.Add(-time.Second), start.Location())
	long = max(int(last-period.DayOf(start, start.Location())), 0)
	if long > longestOff {
		return start, 0, fmt.Errorf("it goes on for more than %d days", longestOff)
	}
	return start, long, nil
}
