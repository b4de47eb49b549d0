// Package care is looking after reports and those who need them: who owns a report and when
// it is looked at again, who asks for one that is not open to them, who uses which, and what
// becomes of the things of a person who leaves.
package care

import (
	"context"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"mantilla/core/period"
	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/library/catalog"
	"mantilla/library/notices"
	"mantilla/model"
	"mantilla/store/care"
)

// Records are what the room keeps.
type Records interface {
	Adopt(ctx context.Context, report, owner string) (model.Care, error)
	AddRequest(ctx context.Context, r model.Request) (number int64, err error)
	AnswerRequest(ctx context.Context, r model.Request) error
	Cares(ctx context.Context) ([]model.Care, error)
	HandOver(ctx context.Context, from, to string) (moved []string, err error)
	Popular(ctx context.Context, people []string, since time.Time, most int) ([]string, error)
	PutCare(ctx context.Context, c model.Care) error
	Recent(ctx context.Context, person string, most int) ([]string, error)
	Reminded(ctx context.Context, c model.Care) error
	Request(ctx context.Context, number int64) (model.Request, error)
	Requests(ctx context.Context, person string, limit int) ([]model.Request, error)
	Unreminded(ctx context.Context, today period.Day) ([]model.Care, error)
	Used(ctx context.Context, report string, most int) ([]care.Used, error)
	Visit(ctx context.Context, person, report, what string, at time.Time) error
}

// Room looks after reports. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	catalog *catalog.Room
	notices *notices.Room
	work    *background.Work
	log     *slog.Logger

	mu      sync.RWMutex // guards what follows
	cares   map[string]model.Care
	popular map[string]counted // by groups
}

// Access is looking after reports as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
}

// Open reads who looks after what, and lets the catalog list what is listed.
func Open(ctx context.Context, org model.Organisation, records Records, people *access.Room, c *catalog.Room,
	told *notices.Room, work *background.Work, log *slog.Logger) (*Room, error) {
	room := &Room{org: org, records: records, people: people, catalog: c, notices: told, work: work, log: log,
		popular: map[string]counted{}}
	if err := room.reload(ctx); err != nil {
		return nil, err
	}
	c.Lists(room.listed)
	c.Renames(room.reload)
	people.Renames(room.reload)
	return room, nil
}

// As returns looking after reports as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who)}
}

func (room *Room) reload(ctx context.Context) error {
	all, err := room.records.Cares(ctx)
	if err != nil {
		return fmt.Errorf("reading who looks after reports: %w", err)
	}
	cares := map[string]model.Care{}
	for _, c := range all {
		cares[c.Report] = c
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	room.cares = cares
	return nil
}

func (room *Room) of(report string) model.Care {
	room.mu.RLock()
	defer room.mu.RUnlock()
	c := room.cares[report]
	c.Report = report
	return c
}

func (room *Room) listed(report string) bool { return room.of(report).Listed }

// Of is how a report is looked after, for whoever tells of it.
func (room *Room) Of(report string) model.Care { return room.of(report) }
