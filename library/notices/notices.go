// Package notices tells people what concerns them: on their desk until they put it away,
// and by mail where the address book knows theirs.
package notices

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"mantilla/library/access"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	AddNotices(ctx context.Context, all []model.Notice) error
	PutNoticeAway(ctx context.Context, person string, number int64, now, before time.Time) error
	ReturnNotice(ctx context.Context, person string, number int64) error
	Notices(ctx context.Context, person string, limit int) ([]model.Notice, error)
}

// Mail carries a notice to whoever has an address; it does nothing for others.
type Mail func(ctx context.Context, n model.Notice) error

// Room tells people. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	mail    Mail
	log     *slog.Logger
}

// Access is what one person is told.
type Access struct {
	*access.Access
	room *Room
}

// Open makes the room.
func Open(org model.Organisation, records Records, mail Mail, log *slog.Logger) *Room {
	return &Room{org: org, records: records, mail: mail, log: log}
}

// As returns what a person is told.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// most is how many notices a desk shows.
const most = 100

// List is what the person is told, the newest first.
func (a *Access) List(ctx context.Context) ([]model.Notice, error) {
	return a.room.records.Notices(ctx, a.Person().Name, most)
}

// kept is for how many days what was put away can be had back.
const kept = 30

// PutAway puts a notice of the person away; for a while they can have it back.
func (a *Access) PutAway(ctx context.Context, number int64) error {
	now := a.room.org.Now()
	return none(number, a.room.records.PutNoticeAway(ctx, a.Person().Name, number, now, now.AddDate(0, 0, -kept)))
}

// Return has a notice back that the person put away.
func (a *Access) Return(ctx context.Context, number int64) error {
	return none(number, a.room.records.ReturnNotice(ctx, a.Person().Name, number))
}

// none names the notice that there is not.
func none(number int64, err error) error {
	if errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("notice", fmt.Sprint(number), nil)
	}
	return err
}

// Subject is what people are told of, and where in the console it is.
type Subject struct{ About, Place string }

// Tell tells people, each once, but not the person who did it. A mail that cannot be
// written is logged: what was done is done, and the desk has it.
func (room *Room) Tell(ctx context.Context, by string, names []string, of Subject, says string, args ...any) error {
	names = slices.Sorted(slices.Values(names))
	var all []model.Notice
	for _, name := range slices.Compact(names) {
		if name != by && name != access.ServiceName && name != "" {
			all = append(all, model.Notice{Person: name, At: room.org.Now(), About: of.About, Place: of.Place,
				Says: fmt.Sprintf(says, args...)})
		}
	}
	if err := room.records.AddNotices(ctx, all); err != nil {
		return err
	}
	for _, n := range all {
		if err := room.mail(ctx, n); err != nil {
			room.log.WarnContext(ctx, "a notice could not be mailed", "to", n.Person, "about", n.About, "error", err)
		}
	}
	return nil
}
