package sheet

import (
	"fmt"

	"mantilla/core/frame"
)

// Figure computes a formula of all rows of the sheet, such as sum(overdue).
func (s *Sheet) Figure(text string) (frame.Value, error) {
	f, err := s.figureFormula(text)
	if err != nil {
		return frame.Value{}, err
	}
	groups, err := s.rows.Group(s.selected, nil)
	if err != nil {
		return frame.Value{}, err
	}
	x, err := s.calculated(groups, f)
	if err != nil {
		return frame.Value{}, err
	}
	return x.levels[0].Value(x.field, 0), nil
}

// Holds tells whether a condition over all rows of the sheet is true, such as
// sum(overdue) > 10000. What has no value makes it not true.
func (s *Sheet) Holds(condition string) (bool, error) {
	v, err := s.Figure(condition)
	if err != nil {
		return false, err
	}
	if v.Kind != frame.Flag {
		return false, fmt.Errorf("%q is no condition; compare it, as in sum(value) > 10000", condition)
	}
	return !v.Null && v.Int() != 0, nil
}
