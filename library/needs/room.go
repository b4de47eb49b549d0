// Package needs gathers what needs a person, each with what there is to do, and tells people of
// what the run controls gave that they follow.
package needs

import (
	"context"
	"fmt"
	"log/slog"
	"slices"

	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/care"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/notices"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
)

// Records are what the room keeps: who follows what.
type Records interface {
	Follow(ctx context.Context, person, control string, on bool) error
	Followers(ctx context.Context, control string) ([]string, error)
	Follows(ctx context.Context, person string) ([]string, error)
}

// Rooms are what it looks into.
type Rooms struct {
	People   *access.Room
	Catalog  *catalog.Room
	Capture  *capture.Room
	Controls *controls.Room
	Sending  *sending.Room
	Reading  *reading.Room
	Care     *care.Room
	Notices  *notices.Room
}

// Room knows what needs whom. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	records Records
	rooms   Rooms
	log     *slog.Logger
}

// Access is what needs one person.
type Access struct {
	*access.Access
	room     *Room
	catalog  *catalog.Access
	capture  *capture.Access
	controls *controls.Access
	sending  *sending.Access
	care     *care.Access
	notices  *notices.Access
}

// Open makes the room; from then on who follows a run control is told of its results.
func Open(org model.Organisation, records Records, rooms Rooms, log *slog.Logger) *Room {
	room := &Room{org: org, records: records, rooms: rooms, log: log}
	rooms.Capture.Tells(room.tell)
	return room
}

// As returns what needs a person.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.rooms.Catalog.As(who), capture: room.rooms.Capture.As(who),
		controls: room.rooms.Controls.As(who), sending: room.rooms.Sending.As(who), care: room.rooms.Care.As(who),
		notices: room.rooms.Notices.As(who)}
}

// Follow has the person told of each result of a run control that they see, or no longer.
func (a *Access) Follow(ctx context.Context, control string, on bool) error {
	c, err := a.controls.Control(ctx, control)
	if err != nil {
		return err
	}
	if on && c.Mine {
		return model.Refuse("control", "%s is your own: you see what it gives", c.Title)
	}
	return a.room.records.Follow(ctx, a.Person().Name, control, on)
}

// Follows tells whether the person follows a run control.
func (a *Access) Follows(ctx context.Context, control string) (bool, error) {
	all, err := a.room.records.Follows(ctx, a.Person().Name)
	return slices.Contains(all, control), err
}

// tell tells who follows the run control of a run of its result, if they may see it.
func (room *Room) tell(ctx context.Context, run model.Run, control string, result int64) {
	names, err := room.records.Followers(ctx, control)
	if err != nil {
		room.log.ErrorContext(ctx, "who follows a run control is not known", "control", control, "error", err)
	}
	for _, name := range names {
		if err := room.tellOne(ctx, name, run, control, result); err != nil {
			room.log.WarnContext(ctx, "a follower was not told", "person", name, "control", control, "error", err)
		}
	}
}

func (room *Room) tellOne(ctx context.Context, name string, run model.Run, control string, result int64) error {
	who, err := room.rooms.People.AsPerson(ctx, name)
	if err != nil || who.Person().Closed {
		return err
	}
	c, err := room.rooms.Controls.As(who).Control(ctx, control)
	if err != nil {
		return nil // no longer shared with them
	}
	r, err := room.rooms.Reading.As(who).Result(ctx, result)
	if err != nil {
		return nil // of units that are not theirs
	}
	return room.rooms.Notices.Tell(ctx, "", []string{name}, notices.Subject{About: "follow",
		Place: fmt.Sprintf("/results/R-%06d", result)}, "“%s” has run: R-%06d, %s, %s", c.Title, result, r.Title, r.Sentence)
}
