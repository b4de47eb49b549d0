// Package trash shows what was deleted, brings it back as long as it is there, and
// empties it of what was there long enough.
package trash

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"strings"
	"time"

	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/library/asking"
	"mantilla/library/background"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/reading"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	Empty(ctx context.Context, before time.Time) (int64, error)
	Thrown(ctx context.Context, person string, everything bool, since time.Time) ([]model.Thrown, error)
}

// Rooms are those whose things may be in the trash.
type Rooms struct {
	Asking   *asking.Room
	Controls *controls.Room
	Desk     *desk.Room
	Reading  *reading.Room
}

// Room is the trash. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	rooms   Rooms
	work    *background.Work
	log     *slog.Logger
}

// Access is the trash as one person sees it.
type Access struct {
	*access.Access
	room *Room
}

// Open makes the room.
func Open(org model.Organisation, records Records, rooms Rooms, work *background.Work, log *slog.Logger) *Room {
	return &Room{org: org, records: records, rooms: rooms, work: work, log: log}
}

// As returns the trash as a person sees it.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// mostResults is how many results in the trash are listed.
const mostResults = 200

// List is what the person deleted, or might bring back as who keeps the catalog, the last first.
func (a *Access) List(ctx context.Context) ([]model.Thrown, error) {
	keeps := a.Has(access.KeepCatalog)
	since := a.room.org.Now().AddDate(0, 0, -model.TrashDays)
	all, err := a.room.records.Thrown(ctx, a.Person().Name, keeps, since)
	if err != nil {
		return nil, err
	}
	wish := model.ResultWish{Trashed: true, Limit: mostResults}
	if !keeps {
		wish.By = a.Person().Name
	}
	results, err := a.room.rooms.Reading.As(a.Access).Results(ctx, wish)
	if err != nil {
		return nil, err
	}
	for _, r := range results {
		all = append(all, model.Thrown{Kind: model.ThrownResult, ID: fmt.Sprintf("R-%06d", r.Number), Name: r.Title,
			Report: r.Report, Owner: r.Manifest.AskedBy, At: r.TrashedAt})
	}
	slices.SortStableFunc(all, func(x, y model.Thrown) int { return cmp.Compare(y.At.UnixNano(), x.At.UnixNano()) })
	return all, nil
}

// BringBack takes a thing out of the trash, under the rules of the room that it is of.
func (a *Access) BringBack(ctx context.Context, kind, id string) error {
	number := func(prefix string) (int64, error) {
		digits, ok := strings.CutPrefix(id, prefix)
		n, err := strconv.ParseInt(digits, 10, 64)
		if err != nil || !ok {
			return 0, model.NoSuch(kind+" in the trash", id, nil)
		}
		return n, nil
	}
	var n int64
	var err error
	switch kind {
	case model.ThrownControl:
		_, err = a.room.rooms.Controls.As(a.Access).RestoreControl(ctx, id, 0)
	case model.ThrownCriteria:
		if n, err = number("C-"); err == nil {
			_, err = a.room.rooms.Asking.As(a.Access).RestoreCriteria(ctx, n, 0)
		}
	case model.ThrownResult:
		if n, err = number("R-"); err == nil {
			err = a.room.rooms.Reading.As(a.Access).BringBack(ctx, n)
		}
	case model.ThrownView:
		if n, err = number("V-"); err == nil {
			err = a.room.rooms.Reading.As(a.Access).RestoreView(ctx, n)
		}
	case model.ThrownTile:
		if n, err = number("T-"); err == nil {
			err = a.room.rooms.Desk.As(a.Access).ReturnTile(ctx, n)
		}
	default:
		err = model.Refuse("kind", "%q is not a kind of thing that is in the trash", kind)
	}
	if errors.Is(err, model.ErrTaken) {
		return model.Refuse("id", "there is another %s of the same name now; rename that one first", kind)
	}
	return err
}

// Empty deletes what was in the trash long enough, now and every hour.
func (room *Room) Empty() {
	for more := true; more; more = room.work.Sleep(time.Hour, nil) {
		n, err := room.records.Empty(context.Background(), room.org.Now().AddDate(0, 0, -model.TrashDays))
		switch {
		case err != nil:
			room.log.Error("emptying the trash", "error", err)
		case n > 0:
			room.work.Note(acting.Done{Act: "emptyTrash", Why: fmt.Sprintf("%d things", n)})
			room.log.Info("the trash was emptied of what was there long enough", "things", n)
		}
	}
}
