// Package drafting is where reports are written: sources are looked at, drafts are
// kept, shared, tried out, handed in and taken into the catalog, and whoever depends on
// a report is known before it changes and told after.
package drafting

import (
	"context"
	"fmt"
	"log/slog"

	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/care"
	"mantilla/library/catalog"
	"mantilla/library/meaning"
	"mantilla/library/notices"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/store/drafting"
)

// Records are what the room keeps, and finds of what others keep.
type Records interface {
	AddDraft(ctx context.Context, d model.Draft) (number int64, err error)
	AddFeedback(ctx context.Context, f model.Feedback) (number int64, err error)
	AnswerFeedback(ctx context.Context, f model.Feedback) error
	Feedback(ctx context.Context, person string, limit int) ([]model.Feedback, error)
	FeedbackNumbered(ctx context.Context, number int64) (model.Feedback, error)
	Criteria(ctx context.Context, report string) ([]model.Criteria, error)
	DeleteDraft(ctx context.Context, t model.Thrown) error
	Draft(ctx context.Context, number int64) (model.Draft, error)
	Drafts(ctx context.Context) ([]model.Draft, error)
	ForgetDraft(ctx context.Context, d model.Draft) error
	PutBack(ctx context.Context, kind, id string) error
	PutDraft(ctx context.Context, d model.Draft, tried string) error
	Steps(ctx context.Context, report string) ([]drafting.Step, error)
	Tiles(ctx context.Context) ([]drafting.Tile, error)
	Views(ctx context.Context, report string) ([]model.View, error)
}

// Room keeps drafts and notices. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	people  *access.Room
	catalog *catalog.Room
	capture *capture.Room
	reading *reading.Room
	notices *notices.Room
	care    *care.Room
	meaning *meaning.Room
	log     *slog.Logger
}

// Access is writing reports as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	capture *capture.Access
	reading *reading.Access
}

// Rooms are the rooms that writing reports needs.
type Rooms struct {
	People  *access.Room
	Catalog *catalog.Room
	Capture *capture.Room
	Reading *reading.Room
	Notices *notices.Room
	Care    *care.Room
	Meaning *meaning.Room
}

// Open lets the drafts that are right be tried out.
func Open(ctx context.Context, org model.Organisation, records Records, of Rooms, log *slog.Logger) (*Room, error) {
	people, c := of.People, of.Catalog
	room := &Room{org: org, records: records, people: people, catalog: c, capture: of.Capture, reading: of.Reading,
		notices: of.Notices, care: of.Care, meaning: of.Meaning, log: log}
	drafts, err := records.Drafts(ctx)
	if err != nil {
		return nil, fmt.Errorf("reading the drafts: %w", err)
	}
	service := c.As(people.AsService())
	for _, d := range drafts {
		if read, faults, err := service.ReadReport([]byte(d.Text)); err == nil && len(faults) == 0 {
			c.SetDraft(d.ReportID(), read)
		}
	}
	return room, nil
}

// As returns writing reports as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who), capture: room.capture.As(who),
		reading: room.reading.As(who)}
}
