package sheet

import (
	"context"
	"fmt"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
)

// FigureOf computes a formula of all rows of a view that meet its filters, such
// as sum(overdue). It fails when the formula cannot be read.
func FigureOf(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes,
	setting ready.Setting,
	text string) (frame.Value, error) {
	s, err := lay(ctx, rows, d, v, c, setting, text)
	if err != nil {
		return frame.Value{}, err
	}
	return s.figure(ctx, text)
}

// Holds tells whether a condition over all rows of a view is true, such as
// sum(overdue) > 10000. What has no value makes it not true.
func Holds(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c ask.Changes,
	setting ready.Setting,
	condition string) (bool, error) {
	x, err := FigureOf(ctx, rows, d, v, c, setting, condition)
	if err != nil {
		return false, err
	}
	if x.Kind != frame.Flag {
		return false, fmt.Errorf("%q is no condition; compare it, as in sum(value) > 10000", condition)
	}
	return !x.Null && x.Int() != 0, nil
}

// figure computes a formula of all rows that the sheet was prepared for.
func (s *Sheet) figure(ctx context.Context, text string) (frame.Value, error) {
	f, err := s.of.FigureFormula(text)
	if err != nil {
		return frame.Value{}, err
	}
	groups, err := s.of.Rows.Groups(ctx, s.of.Where(), nil, ready.Distinct(s.of.MeasuresIn(f)))
	if err != nil {
		return frame.Value{}, err
	}
	x, err := s.of.Calculated(groups, f, nil)
	if err != nil {
		return frame.Value{}, err
	}
	return x.Levels[0].Value(x.Field, 0), nil
}
