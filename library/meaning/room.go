// Package meaning tells what the columns of reports mean and where their figures come
// from: the glossary that columns point to, and, from a column of a report or a result, the
// formula, the columns in it, the SQL, and the tables that it reads.
package meaning

import (
	"context"
	"fmt"
	"log/slog"
	"sync"

	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/library/reading"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	DeleteTerm(ctx context.Context, id string) error
	PutTerm(ctx context.Context, t model.Term) error
	Terms(ctx context.Context) ([]model.Term, error)
}

// Room keeps the glossary. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	catalog *catalog.Room
	reading *reading.Room
	log     *slog.Logger

	mu    sync.RWMutex // guards what follows
	terms []model.Term // by name
}

// Access is the glossary as one person may use it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	reading *reading.Access
}

// Open reads the glossary, and lets the catalog find reports by it.
func Open(ctx context.Context, org model.Organisation, records Records, people *access.Room, c *catalog.Room,
	read *reading.Room, log *slog.Logger) (*Room, error) {
	room := &Room{org: org, records: records, people: people, catalog: c, reading: read, log: log}
	if err := room.Reload(ctx); err != nil {
		return nil, err
	}
	c.Beside(room)
	people.Renames(room.Reload)
	read.Explains(room.explains)
	return room, nil
}

// As returns the glossary as a person may use it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who), reading: room.reading.As(who)}
}

// Reload reads the glossary again, after something else changed its records.
func (room *Room) Reload(ctx context.Context) error {
	terms, err := room.records.Terms(ctx)
	if err != nil {
		return fmt.Errorf("reading the glossary: %w", err)
	}
	room.mu.Lock()
	room.terms = terms
	room.mu.Unlock()
	room.catalog.Changed()
	return nil
}
