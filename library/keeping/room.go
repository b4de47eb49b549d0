// Package keeping is what results are kept for: results are made of results, as what changed
// from one to another; they are signed off and held, and people write notes on them.
package keeping

import (
	"log/slog"
	"sync"
	"time"

	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/notices"
	"mantilla/library/reading"
	"mantilla/model"
)

// Room makes results of results. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	asking  *asking.Room
	reading *reading.Room
	log     *slog.Logger
	began   time.Time
	keying  sync.Mutex // held while the first key is made

	alarming sync.Mutex // held while people are told of what was missed

	// What follows is set before anybody is let in, and before a worker makes anything.
	capture *capture.Room
	notices *notices.Room
	owner   func(report string) string // who looks after a report; "" for nobody
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
func Open(org model.Organisation, records Records, people *access.Room, asked *asking.Room, read *reading.Room,
	log *slog.Logger) *Room {
	room := &Room{org: org, records: records, people: people, asking: asked, reading: read, log: log,
		began: org.Now()}
	read.Writes(room.written)
	return room
}

// Joins lets the room put what it makes in the queue, whose workers call [Room.Make], tell
// people of what concerns them, and know who looks after a report.
func (room *Room) Joins(c *capture.Room, told *notices.Room, owner func(report string) string) {
	room.capture, room.notices, room.owner = c, told, owner
	c.Makes(model.HowCompare, room.Make)
	c.Restates(room.restate)
}

// As returns keeping as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, asking: room.asking.As(who), reading: room.reading.As(who),
		capture: room.capture.As(who)}
}
