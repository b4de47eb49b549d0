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
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/drafting"
	"mantilla/library/reading"
	"mantilla/library/shelf"
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
	Catalog  *catalog.Room
	Controls *controls.Room
	Desk     *desk.Room
	Drafting *drafting.Room
	Reading  *reading.Room
	Shelf    *shelf.Room
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
	if !a.Has(access.KeepPeople) {
		all = slices.DeleteFunc(all, func(t model.Thrown) bool {
			return t.Kind == model.ThrownAccount || t.Kind == model.ThrownGroup
		})
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
	back := a.returns()[kind]
	if back == nil {
		return model.Refuse("kind", "%q is not a kind of thing that is in the trash", kind)
	}
	err := back(ctx, id)
	switch {
	case errors.Is(err, model.ErrTaken):
		return model.Refuse("id", "there is another %s of the same name now; rename that one first", kind)
	case errors.Is(err, model.ErrNotFound):
		return model.NoSuch(kind+" in the trash", id, nil)
	}
	return err
}

// returns brings things back, by their kinds.
func (a *Access) returns() map[string]func(ctx context.Context, id string) error {
	rooms := &a.room.rooms
	reading, drafts := rooms.Reading.As(a.Access), rooms.Drafting.As(a.Access)
	return map[string]func(ctx context.Context, id string) error{
		model.ThrownControl: func(ctx context.Context, id string) error {
			_, err := rooms.Controls.As(a.Access).RestoreControl(ctx, id, 0)
			return err
		},
		model.ThrownCriteria: numbered("C-", func(ctx context.Context, n int64) error {
			_, err := rooms.Asking.As(a.Access).RestoreCriteria(ctx, n, 0)
			return err
		}),
		model.ThrownResult:   numbered("R-", reading.BringBack),
		model.ThrownView:     numbered("V-", reading.RestoreView),
		model.ThrownTile:     numbered("T-", rooms.Desk.As(a.Access).ReturnTile),
		model.ThrownDraft:    a.theirs(model.ThrownDraft, numbered("D-", drafts.PutBack)),
		model.ThrownMark:     a.theirs(model.ThrownMark, numbered("M-", rooms.Asking.As(a.Access).PutBackMark)),
		model.ThrownReport:   rooms.Catalog.As(a.Access).PutBackReport,
		model.ThrownSource:   rooms.Catalog.As(a.Access).PutBackSource,
		model.ThrownDocument: rooms.Shelf.As(a.Access).PutBack,
		model.ThrownCalendar: rooms.Controls.As(a.Access).PutBackCalendar,
		model.ThrownGroup:    a.kept(model.ThrownGroup),
		model.ThrownAccount:  a.kept(model.ThrownAccount),
	}
}

// kept brings an account or a group back.
func (a *Access) kept(kind string) func(ctx context.Context, id string) error {
	return func(ctx context.Context, id string) error { return a.PutBack(ctx, kind, id) }
}

// numbered takes the number of a thing out of its id.
func numbered(prefix string, back func(ctx context.Context, n int64) error) func(ctx context.Context, id string) error {
	return func(ctx context.Context, id string) error {
		digits, ok := strings.CutPrefix(id, prefix)
		n, err := strconv.ParseInt(digits, 10, 64)
		if err != nil || !ok {
			return model.ErrNotFound
		}
		return back(ctx, n)
	}
}

// theirs brings back what the person sees in the trash.
func (a *Access) theirs(kind string, back func(context.Context, string) error) func(context.Context, string) error {
	return func(ctx context.Context, id string) error {
		all, err := a.List(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(all, func(t model.Thrown) bool { return t.Kind == kind && t.ID == id }) {
			return model.ErrNotFound
		}
		return back(ctx, id)
	}
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
