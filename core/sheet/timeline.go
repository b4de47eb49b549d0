package sheet

import (
	"context"
	"fmt"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/table"
)

// Span is the first and last day of a timeline's bar. Where the end is missing
// the bar goes on to the end of the timeline, where the start is missing to its
// beginning.
type Span [2]period.Day

// Spans returns the bars of lines of a timeline, and the days that all bars of
// the sheet lie within.
func (s *Sheet) Spans(ctx context.Context, lines []Line) (spans []Span, from, to period.Day, err error) {
	start, end := s.of.Scope.Columns.Index(s.of.As.Start), s.of.Scope.Columns.Index(s.of.As.End)
	low, high, err := s.reach(ctx, start, end)
	if err != nil {
		return nil, 0, 0, err
	}
	numbers := make([]uint32, len(lines))
	for i, l := range lines {
		numbers[i] = l.Row
	}
	b, err := s.of.Rows.Take(ctx, numbers, []int{start, end})
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

// reach returns the first and the last day of any bar; where there is none, today.
func (s *Sheet) reach(ctx context.Context, start, end int) (low, high period.Day, err error) {
	kept, err := s.of.Setting.Cache.Get(fmt.Sprintf("%s/reach/%d/%d", s.of.Key, start, end), func() (table.Sized, error) {
		var measures []table.Measure
		for _, at := range []int{start, end} {
			measures = append(measures, table.Measure{Column: at, Op: frame.Min}, table.Measure{Column: at, Op: frame.Max})
		}
		return s.of.Rows.Groups(ctx, s.of.Where(), nil, ready.Distinct(measures))
	})
	if err != nil {
		return 0, 0, err
	}
	low, high = s.today(), s.today()
	found, groups := false, kept.(*table.Groups)
	for i, field := range groups.Fields {
		x := groups.Levels[0].Figures[i].Value(field, 0)
		if x.Null {
			continue
		}
		d := s.dayOf(x)
		if !found {
			low, high, found = d, d, true
		}
		low, high = min(low, d), max(high, d)
	}
	return low, high, nil
}

func (s *Sheet) today() period.Day {
	if v, ok := s.of.Setting.Given["today"]; ok && !v.Null {
		return period.Day(v.Int())
	}
	return s.of.Setting.Calendar.Today
}

func (s *Sheet) dayOf(v frame.Value) period.Day {
	if v.Kind == frame.Date {
		return period.Day(v.Int())
	}
	return period.DayOf(frame.MomentTime(v.Int()), s.zone())
}
