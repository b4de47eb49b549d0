// Package moving takes reports from one service to another: it makes bundles of what is
// here, tells what one would change, and takes it in, all or nothing.
package moving

import (
	"context"
	"log/slog"
	"time"

	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/library/meaning"
	"mantilla/library/shelf"
	"mantilla/model"
	"mantilla/store/moving"
)

// Records are what travels, and what it becomes.
type Records interface {
	Controls(ctx context.Context) ([]model.Control, error)
	Take(ctx context.Context, l moving.Load, at time.Time) error
}

// Kept are what people keep of reports.
type Kept interface {
	Criteria(ctx context.Context, report string) ([]model.Criteria, error)
	Views(ctx context.Context, report string) ([]model.View, error)
}

// Room makes and takes bundles. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	kept    Kept
	people  *access.Room
	catalog *catalog.Room
	meaning *meaning.Room
	shelf   *shelf.Room
	log     *slog.Logger
}

// Access is moving reports as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	shelf   *shelf.Access
}

// Rooms are the rooms that moving reports needs.
type Rooms struct {
	People  *access.Room
	Catalog *catalog.Room
	Meaning *meaning.Room
	Shelf   *shelf.Room
}

// Open makes the room.
func Open(org model.Organisation, records Records, kept Kept, of Rooms, log *slog.Logger) *Room {
	return &Room{org: org, records: records, kept: kept, people: of.People, catalog: of.Catalog, meaning: of.Meaning,
		shelf: of.Shelf, log: log}
}

// As returns moving reports as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who), shelf: room.shelf.As(who)}
}
