package controls

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/emersion/go-ical"

	"mantilla/core/timetable"
	"mantilla/library/access"
	"mantilla/model"
)

// Calendars returns the calendars of days off.
func (a *Access) Calendars(ctx context.Context) ([]model.Calendar, error) {
	return a.room.records.Calendars(ctx)
}

// CalendarOf returns a calendar with its file, as it was taken.
func (a *Access) CalendarOf(ctx context.Context, id string) (model.Calendar, error) {
	all, err := a.room.records.Calendars(ctx)
	if err != nil {
		return model.Calendar{}, err
	}
	var known []string
	for _, c := range all {
		if c.ID == id {
			return c, nil
		}
		known = append(known, c.ID)
	}
	return model.Calendar{}, model.NoSuch("calendar", id, known)
}

// PutCalendar reads an iCalendar file (RFC 5545): each day of its events is a
// day off. Repeated events count for ten years. What is due after the change is
// reckoned anew.
func (a *Access) PutCalendar(ctx context.Context, id string, text []byte) (model.Calendar, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return model.Calendar{}, err
	}
	if !controlID.MatchString(id) {
		return model.Calendar{}, model.Refuse("id", "%q is not the id of a calendar; use small letters, digits and "+
			"hyphens, a letter first", id)
	}
	c := model.Calendar{ID: id, Title: id, Text: string(text)}
	decoder := ical.NewDecoder(bytes.NewReader(text))
	for {
		read, err := decoder.Decode()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return c, model.Refuse("file", "the file is not a calendar: %w", err)
		}
		if name, err := read.Props.Text("X-WR-CALNAME"); err == nil && name != "" {
			c.Title = name
		}
		days, err := a.daysOf(read)
		if err != nil {
			return c, model.Refuse("file", "%w", err)
		}
		c.Days = append(c.Days, days...)
	}
	if len(c.Days) == 0 {
		return c, model.Refuse("file", "the file has no events; each day of an event is a day off")
	}
	slices.Sort(c.Days)
	c.Days = slices.Compact(c.Days)
	if err := a.room.records.PutCalendar(ctx, c); err != nil {
		return c, err
	}
	return c, a.reckonAnew(ctx)
}

// DeleteCalendar deletes a calendar that no timetable counts by.
func (a *Access) DeleteCalendar(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	timed, err := a.room.records.Timed(ctx, model.Seen{All: true})
	if err != nil {
		return err
	}
	for _, k := range timed {
		if c := readControl(k, a.Person().Name); c.Timetable != nil && c.Timetable.Calendar == id {
			return model.Refuse("id", "the timetable of %q counts by it", c.Title)
		}
	}
	c, err := a.CalendarOf(ctx, id)
	if err != nil {
		return err
	}
	return a.room.records.DeleteCalendar(ctx, a.Throws(model.ThrownCalendar, id, c.Title))
}

// PutBackCalendar brings a calendar back that was deleted.
func (a *Access) PutBackCalendar(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	return a.room.records.PutBack(ctx, model.ThrownCalendar, id)
}

// reckonAnew sets the next moments of all timetables that days off move.
func (a *Access) reckonAnew(ctx context.Context) error {
	timed, err := a.room.records.Timed(ctx, model.Seen{All: true})
	if err != nil {
		return err
	}
	now := a.room.org.Now()
	for _, k := range timed {
		c := readControl(k, a.Person().Name)
		if c.Timetable == nil || c.Timetable.Calendar == "" || k.Next.Before(now) {
			continue
		}
		next, err := a.room.nextOf(ctx, c, now)
		if err == nil && !next.IsZero() {
			err = a.room.records.SetNext(ctx, c.ID, next)
		}
		if err != nil {
			return err
		}
	}
	a.room.toDue.Ring()
	return nil
}

// NewFeed makes a secret under which a calendar program reads what is due, in
// the place of an earlier one.
func (a *Access) NewFeed(ctx context.Context) (secret string, err error) {
	if err := a.May(access.Run); err != nil {
		return "", err
	}
	secret = model.NewSecret()
	return secret, a.room.records.PutFeed(ctx, a.Person().Name, model.Digest(secret))
}

// Feed writes what is due for the person of a secret, for the next months, as
// iCalendar.
func (room *Room) Feed(ctx context.Context, secret string) ([]byte, error) {
	p, err := room.records.FeedPerson(ctx, model.Digest(secret))
	if errors.Is(err, model.ErrNotFound) {
		return nil, model.NoSuch("calendar feed", "of this address", nil)
	}
	if err != nil {
		return nil, err
	}
	who, err := room.rooms.People.AsPerson(ctx, p.Name)
	if err != nil {
		return nil, err
	}
	a := room.As(who)
	all, err := a.Timetable(ctx, 1)
	if err != nil {
		return nil, err
	}
	out := ical.NewCalendar()
	out.Props.SetText(ical.PropVersion, "2.0")
	out.Props.SetText(ical.PropProductID, "-//Mantilla//Timetable//EN")
	out.Props.SetText("X-WR-CALNAME", "Reports of "+room.org.Name)
	now := room.org.Now()
	for _, c := range all.Due {
		if c.Paused {
			continue
		}
		plan, off, err := room.planOf(ctx, c.Timetable)
		if err != nil {
			continue // it is told on the timetable's page
		}
		for _, m := range plan.Next(now, off, 30) {
			if m.After(now.AddDate(0, 6, 0)) {
				break
			}
			e := ical.NewEvent()
			e.Props.SetText(ical.PropUID, fmt.Sprintf("%s-%s@mantilla", c.ID, m.UTC().Format("20060102T150405Z")))
			e.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
			e.Props.SetDateTime(ical.PropDateTimeStart, m.UTC())
			e.Props.SetText(ical.PropSummary, c.Title)
			e.Props.SetText(ical.PropDescription, strings.TrimSpace(timetable.Say(plan.Rule)+"\n"+room.org.Address))
			out.Children = append(out.Children, e.Component)
		}
	}
	if len(out.Children) == 0 {
		return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Mantilla//Timetable//EN\r\nEND:VCALENDAR\r\n"), nil
	}
	var b bytes.Buffer
	err = ical.NewEncoder(&b).Encode(out)
	return b.Bytes(), err
}
