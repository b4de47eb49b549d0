// Package desk keeps the tiles that people and groups look at first: views of the
// latest results of run controls.
package desk

import (
	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/reading"
	"mantilla/model"
)

// Room keeps desks. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	records  Records
	catalog  *catalog.Room
	controls *controls.Room
	reading  *reading.Room
}

// Access is the desks as one person may use them.
type Access struct {
	*access.Access
	room     *Room
	catalog  *catalog.Access
	controls *controls.Access
	reading  *reading.Access
}

// Open makes the room.
func Open(org model.Organisation, records Records, c *catalog.Room, of *controls.Room, read *reading.Room) *Room {
	return &Room{org: org, records: records, catalog: c, controls: of, reading: read}
}

// As returns the desks as a person may use them.
func (room *Room) As(who *access.Access) *Access {
	return &Access{
		Access:   who,
		room:     room,
		catalog:  room.catalog.As(who),
		controls: room.controls.As(who),
		reading:  room.reading.As(who),
	}
}
