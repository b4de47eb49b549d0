package period

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Earliest and Latest bound the days that expressions may name.
var (
	Earliest = Date(1800, 1, 1)
	Latest   = Date(2999, 12, 31)
)

// ParseRange resolves what a person wrote for a range of days. It reads
//
//	last month, this quarter, next fiscal year, yesterday, year to date
//	last 90 days, next 2 weeks         whole units before or after the present one
//	2026-09-30, 2026-09, 2026-Q3, 2026-W36, 2026, 2025/26
//	2026-01-15/2026-03-31, 2026-Q1/2026-Q3, 2026-01-15/P3M, P2W/today
//	since last run                     from the day of the calendar's Last to today
//	since last run or last 7 days      the second where there was no run yet
//
// An error says what is wrong and shows a form that is right.
func (c Calendar) ParseRange(text string) (Range, error) {
	t := strings.ToLower(spaced(text))
	r, err := c.parseRange(t)
	if err != nil {
		return Range{}, err
	}
	if r.Last < r.First {
		return Range{}, fmt.Errorf("the end %s lies before the start %s", r.Last.Long(), r.First.Long())
	}
	if r.First < Earliest || r.Last > Latest {
		return Range{}, fmt.Errorf("%s reaches outside the years 1800 to 2999", r)
	}
	return r, nil
}

func (c Calendar) parseRange(t string) (Range, error) {
	if t == "" {
		return Range{}, fmt.Errorf("no days are given; write them as last month or 2026-01-15/2026-03-31")
	}
	if rest, ok := c.beforeFirst(t); ok {
		return c.parseRange(rest)
	}
	if isSince(t) {
		if err := c.hasLast(); err != nil {
			return Range{}, err
		}
		return Range{DayOf(c.Last.At, c.zone()), c.Today}, nil
	}
	if r, ok := c.named(t); ok {
		return r, nil
	}
	if r, ok, err := explicit(c, t); ok {
		return r, err
	}
	if from, to, ok := strings.Cut(t, "/"); ok {
		return c.interval(strings.TrimSpace(from), strings.TrimSpace(to))
	}
	return Range{}, fmt.Errorf("%q is not a range of days; write it as last month, 2026-09, 2026-Q3 or "+
		"2026-01-15/2026-03-31", t)
}

// ParseDay resolves what a person wrote for one day: 2026-09-30, today,
// yesterday, tomorrow, month end, quarter start, today - 14 days.
func (c Calendar) ParseDay(text string) (Day, error) {
	t := strings.ToLower(spaced(text))
	if t == "" || t[len(t)-1] <= '9' {
		return ParseDay(t)
	}
	if m := shifted.FindStringSubmatch(t); m != nil {
		base, err := c.ParseDay(m[1])
		if err != nil {
			return 0, err
		}
		n, u, err := count(m[3], m[4])
		if err != nil {
			return 0, err
		}
		if m[2] == "-" {
			n = -n
		}
		return addUnits(base, u, n), nil
	}
	if m := edge.FindStringSubmatch(t); m != nil {
		r := c.Period(unitNamed(m[1]), c.Today)
		if m[2] == "start" {
			return r.First, nil
		}
		return r.Last, nil
	}
	if r, ok := c.named(t); ok && r.First == r.Last {
		return r.First, nil
	}
	return ParseDay(t)
}

const units = `(day|week|month|quarter|year|fiscal year)`

var (
	relative = regexp.MustCompile(`^(this|last|next) ` + units + `$`)
	toDate   = regexp.MustCompile(`^` + units + ` to date$`)
	several  = regexp.MustCompile(`^(last|next) (\d+) ` + units + `s?$`)
	edge     = regexp.MustCompile(`^` + units + ` (start|end)$`)
	shifted  = regexp.MustCompile(`^(.+?) ?([+-]) (\d+) ` + units + `s?$`)
	month    = regexp.MustCompile(`^(\d{4})-(\d{2})$`)
	quarter  = regexp.MustCompile(`^(\d{4})-?q(\d)$`)
	week     = regexp.MustCompile(`^(\d{4})-?w(\d{2})$`)
	year     = regexp.MustCompile(`^(\d{4})$`)
	fiscal   = regexp.MustCompile(`^(\d{4})/(\d{2})$`)
	length   = regexp.MustCompile(`^(\d+) ` + units + `s?$`)
	duration = regexp.MustCompile(`^p(\d+)([dwmy])$`)
)

// unitNamed is [UnitNamed] for a name that an expression has matched.
func unitNamed(name string) Unit {
	u, _ := UnitNamed(name)
	return u
}

func count(digits, unit string) (int, Unit, error) {
	n, err := strconv.Atoi(digits)
	if err != nil || n > 10_000 {
		return 0, 0, fmt.Errorf("%s %ss are too many; use at most 10000", digits, unit)
	}
	return n, unitNamed(unit), nil
}

// named resolves the ranges that have names.
func (c Calendar) named(t string) (Range, bool) {
	if t == "" || t[0] <= '9' {
		return Range{}, false // names begin with a letter
	}
	switch t {
	case "today":
		return Range{c.Today, c.Today}, true
	case "yesterday":
		return Range{c.Today - 1, c.Today - 1}, true
	case "tomorrow":
		return Range{c.Today + 1, c.Today + 1}, true
	}
	if m := relative.FindStringSubmatch(t); m != nil {
		return c.Shift(unitNamed(m[2]), c.Today, map[string]int{"last": -1, "this": 0, "next": 1}[m[1]]), true
	}
	if m := toDate.FindStringSubmatch(t); m != nil {
		return Range{c.Period(unitNamed(m[1]), c.Today).First, c.Today}, true
	}
	if m := several.FindStringSubmatch(t); m != nil {
		n, u, err := count(m[2], m[3])
		if err != nil || n == 0 {
			return Range{}, false
		}
		if m[1] == "last" {
			return Range{c.Shift(u, c.Today, -n).First, c.Period(u, c.Today).First - 1}, true
		}
		return Range{c.Period(u, c.Today).Last + 1, c.Shift(u, c.Today, n).Last}, true
	}
	return Range{}, false
}

// explicit reads a single period that names its own days; ok tells whether the
// text has the form of one.
func explicit(c Calendar, t string) (r Range, ok bool, err error) {
	if t == "" || t[0] > '9' {
		return r, false, nil // years are written in digits
	}
	number := func(s string) int { n, _ := strconv.Atoi(s); return n }
	if m := month.FindStringSubmatch(t); m != nil {
		if n := number(m[2]); n < 1 || n > 12 {
			return r, true, fmt.Errorf("there is no month %s; months run from 01 to 12", t)
		}
		return c.Period(Months, Date(number(m[1]), time.Month(number(m[2])), 1)), true, nil
	}
	if m := quarter.FindStringSubmatch(t); m != nil {
		if n := number(m[2]); n < 1 || n > 4 {
			return r, true, fmt.Errorf("there is no quarter %s; quarters run from Q1 to Q4", strings.ToUpper(t))
		}
		return c.Period(Quarters, Date(number(m[1]), time.Month(number(m[2])*3), 1)), true, nil
	}
	if m := week.FindStringSubmatch(t); m != nil {
		r, err = isoWeek(number(m[1]), number(m[2]))
		return r, true, err
	}
	if m := fiscal.FindStringSubmatch(t); m != nil {
		if (number(m[1])+1)%100 != number(m[2]) {
			return r, true, fmt.Errorf("%s is not a fiscal year; the second part must be the year after, as in 2025/26", t)
		}
		start := max(c.FiscalStart, time.January)
		return c.Period(FiscalYears, Date(number(m[1]), start, 1)), true, nil
	}
	if year.MatchString(t) {
		return c.Period(Years, Date(number(t), 1, 1)), true, nil
	}
	if len(t) == 10 && t[4] == '-' && t[7] == '-' {
		d, err := ParseDay(t)
		return Range{d, d}, true, err
	}
	return r, false, nil
}

// interval reads two ends, either of which may be a period or, beside a day,
// an ISO 8601 duration.
func (c Calendar) interval(from, to string) (Range, error) {
	n, u, isFrom := isoDuration(from)
	m, v, isTo := isoDuration(to)
	if isFrom && isTo {
		return Range{}, fmt.Errorf("%s/%s has a duration at both ends; one of them must be a day", strings.ToUpper(from),
			strings.ToUpper(to))
	}
	if isTo {
		a, err := c.end(from)
		return Range{a.First, addUnits(a.First, v, m) - 1}, err
	}
	b, err := c.end(to)
	if err != nil {
		return Range{}, err
	}
	if isFrom {
		return Range{addUnits(b.Last+1, u, -n), b.Last}, nil
	}
	a, err := c.end(from)
	return Range{a.First, b.Last}, err
}

func (c Calendar) end(t string) (Range, error) {
	if r, ok, err := explicit(c, t); ok {
		return r, err
	}
	if r, ok := c.named(t); ok {
		return r, nil
	}
	d, err := c.ParseDay(t)
	return Range{d, d}, err
}

func isoDuration(t string) (int, Unit, bool) {
	m := duration.FindStringSubmatch(t)
	if m == nil {
		return 0, 0, false
	}
	n, err := strconv.Atoi(m[1])
	return n, map[string]Unit{"d": Days, "w": Weeks, "m": Months, "y": Years}[m[2]], err == nil && n <= 10_000
}

// ParseSpan reads a length such as 12 years or 90 days.
func ParseSpan(text string) (n int, u Unit, err error) {
	m := length.FindStringSubmatch(strings.ToLower(strings.TrimSpace(text)))
	if m == nil {
		return 0, 0, fmt.Errorf("%q is not a length of time; write it as 90 days or 12 years", text)
	}
	return count(m[1], m[2])
}

// Exceeds tells whether the range is longer than n units from its first day.
func (r Range) Exceeds(n int, u Unit) bool { return r.Last >= addUnits(r.First, u, n) }

// Named is a moving range with its days as they are now.
type Named struct {
	Name  string
	Range Range
}

// Presets returns the named ranges worth offering in a picker, resolved.
func (c Calendar) Presets() []Named {
	names := []string{"today", "yesterday", "this week", "last week", "this month", "last month", "month to date",
		"this quarter", "last quarter", "this year", "last year", "year to date", "last 30 days", "last 90 days",
		"last 12 months", "next week", "next month", "next quarter", "next 12 months"}
	if c.FiscalStart > time.January {
		names = append(names, "this fiscal year", "last fiscal year", "fiscal year to date")
	}
	out := make([]Named, len(names))
	for i, n := range names {
		r, _ := c.named(n)
		out[i] = Named{n, r}
	}
	return out
}
