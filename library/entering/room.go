// Package entering keeps what people type in beside the rows of results: values that belong to the
// key of a row, stay when the rows are read anew, and have who, when, from what and why.
package entering

import (
	"context"
	"log/slog"
	"time"

	"mantilla/core/entries"
	"mantilla/core/period"
	"mantilla/library/access"
	"mantilla/library/reading"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	Cell(ctx context.Context, report, dataset, column, key string) ([]model.Entry, error)
	// Entries are the last of each cell of a dataset, of those before a moment; of all where it is
	// zero. They come in the order of their numbers.
	Entries(ctx context.Context, report, dataset string, before time.Time) ([]model.Entry, error)
	// LastChange is what a person changed last in a dataset and did not undo.
	LastChange(ctx context.Context, report, dataset, person string) ([]model.Entry, error)
	PutEntries(ctx context.Context, report, dataset string, cells []model.EntryCell, of model.Entry) ([]model.Entry, error)
}

// Room keeps what people type in. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	reading *reading.Room
	log     *slog.Logger
}

// Access is typing in as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	reading *reading.Access
}

// Open makes the room; results are read with what it keeps.
func Open(org model.Organisation, records Records, read *reading.Room, log *slog.Logger) *Room {
	room := &Room{org: org, records: records, reading: read, log: log}
	read.Lays(room.layer)
	return room
}

// As returns typing in as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, reading: room.reading.As(who)}
}

// layer is what was typed in beside the rows of a dataset; a [reading.Layers].
func (room *Room) layer(ctx context.Context, report, dataset string, asOf time.Time, month period.Day) (*entries.Layer,
	error) {
	now, err := room.records.Entries(ctx, report, dataset, asOf)
	if err != nil {
		return nil, err
	}
	l := &entries.Layer{Now: values(now)}
	if len(now) > 0 {
		last := now[len(now)-1]
		l.Revision, l.At = last.Number, last.At
	}
	first := period.Calendar{Zone: room.org.Zone}.Interval(period.Range{First: month, Last: month}).From
	if !asOf.IsZero() && asOf.Before(first) {
		first = asOf
	}
	before, err := room.records.Entries(ctx, report, dataset, first)
	if err != nil {
		return nil, err
	}
	l.Before = values(before)
	return l, nil
}

func values(of []model.Entry) entries.Values {
	out := entries.Values{}
	for _, e := range of {
		if e.Value == "" {
			continue
		}
		if out[e.Column] == nil {
			out[e.Column] = map[string]string{}
		}
		out[e.Column][e.Key] = e.Value
	}
	return out
}
