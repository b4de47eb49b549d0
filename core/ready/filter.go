package ready

import (
	"fmt"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// Filter reads a filter on a column of the dataset, or on something computed of each
// row.
func (p *View) Filter(text string) (ask.Filter, error) {
	f, err := ask.ReadFilter(text)
	if err != nil {
		return f, err
	}
	field, err := p.filtered(f.Column)
	if err != nil {
		return f, err
	}
	if err := f.Over(field, p.Setting.Calendar); err != nil {
		return f, fmt.Errorf("the filter %q: %w", text, err)
	}
	return f, nil
}

// filtered returns what a filter looks at; the field has the name of its
// column in the frame.
func (p *View) filtered(id string) (frame.Field, error) {
	if at := p.Scope.Columns.Index(id); at >= 0 {
		return p.Scope.Columns[at], nil
	}
	if ask.Wrapped(id) == id && !strings.Contains(id, "(") {
		if c := p.Set.Column(id); c != nil {
			return frame.Field{}, fmt.Errorf("column %s is computed of groups; rows cannot be filtered by it", id)
		}
		return frame.Field{}, fmt.Errorf("there is no column %q to filter by; %s", id, Offer(id, p.Set.ColumnIDs()))
	}
	f, err := report.Level(id, p.Scope)
	if err != nil {
		return frame.Field{}, fmt.Errorf("the filter on %s: %w", id, err)
	}
	p.place(id, f)
	f.Field.Name = id
	return f.Field, nil
}
