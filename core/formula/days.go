package formula

import (
	"fmt"
	"strings"
	"time"

	"mantilla/core/exact"
	"mantilla/core/expr"
	"mantilla/core/frame"
	"mantilla/core/period"
)

var weekdays = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

var hours = func() (names []string) {
	for h := range 24 {
		names = append(names, fmt.Sprintf("%02d:00", h))
	}
	return names
}()

func dayFunctions() []*Function {
	unit := func(u period.Unit, name, example, gives string) *Function {
		return &Function{Name: name, Usage: name + "(day)", Says: "The " + u.String() + " that a day or moment lies in.",
			Example: example, Gives: gives, least: 1, most: 1,
			compile: func(c *compiler, t *expr.Expr, args []node) (node, error) {
				calendar := c.formula.scope.Calendar
				return c.ofDays(t, args[0], frame.Field{Kind: frame.Date, Grain: u.String()}, func(d int64) int64 {
					return int64(calendar.Period(u, period.Day(d)).First)
				})
			}}
	}
	return []*Function{
		unit(period.Years, "year", "year(received)", "2026, 2026, 2026, "),
		unit(period.FiscalYears, "fiscal_year", "fiscal_year(received)", "2026/27, 2026/27, 2026/27, "),
		unit(period.Quarters, "quarter", "quarter(received)", "2026-Q3, 2026-Q3, 2026-Q4, "),
		unit(period.Months, "month", "month(received)", "2026-09, 2026-09, 2026-10, "),
		unit(period.Weeks, "week", "week(received)", "2026-W36, 2026-W37, 2026-W40, "),
		{Name: "day", Usage: "day(moment)", Says: "The day of a moment, in the service's zone.", Example: "day(weighed)",
			Gives: "2026-09-04, 2026-09-08, 2026-10-01, ", least: 1, most: 1,
			compile: func(c *compiler, t *expr.Expr, args []node) (node, error) {
				return c.ofDays(t, args[0], frame.Field{Kind: frame.Date}, func(d int64) int64 { return d })
			}},
		{Name: "weekday", Usage: "weekday(day)", Says: "Its day of the week, Monday first.", Example: "weekday(received)",
			Gives: "Friday, Tuesday, Thursday, ", least: 1, most: 1,
			compile: func(c *compiler, t *expr.Expr, args []node) (node, error) {
				return c.ofDays(t, args[0], frame.Field{Kind: frame.Integer, Names: weekdays}, func(d int64) int64 {
					return ((d+3)%7 + 7) % 7 // 1 January 1970 was a Thursday
				})
			}},
		{
			Name:    "hour",
			Usage:   "hour(moment)",
			Says:    "Its hour of the day, in the service's zone.",
			Example: "hour(weighed)",
			Gives:   "09:00, 16:00, 07:00, ",
			least:   1,
			most:    1,
			compile: hour,
		},
		{
			Name:    "years",
			Usage:   "years(from, to)",
			Says:    "Full years from one day to another, as ages are counted.",
			Example: "years(date '2000-09-08', received)",
			Gives:   "25, 26, 26, ",
			least:   2,
			most:    2,
			compile: full("years", 12),
		},
		{
			Name:    "months",
			Usage:   "months(from, to)",
			Says:    "Full months from one day to another.",
			Example: "months(date '2026-07-08', received)",
			Gives:   "1, 2, 2, ",
			least:   2,
			most:    2,
			compile: full("months", 1),
		},
		{
			Name:    "minutes",
			Usage:   "minutes(from, to)",
			Says:    "Full minutes from one moment to another.",
			Example: "minutes(weighed, weighed)",
			Gives:   "0, 0, 0, ",
			least:   2,
			most:    2,
			compile: minutes,
		},
		{
			Name:    "band",
			Usage:   "band(x, limit, …)",
			Says:    "Which of the bands between the limits a number lies in.",
			Example: "band(net_kg, 15, 25)",
			Gives:   "25 and over, 15 to below 25, below 15, ",
			least:   2,
			most:    many,
			compile: band,
		},
	}
}

// ofDays computes something of each day; moments are taken to the day they lie
// in by the calendar's zone.
func (c *compiler) ofDays(t *expr.Expr, a node, field frame.Field, of func(day int64) int64) (node, error) {
	if a.field.Kind != frame.Date && a.field.Kind != frame.Timestamp {
		return node{}, fault(a.at, "%s is of days and moments, and this is %s", t.Text, called(a.field))
	}
	local := c.local
	moments := a.field.Kind == frame.Timestamp
	return node{field: field, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		if moments {
			shift := local()
			days := make([]int64, len(x.Ints))
			for i, v := range x.Ints {
				days[i] = floorTo(v+shift(v), micros)
			}
			x.Ints = days
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = x.Nulls, remembered(x.Ints, of)
		return out, nil
	}}, nil
}

func floorTo(v, unit int64) int64 {
	q := v / unit
	if v%unit < 0 {
		q--
	}
	return q
}

// remembered computes something of each number, once for each that there is
// where they lie close together.
func remembered(values []int64, of func(int64) int64) []int64 {
	out := make([]int64, len(values))
	if len(values) == 0 {
		return out
	}
	low, high := values[0], values[0]
	for _, v := range values {
		low, high = min(low, v), max(high, v)
	}
	if uint64(high-low) > uint64(4*len(values)) || high < low {
		for i, v := range values {
			out[i] = of(v)
		}
		return out
	}
	table, known := make([]int64, high-low+1), make([]bool, high-low+1)
	for i, v := range values {
		at := v - low
		if !known[at] {
			table[at], known[at] = of(v), true
		}
		out[i] = table[at]
	}
	return out
}

// local returns a function that tells how far the zone's clocks are ahead at a
// moment, in microseconds. It looks the zone up once for each quarter of an
// hour, where all changes of clocks lie.
func (c *compiler) local() func(int64) int64 {
	zone := c.formula.scope.Calendar.Now.Location()
	if z := c.formula.scope.Calendar.Zone; z != nil {
		zone = z
	}
	const quarter = int64(15 * time.Minute / time.Microsecond)
	last, ahead := int64(-1<<62), int64(0)
	return func(v int64) int64 {
		if q := floorTo(v, quarter); q != last {
			_, seconds := time.UnixMicro(v).In(zone).Zone()
			last, ahead = q, int64(seconds)*1_000_000
		}
		return ahead
	}
}

func hour(c *compiler, t *expr.Expr, args []node) (node, error) {
	a := args[0]
	if a.field.Kind != frame.Timestamp {
		return node{}, fault(a.at, "hour is of moments, and this is %s", called(a.field))
	}
	return node{field: frame.Field{Kind: frame.Integer, Names: hours}, at: t.At, eval: func(e *env) (cells, error) {
		x, err := a.eval(e)
		if err != nil {
			return x, err
		}
		shift := c.local()
		out := cells{one: x.one}
		out.Nulls, out.Ints = x.Nulls, make([]int64, len(x.Ints))
		for i, v := range x.Ints {
			v += shift(v)
			out.Ints[i] = (v - floorTo(v, micros)*micros) / (micros / 24)
		}
		return out, nil
	}}, nil
}

// full counts whole units of so many months between two days.
func full(name string, months int) func(c *compiler, t *expr.Expr, args []node) (node, error) {
	return func(_ *compiler, t *expr.Expr, args []node) (node, error) {
		return ofTwo(t, args, frame.Date, "days", func(from, to int64) int64 {
			a, b := frame.DayTime(from), frame.DayTime(to)
			n := (b.Year()-a.Year())*12 + int(b.Month()) - int(a.Month())
			switch {
			case n > 0 && b.Day() < a.Day():
				n--
			case n < 0 && b.Day() > a.Day():
				n++
			}
			return int64(n / months)
		})
	}
}

func minutes(_ *compiler, t *expr.Expr, args []node) (node, error) {
	return ofTwo(t, args, frame.Timestamp, "moments", func(from, to int64) int64 {
		return (to - from) / int64(time.Minute/time.Microsecond)
	})
}

func ofTwo(t *expr.Expr, args []node, kind frame.Kind, what string, of func(from, to int64) int64) (node, error) {
	for _, a := range args {
		if a.field.Kind != kind {
			return node{}, fault(a.at, "%s is of %s, and this is %s", t.Text, what, called(a.field))
		}
	}
	return node{field: frame.Field{Kind: frame.Integer}, at: t.At, eval: func(e *env) (cells, error) {
		x, y, err := pair(e, args[0], args[1])
		if err != nil {
			return x, err
		}
		out := cells{one: x.one}
		out.Nulls, out.Ints = nulls(x, y), make([]int64, len(x.Ints))
		for i, from := range x.Ints {
			if out.Nulls == nil || !out.Nulls[i] {
				out.Ints[i] = of(from, y.Ints[i])
			}
		}
		return out, nil
	}}, nil
}

// band tells between which limits a number lies; the lower limit belongs to
// the band.
func band(_ *compiler, t *expr.Expr, args []node) (node, error) {
	if err := areNumbers(t, args); err != nil {
		return node{}, err
	}
	var limits []frame.Number
	for i, a := range args[1:] {
		v, ok := a.once()
		if !ok {
			return node{}, fault(a.at, "the limits of bands are fixed numbers")
		}
		limits = append(limits, v.Value(a.field, 0).Number)
		if i > 0 && limits[i].Compare(limits[i-1]) <= 0 {
			return node{}, fault(a.at, "the limits of bands must rise")
		}
	}
	a := args[0]
	bounds := make([]int64, len(limits))
	for i, l := range limits { // a limit with more places than the number is met by the next number above it
		digits := l.To(max(l.Scale, a.field.Scale))
		unit, _ := exact.Tens(max(digits.Scale-a.field.Scale, 0))
		bounds[i] = exact.Up(int64(digits.Digits.LowBits()), int64(unit))
	}
	return node{field: frame.Field{Kind: frame.Integer, Names: bandNames(limits, a.field.Scale == 0)}, at: t.At,
		eval: func(e *env) (cells, error) {
			x, err := a.eval(e)
			if err == nil && x.Wide != nil {
				err = errLarge
			}
			if err != nil {
				return x, err
			}
			out := cells{one: x.one}
			out.Nulls, out.Ints = x.Nulls, make([]int64, len(x.Ints))
			for i, v := range x.Ints {
				for _, b := range bounds {
					if v < b {
						break
					}
					out.Ints[i]++
				}
			}
			return out, nil
		}}, nil
}

// bandNames names the bands: of whole numbers by first and last, of others by
// their limits.
func bandNames(limits []frame.Number, whole bool) []string {
	names := []string{"below " + shorter(limits[0])}
	for i, l := range limits {
		switch {
		case i+1 == len(limits):
			names = append(names, shorter(l)+" and over")
		case whole && l.Scale == 0:
			last := limits[i+1].Plus(frame.Exact(1, 0), -1)
			if last.Compare(l) == 0 {
				names = append(names, shorter(l))
			} else {
				names = append(names, shorter(l)+" to "+shorter(last))
			}
		default:
			names = append(names, shorter(l)+" to below "+shorter(limits[i+1]))
		}
	}
	return names
}

// shorter writes a number without zeros at its end.
func shorter(n frame.Number) string {
	s := n.String()
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}
