package server

import (
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

func (s *service) GetTimetable(ctx context.Context,
	r handlers.GetTimetableRequestObject) (handlers.GetTimetableResponseObject, error) {
	t, err := as(ctx).Controls.Timetable(ctx, limit(r.Params.Limit))
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
	out.Notes = list(out.Notes)
	return out, err
}

func (s *service) NextDates(ctx context.Context, r handlers.NextDatesRequestObject) (handlers.NextDatesResponseObject,
	error) {
	t, err := timetableIn(*r.Body)
	if err != nil {
		return nil, err
	}
	says, moments, err := as(ctx).Controls.NextDates(ctx, t, 10)
	return handlers.NextDates200JSONResponse{Says: says, Dates: list(moments)}, err
}

func (s *service) NewFeed(ctx context.Context, _ handlers.NewFeedRequestObject) (handlers.NewFeedResponseObject,
	error) {
	secret, err := as(ctx).Controls.NewFeed(ctx)
	return handlers.NewFeed201JSONResponse{Path: "/api/timetable/feed/" + secret}, err
}

func (s *service) ReadFeed(ctx context.Context, r handlers.ReadFeedRequestObject) (handlers.ReadFeedResponseObject,
	error) {
	text, err := s.library.Feed(ctx, strings.TrimSuffix(r.Secret, ".ics"))
	return handlers.ReadFeed200TextcalendarResponse{
		Body:          strings.NewReader(string(text)),
		ContentLength: int64(len(text)),
	}, err
}

func (s *service) PauseControl(ctx context.Context,
	r handlers.PauseControlRequestObject) (handlers.PauseControlResponseObject, error) {
	c, err := as(ctx).Controls.PauseControl(ctx, r.Control, r.Body.Paused)
	return handlers.PauseControl200JSONResponse(control(c)), err
}

func (s *service) daysOff(c model.Calendar) api.DaysOff {
	out := api.DaysOff{Id: c.ID, Title: c.Title, Days: []string{}, Of: len(c.Days)}
	today := s.library.Calendar().Today
	for _, d := range c.Days {
		if d >= today && d < today+period.Day(400) {
			out.Days = append(out.Days, d.String())
		}
	}
	return out
}

func (s *service) ListCalendars(ctx context.Context,
	_ handlers.ListCalendarsRequestObject) (handlers.ListCalendarsResponseObject, error) {
	all, err := as(ctx).Controls.Calendars(ctx)
	out := handlers.ListCalendars200JSONResponse{}
	for _, c := range all {
		out = append(out, s.daysOff(c))
	}
	return out, err
}

func (s *service) PutCalendar(ctx context.Context,
	r handlers.PutCalendarRequestObject) (handlers.PutCalendarResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("reading the calendar: %w", err)
	}
	c, err := as(ctx).Controls.PutCalendar(ctx, r.Calendar, text)
	return handlers.PutCalendar200JSONResponse(s.daysOff(c)), err
}

func (s *service) DeleteCalendar(ctx context.Context,
	r handlers.DeleteCalendarRequestObject) (handlers.DeleteCalendarResponseObject, error) {
	return handlers.DeleteCalendar204Response{}, as(ctx).Controls.DeleteCalendar(ctx, r.Calendar)
}
