package sheet

import (
	"mantilla/core/frame"
	"mantilla/core/period"
)

// Span is the first and last day of a timeline's bar. Where the end is missing
// the bar goes on to the end of the timeline, where the start is missing to its
// beginning.
type Span [2]period.Day

// Spans returns the bars of lines of a timeline, and the days that all bars of
// the sheet lie within.
func (s *Sheet) Spans(lines []Line) (spans []Span, from, to period.Day, err error) {
	start, end := s.scope.Columns.Index(s.view.Start), s.scope.Columns.Index(s.view.End)
	groups, err := s.rows.Group(s.selected, nil)
	if err != nil {
		return nil, 0, 0, err
	}
	low, high := s.today(), s.today()
	found := false
	for _, at := range []int{start, end} {
		for _, op := range []frame.Op{frame.Min, frame.Max} {
			field, v, err := groups.Measure(frame.Measure{Column: at, Op: op})
			if err != nil {
				return nil, 0, 0, err
			}
			x := v[0].Value(field, 0)
			if x.Null {
				continue
			}
			d := s.dayOf(x)
			if !found {
				low, high, found = d, d, true
			}
			low, high = min(low, d), max(high, d)
		}
	}
	numbers := make(frame.Selection, len(lines))
	for i, l := range lines {
		numbers[i] = l.Row
	}
	b, err := s.rows.Take(numbers, []int{start, end})
	if err != nil {
		return nil, 0, 0, err
	}
	for r := range lines {
		span := Span{low, high}
		for side := range span {
			if v := b.Value(side, r); !v.Null {
				span[side] = s.dayOf(v)
			}
		}
		spans = append(spans, span)
	}
	return spans, low, high, nil
}

func (s *Sheet) today() period.Day {
	if v, ok := s.setting.Given["today"]; ok && !v.Null {
		return period.Day(v.Int())
	}
	return s.setting.Calendar.Today
}

func (s *Sheet) dayOf(v frame.Value) period.Day {
	if v.Kind == frame.Date {
		return period.Day(v.Int())
	}
	return period.DayOf(frame.MomentTime(v.Int()), s.zone())
}
