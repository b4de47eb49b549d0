// Package health tells what a catalog needs: reports that nobody runs, that fail or grow
// slow, that say too little of themselves, that are there twice or lead nowhere, each
// with what mends it.
package health

import (
	"context"
	"time"

	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/care"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/store/health"
)

// Records are what the health of reports is told by.
type Records interface {
	Since(ctx context.Context) (map[string]model.Version, error)
	Spent(ctx context.Context, since time.Time) (map[string]time.Duration, error)
	Trails(ctx context.Context, most int) ([]health.Trail, error)
	Untaken(ctx context.Context) ([]model.FileLook, error)
	Uses(ctx context.Context, report string, most int) ([]health.Use, error)
}

// Kept are the criteria that people keep of a report.
type Kept interface {
	AllCriteria(ctx context.Context) ([]model.Criteria, error)
}

// Room looks after the catalog. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	most    capture.Limits
	records Records
	kept    Kept
	people  *access.Room
	catalog *catalog.Room
	care    *care.Room
}

// Access is looking after the catalog as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	looked  *care.Access
}

// Open makes the room; most are the service's own limits of a run.
func Open(org model.Organisation, most capture.Limits, records Records, kept Kept, people *access.Room,
	c *catalog.Room, after *care.Room) *Room {
	return &Room{org: org, most: most, records: records, kept: kept, people: people, catalog: c, care: after}
}

// As returns looking after the catalog as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who), looked: room.care.As(who)}
}

// Reports is how many reports there are.
func (a *Access) Reports() int { return len(a.room.catalog.Present()) }
