package sheet

import (
	"context"
	"fmt"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/table"
)

// FigureOf computes a formula of all rows of a view that meet its filters, such
// as sum(overdue). It fails when the formula cannot be read.
func FigureOf(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c Changes, setting Setting,
	text string) (frame.Value, error) {
	setting.figures = []string{text}
	s, err := Lay(ctx, rows, d, v, c, setting)
	if err != nil {
		return frame.Value{}, err
	}
	return s.figure(ctx, text)
}

// Holds tells whether a condition over all rows of a view is true, such as
// sum(overdue) > 10000. What has no value makes it not true.
func Holds(ctx context.Context, rows table.Table, d *report.Dataset, v *report.View, c Changes, setting Setting,
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
	f, err := s.figureFormula(text)
	if err != nil {
		return frame.Value{}, err
	}
	groups, err := s.rows.Groups(ctx, s.where(), nil, distinct(s.measuresIn(f)))
	if err != nil {
		return frame.Value{}, err
	}
	x, err := s.calculated(groups, f, nil)
	if err != nil {
		return frame.Value{}, err
	}
	return x.levels[0].Value(x.field, 0), nil
}
