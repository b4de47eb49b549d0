package param

import (
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/core/period"
)

func (v *Value) readDay(text string, s Setting) *Fault {
	c := s.Calendar
	day, err := c.ParseDay(text)
	if err != nil {
		return bad("%v", err)
	}
	if low, err := c.ParseDay(v.Parameter.Min); err == nil && day < low {
		return bad("%s lies before the earliest day allowed, %s", day.Long(), low.Long())
	}
	if high, err := c.ParseDay(v.Parameter.Max); err == nil && day > high {
		return bad("%s lies after the latest day allowed, %s", day.Long(), high.Long())
	}
	v.Day = day
	return nil
}

func (v *Value) readRange(text string, s Setting) *Fault {
	c, p := s.Calendar, v.Parameter
	if days, ok := s.Signed[p.ID]; ok {
		c.Signed = &days
	}
	if p.Timed {
		return v.readIntervals([]string{text}, c)
	}
	r, companions, err := period.Range{}, []period.Companion(nil), error(nil)
	if p.Compare {
		r, companions, err = c.ParseCompared(text)
	} else {
		r, err = c.ParseRange(text)
	}
	if err != nil {
		return bad("%v", err)
	}
	if f := v.within(r, c); f != nil {
		return f
	}
	v.Range, v.Companions, v.Says = r, companions, r.Long()
	v.Intervals = []period.Interval{c.Interval(r)}
	if since(text, c) {
		v.Says += ", since " + c.Last.Of
	}
	var others []string
	for _, o := range companions {
		others = append(others, o.Range.Long())
	}
	if len(others) > 0 {
		v.Says += " against " + nearest.And(others)
	}
	return nil
}

// since tells whether a range begins at an earlier run that there was.
func since(text string, c period.Calendar) bool { return !c.Last.At.IsZero() && IsSince(text) }

// IsSince tells whether a range as typed begins where an earlier one ended.
func IsSince(text string) bool {
	return strings.HasPrefix(strings.ToLower(strings.Join(strings.Fields(strings.ReplaceAll(text, "_", " ")), " ")),
		"since last run")
}

// ComparesSigned tells whether a range as typed is compared with what was signed off last.
func ComparesSigned(text string) bool {
	_, others, _ := strings.Cut(strings.ToLower(strings.Join(strings.Fields(text), " ")), " against ")
	return slices.Contains(strings.Split(others, " and "), period.LastSigned)
}

// within checks a range against the declared limits.
func (v *Value) within(r period.Range, c period.Calendar) *Fault {
	p := v.Parameter
	if n, u, err := period.ParseSpan(p.Longest); err == nil && r.Exceeds(n, u) {
		return bad("%s is %d days, longer than the %s allowed", r.Long(), r.Days(), p.Longest)
	}
	if low, err := c.ParseDay(p.Min); err == nil && r.First < low {
		return bad("%s begins before the earliest day allowed, %s", r.Long(), low.Long())
	}
	if high, err := c.ParseDay(p.Max); err == nil && r.Last > high {
		return bad("%s ends after the latest day allowed, %s", r.Long(), high.Long())
	}
	return nil
}

func rangeResolved(v Value) string {
	if v.Parameter.Timed {
		return intervals(v)
	}
	text := v.Range.String()
	for i, c := range v.Companions {
		name := c.Range.String()
		if c.Relative { // to the range itself, which is a fact
			name = c.Name
		}
		text += []string{" against ", " and "}[min(i, 1)] + name
	}
	return text
}

func (v *Value) readRanges(text string, s Setting) *Fault {
	return v.readIntervals(strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }), s.Calendar)
}

// readIntervals reads one or more ranges and puts them in order.
func (v *Value) readIntervals(texts []string, c period.Calendar) *Fault {
	type written struct {
		text string
		period.Interval
	}
	var all []written
	for _, text := range texts {
		if text = strings.TrimSpace(text); text == "" {
			continue
		}
		i, err := c.ParseInterval(text)
		if err != nil && len(texts) > 1 {
			return bad("the range %s: %v", text, err)
		} else if err != nil {
			return bad("%v", err)
		}
		if f := v.within(days(i, c), c); f != nil {
			return f
		}
		all = append(all, written{text, i})
	}
	slices.SortStableFunc(all, func(a, b written) int { return a.From.Compare(b.From) })
	var says []string
	for n, w := range all {
		if n > 0 && w.From.Before(all[n-1].To) {
			return bad("the ranges %s and %s overlap; change one of them", all[n-1].text, w.text)
		}
		if n > 0 && v.Parameter.Adjoining && w.From.After(all[n-1].To) {
			return bad("there is a gap between %s and %s; the ranges must adjoin", all[n-1].text, w.text)
		}
		v.Intervals = append(v.Intervals, w.Interval)
		says = append(says, c.Long(w.Interval))
		if since(w.text, c) {
			says[n] += ", since " + c.Last.Of
		}
	}
	if len(all) == 0 {
		return bad("%s is needed; %s", v.Parameter.Label, kinds[v.Parameter.Type].hint)
	}
	v.Range = days(period.Interval{From: all[0].From, To: all[len(all)-1].To}, c)
	v.Says = nearest.And(says)
	return nil
}

// days are the local days that an interval touches.
func days(i period.Interval, c period.Calendar) period.Range {
	zone := c.Zone
	if zone == nil {
		zone = i.From.Location()
	}
	last := period.DayOf(i.To.Add(-1), zone)
	return period.Range{First: period.DayOf(i.From, zone), Last: max(last, period.DayOf(i.From, zone))}
}

func intervals(v Value) string {
	all := make([]string, len(v.Intervals))
	for i, w := range v.Intervals {
		all[i] = w.String()
	}
	return strings.Join(all, "; ")
}

func (v *Value) readPeriod(text string, s Setting) *Fault {
	p, err := s.Calendar.ParsePeriod(text, v.Parameter.Grain)
	if err != nil {
		return bad("%v", err)
	}
	if f := v.within(p.Range, s.Calendar); f != nil {
		return f
	}
	v.Range, v.Name, v.Says = p.Range, p.String(), p.Long()
	v.Intervals = []period.Interval{s.Calendar.Interval(p.Range)}
	return nil
}
