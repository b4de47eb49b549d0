package controls

import (
	"context"
	"time"

	"mantilla/model"
)

// Records are what the room keeps: run controls, their runs, timetables and calendars.
type Records interface {
	AddControlRuns(ctx context.Context, all []model.ControlRun) ([]model.ControlRun, error)
	AgainControlRun(ctx context.Context, controlRun int64) error
	Calendars(ctx context.Context) ([]model.Calendar, error)
	Control(ctx context.Context, id string) (model.Control, error)
	ControlRun(ctx context.Context, number int64) (model.ControlRun, error)
	ControlRuns(ctx context.Context, control string, limit int) ([]model.ControlRun, error)
	Controls(ctx context.Context, w model.Seen, search string, limit int) ([]model.Control, error)
	DeleteCalendar(ctx context.Context, t model.Thrown) error
	PutBack(ctx context.Context, kind, id string) error
	DeleteControl(ctx context.Context, id string, now time.Time) error
	DueControls(ctx context.Context, now time.Time, limit int) ([]model.Control, error)
	DueNotes(ctx context.Context, since time.Time, limit int) ([]model.DueNote, error)
	FeedPerson(ctx context.Context, digest string) (model.Person, error)
	NextDue(ctx context.Context) (time.Time, error)
	PastControls(ctx context.Context, id string) ([]model.Control, error)
	PauseControl(ctx context.Context, control string, paused bool, next time.Time) error
	PutCalendar(ctx context.Context, c model.Calendar) error
	PutControl(ctx context.Context, c model.Control) error
	PutFeed(ctx context.Context, person, digest string) error
	Refuse(ctx context.Context, d model.Due) error
	RestoreControl(ctx context.Context, id string, next time.Time) error
	SetNext(ctx context.Context, control string, next time.Time) error
	SettleDue(ctx context.Context, all []model.Due) (queued int, err error)
	Timed(ctx context.Context, w model.Seen) ([]model.Control, error)
	TimedRuns(ctx context.Context, limit int) ([]model.ControlRun, error)
}
