// Package capture makes results: runs are asked for, wait in the queue, read
// their source and keep the rows, sealed.
package capture

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/runner"
)

// Limits are the organisation's own of every run, unless its report says
// otherwise.
type Limits struct {
	Rows    int64
	Time    time.Duration
	Workers int // runs that go on at once
	Waiting int // runs of one person that wait at most; 0 for any number
	// Spare says why nothing new is kept now; nil where something can always be.
	Spare func() error
}

// Room carries out runs. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	most    Limits
	records Records
	catalog *catalog.Room
	asking  *asking.Room
	makers  map[string]Maker
	// keepsMore says why somebody may keep no more; it is set before anybody is let in.
	keepsMore func(ctx context.Context, person string) error
	restate   func(ctx context.Context, run model.Run, result int64) error
	tell      func(ctx context.Context, run model.Run, control string, result int64)
	runner    *runner.Runner
	service   string // by which engines know the rows of its results; "" until the room begins
	log       *slog.Logger
}

// Access is running reports as one person may do it.
type Access struct {
	*access.Access
	room   *Room
	asking *asking.Access
}

// Open makes the room. Runs wait until it begins.
func Open(ctx context.Context, org model.Organisation, most Limits, records Records, c *catalog.Room,
	asked *asking.Room, log *slog.Logger) *Room {
	room := &Room{org: org, most: most, records: records, catalog: c, asking: asked, makers: map[string]Maker{},
		log: log}
	local := func() time.Time { return org.Now().In(org.Zone) }
	room.runner = runner.New(ctx, records, room.capture, local, log)
	return room
}

// Makes says who makes results of others in a way, such as [model.HowCompare], before the room
// begins.
func (room *Room) Makes(how string, maker Maker) { room.makers[how] = maker }

// Restates says what is done with a result whose run control has it compared with what was
// signed off, before the room begins.
func (room *Room) Restates(restate func(ctx context.Context, run model.Run, result int64) error) {
	room.restate = restate
}

// Tells says who is told of results of run controls, before the room begins.
func (room *Room) Tells(tell func(ctx context.Context, run model.Run, control string, result int64)) {
	room.tell = tell
}

// told tells of the result of a run of a run control.
func (room *Room) told(ctx context.Context, run model.Run, result int64) {
	if run.Terms.Control != "" && room.tell != nil {
		room.tell(ctx, run, run.Terms.Control, result)
	}
}

// Begin settles what a crash left and starts the workers.
func (room *Room) Begin(ctx context.Context) (err error) {
	if room.service, err = room.records.Origin(ctx, "service", model.Digest(model.NewSecret())[:12]); err != nil {
		return fmt.Errorf("reading what the service is called by engines: %w", err)
	}
	return room.runner.Start(room.most.Workers)
}

// restated has a result compared where its run control wants that. The result stands, whatever
// becomes of it.
func (room *Room) restated(ctx context.Context, run model.Run, result int64) {
	if !run.Terms.Restate || room.restate == nil {
		return
	}
	if err := room.restate(ctx, run, result); err != nil {
		room.log.ErrorContext(ctx, "a result was not compared with what was signed off", "run", run.Number, "error", err)
	}
}

// As returns running reports as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, asking: room.asking.As(who)}
}

// Close stops the workers.
func (room *Room) Close() { room.runner.Close() }

// Wake tells the workers that runs were queued.
func (room *Room) Wake() { room.runner.Wake() }

// Ended tells of runs that have ended.
func (room *Room) Ended() <-chan struct{} { return room.runner.Ended() }
