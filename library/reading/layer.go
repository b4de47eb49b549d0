package reading

import (
	"context"
	"fmt"
	"time"

	"mantilla/core/entries"
	"mantilla/core/period"
	"mantilla/model"
)

// layer is what people typed in beside the rows of a reading's dataset. It is told with the view.
// In a result that was signed off it is as it was then, where nothing else is asked for.
func (a *Access) layer(ctx context.Context, r *Result, read *Reading, calendar period.Calendar) (*entries.Layer,
	error) {
	if !read.Dataset.HasEntries() || a.room.layers == nil {
		return new(entries.Layer), nil
	}
	asOf, err := asOf(read.Changes.Entries, r, calendar)
	if err != nil {
		return nil, err
	}
	month := calendar.Period(period.Months, calendar.Today).First
	layer, err := a.room.layers(ctx, r.Report, read.Dataset.ID, asOf, month)
	if err != nil {
		return nil, fmt.Errorf("reading what was typed in: %w", err)
	}
	says := "Nothing was typed in beside these rows"
	if layer.Revision > 0 {
		says = fmt.Sprintf("With what was typed in until %s (entry %d)",
			layer.At.In(r.zone).Format("2 January 2006 15:04 MST"), layer.Revision)
	}
	if !asOf.IsZero() {
		says += ", as of " + asOf.In(r.zone).Format("2 January 2006 15:04 MST")
	}
	told := *read.View
	if told.Says != "" {
		says = told.Says + " " + says
	}
	told.Says = says + "."
	read.View = &told
	return layer, nil
}

// asOf reads as of which moment entries count: a moment, or the end of a day.
func asOf(typed string, r *Result, calendar period.Calendar) (time.Time, error) {
	switch {
	case typed == "" && r.Signed && len(r.Signs) > 0:
		return r.Signs[len(r.Signs)-1].At, nil
	case typed == "" || typed == "now":
		return time.Time{}, nil
	}
	if at, err := time.Parse(time.RFC3339, typed); err == nil {
		return at, nil
	}
	day, err := calendar.ParseDay(typed)
	if err != nil {
		return time.Time{}, model.Refuse("entries", "%q is neither a day nor a moment such as 2026-10-14T12:00:00Z", typed)
	}
	return calendar.Interval(period.Range{First: day, Last: day}).To, nil
}
