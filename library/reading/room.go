// Package reading lays kept results out as sheets, opens their figures, keeps
// views, and takes results away as files.
package reading

import (
	"context"
	"fmt"
	"log/slog"
	"path/filepath"
	"time"

	"mantilla/core/entries"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/library/background"
	"mantilla/library/catalog"
	"mantilla/model"
)

// Room reads results. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	records  Records
	catalog  *catalog.Room
	log      *slog.Logger
	work     *background.Work
	exports  *exports
	currency string // of money in results that were kept before results knew theirs
	key      []byte // that pseudonyms of personal columns are made by
	most     int64  // rows that may come at once from an engine where they stay

	// What follows is set before anybody is let in.
	explains func(c *report.Column) string // what a column means
	written  Written
	layers   Layers
}

// Layers is what people typed in beside the rows of a dataset of a report, as of a moment; now
// where it is zero. Last month ended before a day.
type Layers func(ctx context.Context, report, dataset string, asOf time.Time, month period.Day) (*entries.Layer, error)

// Lays lets results be read with what people typed in beside their rows.
func (room *Room) Lays(layers Layers) { room.layers = layers }

// Written are the open notes on a result, in sentences with moments of a zone.
type Written func(ctx context.Context, result int64, zone *time.Location) ([]string, error)

// Writes lets what is taken away have what people wrote on a result.
func (room *Room) Writes(written Written) { room.written = written }

// Explains lets what is taken away tell what its columns mean.
func (room *Room) Explains(explains func(c *report.Column) string) { room.explains = explains }

// Access is reading as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
}

// Open makes the room; files to be fetched are written below dir, and at most so many rows come at once
// from an engine where they stay.
func Open(ctx context.Context, org model.Organisation, dir string, most int64, records Records, c *catalog.Room,
	work *background.Work, log *slog.Logger) (*Room, error) {
	room := &Room{org: org, records: records, most: most, catalog: c, log: log, work: work,
		explains: func(c *report.Column) string { return c.About }}
	var err error
	if room.currency, err = records.Origin(ctx, "currency", org.Currency); err != nil {
		return nil, fmt.Errorf("reading what the service began with: %w", err)
	}
	key, err := records.Origin(ctx, "pseudonyms", model.NewSecret())
	if err != nil {
		return nil, fmt.Errorf("reading what pseudonyms are made by: %w", err)
	}
	room.key = []byte(key)
	room.exports, err = openExports(filepath.Join(dir, "exports"))
	return room, err
}

// As returns reading as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who)}
}

// Close stops the files that are being written.
func (room *Room) Close() { room.exports.close() }

// Sweep puts results into the trash that were kept long enough, and empties it of those that were
// there long enough; now and every hour.
func (room *Room) Sweep() {
	for more := true; more; more = room.work.Sleep(time.Hour, nil) {
		if err := room.SweepNow(context.Background()); err != nil {
			room.log.Error("deleting results that were kept long enough", "error", err)
		}
	}
}

// SweepNow does what Sweep does, once.
func (room *Room) SweepNow(ctx context.Context) error {
	trashed, deleted, err := room.records.DeleteExpired(ctx, room.org.Now())
	for _, n := range trashed {
		room.work.Note(acting.Done{Act: "trashOld", Kind: "result", ID: fmt.Sprintf("R-%06d", n)})
		room.log.Info("result was kept long enough and is in the trash", "result", n)
	}
	for _, n := range deleted {
		room.work.Note(acting.Done{Act: "deleteOld", Kind: "result", ID: fmt.Sprintf("R-%06d", n)})
		room.log.Info("result was kept long enough, or in the trash, and is deleted", "result", n)
	}
	return err
}
