package capture

import (
	"context"
	"fmt"

	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/runner"
)

// Maker makes a result of others: it keeps the rows of its datasets, calling tick with how many
// there are of the one under way, and returns how they are read. It fills in what the run makes
// and the sentence that says so.
type Maker func(ctx context.Context, run *model.Run, keep Keeper, tick func(rows int64) error) (*report.Definition,
	error)

// StartMaking puts a run in the queue that makes a result of others. Whoever calls it has seen
// that the person sees these.
func (a *Access) StartMaking(ctx context.Context, run model.Run) (model.Run, error) {
	if err := a.May(access.Run); err != nil {
		return run, err
	}
	if err := a.MayStart(ctx); err != nil {
		return run, err
	}
	run.State, run.AskedBy, run.AskedAt, run.AfterCrash = model.Waiting, a.Person().Name, a.room.org.Now(), "again"
	queued, err := a.room.records.AddRun(ctx, run, "")
	if err == nil {
		a.room.Wake()
	}
	return queued, err
}

// Queue puts a run that makes a result of others in the queue on behalf of whoever it is of.
func (room *Room) Queue(ctx context.Context, run model.Run) error {
	run.State, run.AskedAt, run.AfterCrash = model.Waiting, room.org.Now(), "again"
	_, err := room.records.AddRun(ctx, run, "")
	room.Wake()
	return err
}

// made is the work of a run that makes a result of others.
func (room *Room) made(ctx context.Context, run model.Run, progress func(runner.Far)) (result, rows int64, err error) {
	limits := room.limits(&report.Definition{}, run.Terms)
	ctx, cancel := context.WithTimeoutCause(ctx, limits.Time,
		fmt.Errorf("it took longer than %s, the limit of the service; choose smaller results", limits.Time))
	defer cancel()
	c := counting{limit: 2 * limits.Rows, progress: progress} // every row of two results may be there
	keep := room.records.Capture(run.Number)
	maker := room.makers[run.Making.How]
	if maker == nil {
		return 0, 0, fmt.Errorf("this program does not know how to make a result by %q", run.Making.How)
	}
	d, err := maker(ctx, &run, keep, c.tick)
	if err != nil {
		return 0, c.rows, err
	}
	schema, err := d.Schema()
	if err != nil {
		return 0, c.rows, err
	}
	result, err = keep.Seal(context.WithoutCancel(ctx), run, model.Manifest{Report: run.Report, Version: run.Version,
		AskedBy: run.AskedBy, StartedAt: run.StartedAt, Duration: room.org.Now().Sub(run.StartedAt), Reach: run.Reach,
		Title: run.Title, Sentence: run.Sentence, Currency: room.org.Currency, Zone: room.org.Zone.String(),
		FiscalStart: room.org.FiscalStart, Made: run.Making}, schema, nil, room.org.Now())
	return result, c.rows, err
}
