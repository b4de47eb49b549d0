// Package asking is what a report is asked with: its form, what typed values come
// to today, the criteria that people keep, and until when they looked.
package asking

import (
	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/model"
)

// Room resolves values and keeps criteria and marks. It is safe for several
// goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	catalog *catalog.Room
}

// Access is asking as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
}

// Open makes the room.
func Open(org model.Organisation, records Records, people *access.Room, c *catalog.Room) *Room {
	return &Room{org: org, records: records, people: people, catalog: c}
}

// As returns asking as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who)}
}
