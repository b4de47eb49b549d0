// Package shelf keeps documents and links: beside a report, where they are open to whom the
// report is, or on a shelf by category, where they are opened as reports are.
package shelf

import (
	"context"
	"fmt"
	"log/slog"
	"sync"

	"mantilla/core/search"
	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	AddVersion(ctx context.Context, resource string, v model.ResourceVersion, data []byte) (number int, err error)
	Data(ctx context.Context, resource string, number int) (data []byte, err error)
	DeleteResource(ctx context.Context, t model.Thrown) error
	ForgetResource(ctx context.Context, id string) error
	PutBack(ctx context.Context, kind, id string) error
	PutResource(ctx context.Context, r model.Resource) error
	Resources(ctx context.Context) ([]model.Resource, error)
	Versions(ctx context.Context, resource string) ([]model.ResourceVersion, error)
}

// Room keeps documents and links. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	catalog *catalog.Room
	log     *slog.Logger

	mu    sync.RWMutex // guards what follows
	all   []model.Resource
	index *search.Index // of all, by place
}

// Access is documents and links as one person may use them.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
}

// Open reads what is kept.
func Open(ctx context.Context, org model.Organisation, records Records, people *access.Room, c *catalog.Room,
	log *slog.Logger) (*Room, error) {
	room := &Room{org: org, records: records, people: people, catalog: c, log: log}
	c.Renames(room.Reload)
	return room, room.Reload(ctx)
}

// As returns documents and links as a person may use them.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who)}
}

// Reload reads what is kept again, after something else changed it.
func (room *Room) Reload(ctx context.Context) error {
	all, err := room.records.Resources(ctx)
	if err != nil {
		return fmt.Errorf("reading documents and links: %w", err)
	}
	docs := make([][]search.Field, len(all))
	for i, r := range all {
		docs[i] = []search.Field{{Text: r.Title + " " + r.ID},
			{Text: r.Category + " " + r.About + " " + r.Latest.Name, Weight: 2}}
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	room.all, room.index = all, search.New(docs)
	return nil
}

func (room *Room) kept() ([]model.Resource, *search.Index) {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.all, room.index
}

// find returns a document or link; nil for none.
func (room *Room) find(id string) *model.Resource {
	all, _ := room.kept()
	for i := range all {
		if all[i].ID == id {
			found := all[i]
			return &found
		}
	}
	return nil
}

// opening is under what it is kept to whom a thing on a shelf is open.
func opening(id string) string { return "shelf/" + id }
