// Package reconciling holds results against what others state of the same thing: statements are
// read from files and kept, and what matches, differs and stays open is a result of its own.
package reconciling

import (
	"context"
	"log/slog"

	"mantilla/core/timetable"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/reading"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	AddStatement(ctx context.Context, s model.Statement, data []byte) (number int64, err error)
	DeleteStatement(ctx context.Context, number int64) error
	Statement(ctx context.Context, number int64) (s model.Statement, data []byte, err error)
	// Statements are those of a report, the newest first.
	Statements(ctx context.Context, report string) ([]model.Statement, error)
}

// Room reconciles. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	catalog *catalog.Room
	reading *reading.Room
	log     *slog.Logger

	// What follows is set before anybody is let in, and before a worker makes anything.
	capture *capture.Room
	daysOff func(ctx context.Context, calendar string) (timetable.DaysOff, error)
}

// Access is reconciling as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	reading *reading.Access
	capture *capture.Access
}

// Open makes the room.
func Open(org model.Organisation, records Records, people *access.Room, c *catalog.Room, read *reading.Room,
	log *slog.Logger) *Room {
	return &Room{org: org, records: records, people: people, catalog: c, reading: read, log: log}
}

// Joins lets the room put what it makes in the queue, whose workers call [Room.Make], and count
// working days.
func (room *Room) Joins(c *capture.Room, daysOff func(context.Context, string) (timetable.DaysOff, error)) {
	room.capture, room.daysOff = c, daysOff
	c.Makes(model.HowReconcile, room.Make)
}

// As returns reconciling as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who), reading: room.reading.As(who),
		capture: room.capture.As(who)}
}
