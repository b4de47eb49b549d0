// Package standing tells how the service stands, part by part, to what watches over it: records,
// disk, sources, runs, mail, timetable, back-ups, audit.
package standing

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/library/backup"
	"mantilla/library/catalog"
	"mantilla/model"
)

// Records are what the room reads.
type Records interface {
	Answers(ctx context.Context) error
	Allowance(ctx context.Context, person string) (model.Allowance, error)
	Counts(ctx context.Context) (model.Counts, error)
	GiveBack(ctx context.Context) (more bool, err error)
	DeleteKeepRule(ctx context.Context, kind, id string) error
	KeepRules(ctx context.Context) ([]model.KeepRule, error)
	PutKeepRule(ctx context.Context, x model.KeepRule) error
	PutQuota(ctx context.Context, x model.Quota) error
	Quotas(ctx context.Context) ([]model.Quota, error)
	TryKeepRule(ctx context.Context, x model.KeepRule, now time.Time, sample int) (model.RuleEffect, error)
	Space(ctx context.Context, now time.Time) (model.Space, error)
}

// Part is a part of the service and how it stands. What is not good enough to serve is not ready.
type Part struct {
	Name  string `json:"name"`
	Ready bool   `json:"ready"`
	Good  bool   `json:"good"` // nothing is to be done about it
	Says  string `json:"says"`
}

// Room looks at the parts. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	dir     string
	records Records
	catalog *catalog.Room
	backup  *backup.Room
	sends   bool // lines of the audit are sent on
}

// Open makes the room; dir is where the records lie.
func Open(org model.Organisation, dir string, records Records, c *catalog.Room, b *backup.Room, sends bool) *Room {
	return &Room{org: org, dir: dir, records: records, catalog: c, backup: b, sends: sends}
}

// How late something may be before it is told.
const (
	lateRun    = 10 * time.Minute
	lateParcel = 30 * time.Minute
	lateDue    = 5 * time.Minute
	mostUnsent = 1000
)

// Counts are how much of everything there is.
func (room *Room) Counts(ctx context.Context) (model.Counts, error) { return room.records.Counts(ctx) }

// Sources tells of each source whether it can be read.
func (room *Room) Sources() map[string]bool {
	out := map[string]bool{}
	for _, id := range room.catalog.SourceIDs() {
		_, why := room.catalog.Silent(id)
		out[id] = why == nil
	}
	return out
}

// Parts are how all parts stand.
func (room *Room) Parts(ctx context.Context) []Part {
	parts := []Part{room.answers(ctx), room.disk()}
	counts, err := room.records.Counts(ctx)
	if err != nil {
		return append(parts, Part{Name: "counts", Says: err.Error()})
	}
	now := room.org.Now()
	parts = append(parts, room.waiting("runs", "run", counts.Runs, counts.RunSince, now, lateRun),
		room.waiting("mail", "parcel", counts.Parcels, counts.ParcelSince, now, lateParcel))
	due := Part{Name: "timetable", Ready: true, Good: true, Says: "nothing is late"}
	if late := now.Sub(counts.NextDue); !counts.NextDue.IsZero() && late > lateDue {
		due.Good, due.Says = false, fmt.Sprintf("a moment is %s late", late.Round(time.Second))
	}
	parts = append(parts, due, room.sources())
	if why, at := room.backup.Fault(); why != "" {
		parts = append(parts, Part{Name: "back-ups", Ready: true, Says: "the last was not made, " +
			at.UTC().Format(time.RFC3339) + ": " + why})
	} else {
		parts = append(parts, Part{Name: "back-ups", Ready: true, Good: true, Says: "none failed"})
	}
	audit := Part{Name: "audit", Ready: true, Good: true, Says: "it is kept"}
	if room.sends {
		audit.Says = fmt.Sprintf("%d lines wait to be sent on", counts.Unsent)
		audit.Good = counts.Unsent < mostUnsent
	}
	return append(parts, audit)
}

func (room *Room) answers(ctx context.Context) Part {
	err := room.records.Answers(ctx)
	switch {
	case errors.Is(err, context.DeadlineExceeded) && ctx.Err() == nil: // somebody writes much
		return Part{Name: "records", Ready: true, Says: "they can be read; whoever writes has to wait"}
	case err != nil:
		return Part{Name: "records", Says: err.Error()}
	}
	return Part{Name: "records", Ready: true, Good: true, Says: "they can be read and written"}
}

func (room *Room) disk() Part {
	free, all, err := Free(room.dir)
	if err != nil {
		return Part{Name: "disk", Ready: true, Says: err.Error()}
	}
	p := Part{Name: "disk", Ready: true, Good: free > Low(all), Says: fmt.Sprintf("%s of %s are free", size(free),
		size(all))}
	if free < Least {
		p.Says += "; nothing new is kept until there is more"
	}
	return p
}

func (room *Room) waiting(name, one string, states map[string]int64, since, now time.Time, late time.Duration) Part {
	p := Part{Name: name, Ready: true, Good: true, Says: fmt.Sprintf("%d wait", states["waiting"])}
	if name == "runs" {
		p.Says = fmt.Sprintf("%d run, %d wait", states["running"], states["waiting"])
	}
	if waits := now.Sub(since); !since.IsZero() && waits > late {
		p.Good = false
		p.Says += fmt.Sprintf("; the oldest %s since %s", one, waits.Round(time.Second))
	}
	return p
}

func (room *Room) sources() Part {
	p := Part{Name: "sources", Ready: true, Good: true, Says: "all can be read"}
	for _, id := range room.catalog.SourceIDs() {
		since, why := room.catalog.Silent(id)
		if why == nil {
			continue
		}
		p.Good = false
		p.Says = fmt.Sprintf("%s: %v", id, why)
		if !since.IsZero() {
			p.Says = fmt.Sprintf("%s does not answer since %s: %v", id, since.UTC().Format(time.RFC3339), why)
		}
		return p
	}
	return p
}

func size(bytes int64) string {
	switch {
	case bytes < 1e6:
		return fmt.Sprintf("%.1f kB", float64(bytes)/1e3)
	case bytes < 1e9:
		return fmt.Sprintf("%.1f MB", float64(bytes)/1e6)
	}
	return fmt.Sprintf("%.1f GB", float64(bytes)/1e9)
}

// Access is how the service stands, as one person may ask.
type Access struct {
	*access.Access
	room *Room
}

// As returns it as a person may ask.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// Space tells what takes space.
func (a *Access) Space(ctx context.Context) (x model.Space, err error) {
	if err := a.May(access.KeepService); err != nil {
		return x, err
	}
	if x, err = a.room.records.Space(ctx, a.room.org.Now()); err != nil {
		return x, err
	}
	x.DiskFree, x.Disk, err = Free(a.room.dir)
	return x, err
}

// Watch gives back to the disk what deletions left free, until the library closes.
func (room *Room) Watch(work *background.Work, log *slog.Logger) {
	for pause := time.Hour; work.Sleep(pause, nil); {
		more, err := room.records.GiveBack(work.Context())
		pause = time.Hour
		if err != nil && work.Context().Err() == nil {
			log.Error("what is free in the records is not given back", "error", err)
		} else if more {
			pause = 100 * time.Millisecond
		}
	}
}
