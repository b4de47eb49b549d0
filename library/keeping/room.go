// Package keeping is what results are kept for: results are made of results, as what changed
// from one to another.
package keeping

import (
	"log/slog"

	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/reading"
	"mantilla/model"
)

// Room makes results of results. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	people  *access.Room
	asking  *asking.Room
	reading *reading.Room
	capture *capture.Room // set before anybody is let in
	log     *slog.Logger
}

// Access is keeping as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	asking  *asking.Access
	reading *reading.Access
	capture *capture.Access
}

// Open makes the room.
func Open(org model.Organisation, people *access.Room, asked *asking.Room, read *reading.Room, log *slog.Logger) *Room {
	return &Room{org: org, people: people, asking: asked, reading: read, log: log}
}

// Queues lets the room put what it makes in the queue, whose workers call [Room.Make].
func (room *Room) Queues(c *capture.Room) { room.capture = c }

// As returns keeping as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, asking: room.asking.As(who), reading: room.reading.As(who),
		capture: room.capture.As(who)}
}
