// Package capture makes results: runs are asked for, wait in the queue, read
// their source and keep the rows, sealed.
package capture

import (
	"context"
	"log/slog"
	"sync"
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
}

// Room carries out runs. It is safe for several goroutines.
type Room struct {
	org     model.Organisation
	most    Limits
	records Records
	catalog *catalog.Room
	asking  *asking.Room
	maker   Maker

	restating sync.Mutex // guards what follows, since workers begin before it is set
	restate   func(ctx context.Context, run model.Run, result int64) error
	runner    *runner.Runner
	log       *slog.Logger
}

// Access is running reports as one person may do it.
type Access struct {
	*access.Access
	room   *Room
	asking *asking.Access
}

// Open settles what a crash left and starts the workers.
func Open(ctx context.Context, org model.Organisation, most Limits, records Records, c *catalog.Room,
	asked *asking.Room, maker Maker, log *slog.Logger) (*Room, error) {
	room := &Room{org: org, most: most, records: records, catalog: c, asking: asked, maker: maker, log: log}
	local := func() time.Time { return org.Now().In(org.Zone) }
	var err error
	room.runner, err = runner.Start(ctx, records, most.Workers, room.capture, local, log)
	return room, err
}

// Restates says what is done with a result whose run control has it compared with what was
// signed off.
func (room *Room) Restates(restate func(ctx context.Context, run model.Run, result int64) error) {
	room.restating.Lock()
	defer room.restating.Unlock()
	room.restate = restate
}

// restated has a result compared where its run control wants that. The result stands, whatever
// becomes of it.
func (room *Room) restated(ctx context.Context, run model.Run, result int64) {
	room.restating.Lock()
	restate := room.restate
	room.restating.Unlock()
	if !run.Terms.Restate || restate == nil {
		return
	}
	if err := restate(ctx, run, result); err != nil {
		room.log.Error("a result was not compared with what was signed off", "run", run.Number, "error", err)
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
