package controls

import (
	"mantilla/server/answer"

	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/period"
	"mantilla/model"
)

// GetTimetable answers GET /timetable: what is due, what ran by timetable and what did not.
func (s Controls) GetTimetable(ctx context.Context,
	r handlers.GetTimetableRequestObject) (handlers.GetTimetableResponseObject, error) {
	t, err := answer.As(ctx).Controls.Timetable(ctx, answer.Limit(r.Params.Limit))
	out := handlers.GetTimetable200JSONResponse{Due: []api.Control{}, Ran: []api.ControlRun{}}
	for _, c := range t.Due {
		out.Due = append(out.Due, control(c))
	}
	for _, c := range t.Ran {
		out.Ran = append(out.Ran, s.controlRun(c))
	}
	for _, n := range t.Notes {
		note := out.Notes
		out.Notes = append(note, struct {
			Control string                  `json:"control"`
			Moment  time.Time               `json:"moment"`
			Reason  string                  `json:"reason"`
			State   api.TimetableNotesState `json:"state"`
		}{n.Control, n.Moment, n.Reason, api.TimetableNotesState(n.State)})
	}
	out.Notes = answer.List(out.Notes)
	return out, err
}

// NextDates answers POST /timetable/dates: the rule of a timetable in words, and the next dates.
func (s Controls) NextDates(ctx context.Context, r handlers.NextDatesRequestObject) (handlers.NextDatesResponseObject,
	error) {
	t, err := timetableIn(*r.Body)
	if err != nil {
		return nil, err
	}
	says, moments, err := answer.As(ctx).Controls.NextDates(ctx, t, 10)
	return handlers.NextDates200JSONResponse{Says: says, Dates: answer.List(moments)}, err
}

// NewFeed answers POST /timetable/feed.
func (s Controls) NewFeed(ctx context.Context, _ handlers.NewFeedRequestObject) (handlers.NewFeedResponseObject,
	error) {
	secret, err := answer.As(ctx).Controls.NewFeed(ctx)
	return handlers.NewFeed201JSONResponse{Path: "/api/timetable/feed/" + secret}, err
}

// ReadFeed answers GET /timetable/feed/{secret}: what is due, as an iCalendar file.
func (s Controls) ReadFeed(ctx context.Context, r handlers.ReadFeedRequestObject) (handlers.ReadFeedResponseObject,
	error) {
	text, err := s.Library.Feed(ctx, strings.TrimSuffix(r.Secret, ".ics"))
	return handlers.ReadFeed200TextcalendarResponse{
		Body:          strings.NewReader(string(text)),
		ContentLength: int64(len(text)),
	}, err
}

// PauseControl answers PUT /controls/{control}/pause.
func (s Controls) PauseControl(ctx context.Context,
	r handlers.PauseControlRequestObject) (handlers.PauseControlResponseObject, error) {
	c, err := answer.As(ctx).Controls.PauseControl(ctx, r.Control, r.Body.Paused)
	return handlers.PauseControl200JSONResponse(control(c)), err
}

func (s Controls) daysOff(c model.Calendar) api.DaysOff {
	out := api.DaysOff{Id: c.ID, Title: c.Title, Days: []string{}, Of: len(c.Days)}
	today := s.Library.Calendar().Today
	for _, d := range c.Days {
		if d >= today && d < today+period.Day(400) {
			out.Days = append(out.Days, d.String())
		}
	}
	return out
}

// ListCalendars answers GET /calendars: calendars of days off.
func (s Controls) ListCalendars(ctx context.Context,
	_ handlers.ListCalendarsRequestObject) (handlers.ListCalendarsResponseObject, error) {
	all, err := answer.As(ctx).Controls.Calendars(ctx)
	out := handlers.ListCalendars200JSONResponse{}
	for _, c := range all {
		out = append(out, s.daysOff(c))
	}
	return out, err
}

// GetCalendar answers GET /calendars/{calendar}: the iCalendar file of one, as it was taken.
func (s Controls) GetCalendar(ctx context.Context,
	r handlers.GetCalendarRequestObject) (handlers.GetCalendarResponseObject, error) {
	c, err := answer.As(ctx).Controls.CalendarOf(ctx, r.Calendar)
	return handlers.GetCalendar200TextcalendarResponse{Body: strings.NewReader(c.Text),
		ContentLength: int64(len(c.Text))}, err
}

// PutCalendar answers PUT /calendars/{calendar}: keep a calendar of days off from an iCalendar file.
func (s Controls) PutCalendar(ctx context.Context,
	r handlers.PutCalendarRequestObject) (handlers.PutCalendarResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("reading the calendar: %w", err)
	}
	c, err := answer.As(ctx).Controls.PutCalendar(ctx, r.Calendar, text)
	return handlers.PutCalendar200JSONResponse(s.daysOff(c)), err
}

// DeleteCalendar answers DELETE /calendars/{calendar}: delete a calendar that no timetable counts by.
func (s Controls) DeleteCalendar(ctx context.Context,
	r handlers.DeleteCalendarRequestObject) (handlers.DeleteCalendarResponseObject, error) {
	return handlers.DeleteCalendar204Response{}, answer.As(ctx).Controls.DeleteCalendar(ctx, r.Calendar)
}
