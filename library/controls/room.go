// Package controls keeps run controls, queues them when somebody asks or when
// they are due, and keeps the calendars that their timetables count by.
package controls

import (
	"context"
	"log/slog"
	"slices"
	"time"

	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/background"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/sending"
	"mantilla/model"
)

// Room keeps run controls and their time. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	rooms   Rooms
	log     *slog.Logger
	work    *background.Work
	toDue   background.Bell // wakes the timetable
}

// Rooms are those that run controls draw on.
type Rooms struct {
	People  *access.Room
	Catalog *catalog.Room
	Asking  *asking.Room
	Capture *capture.Room
	Sending *sending.Room
}

// Access is run controls as one person may use them.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	asking  *asking.Access
	capture *capture.Access
	sending *sending.Access
}

// Open makes the room. A report that a control runs cannot be deleted from then on.
func Open(ctx context.Context, org model.Organisation, records Records, rooms Rooms, work *background.Work,
	log *slog.Logger) (*Room, error) {
	room := &Room{org: org, records: records, rooms: rooms, work: work, log: log, toDue: background.NewBell()}
	rooms.Catalog.ReportNeeded = room.needed
	return room, room.catchUp(ctx)
}

// As returns run controls as a person may use them.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.rooms.Catalog.As(who), asking: room.rooms.Asking.As(who),
		capture: room.rooms.Capture.As(who), sending: room.rooms.Sending.As(who)}
}

// Begin queues what is due, now and from now on.
func (room *Room) Begin() {
	room.work.Go(room.keepTime)
	room.work.Go(room.keepUp)
}

// keepUp takes back, every hour, moments that a clock once set far ahead left
// behind.
func (room *Room) keepUp() {
	for room.work.Sleep(time.Hour, nil) {
		if err := room.catchUp(room.work.Context()); err != nil && room.work.Context().Err() == nil {
			room.log.Error("looking at timetables anew", "error", err)
		}
	}
}

// needed says which run control runs a report.
func (room *Room) needed(ctx context.Context, report string) error {
	all, err := room.records.Controls(ctx, model.Seen{All: true}, "", 100_000)
	if err != nil {
		return err
	}
	for _, kept := range all {
		c := readControl(kept, "")
		if slices.ContainsFunc(c.Steps, func(s Step) bool { return s.Report == report }) {
			return model.Refuse("report", "the run control %q of %s runs it; change or delete that first", c.Title, c.Owner)
		}
	}
	return nil
}
