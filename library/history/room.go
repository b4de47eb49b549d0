// Package history reads the results of a run control in their order as a history: what each row
// was, since when and until when, also where the source holds only what is now.
package history

import (
	"context"
	"log/slog"

	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/reading"
	"mantilla/model"
)

// Records are what the room asks.
type Records interface {
	// Gaps are the due moments of a run control that left no result of a report, in their order.
	Gaps(ctx context.Context, control, report string) ([]model.MissedMoment, error)
}

// Room reads histories. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	reading *reading.Room
	log     *slog.Logger

	// What follows is set before anybody is let in, and before a worker makes anything.
	capture  *capture.Room
	controls *controls.Room
}

// Access is histories as one person may read them.
type Access struct {
	*access.Access
	room     *Room
	reading  *reading.Access
	capture  *capture.Access
	controls *controls.Access
}

// Open makes the room.
func Open(org model.Organisation, records Records, people *access.Room, read *reading.Room, log *slog.Logger) *Room {
	return &Room{org: org, records: records, people: people, reading: read, log: log}
}

// Joins lets the room put what it makes in the queue, whose workers call [Room.Make], and know run
// controls.
func (room *Room) Joins(c *capture.Room, k *controls.Room) {
	room.capture, room.controls = c, k
	c.Makes(model.HowHistory, room.Make)
}

// As returns histories as a person may read them.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, reading: room.reading.As(who), capture: room.capture.As(who),
		controls: room.controls.As(who)}
}
