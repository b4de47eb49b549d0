package library

import (
	"context"
	"fmt"
	"time"

	"mantilla/model"
	"mantilla/runner"
)

// Ask says which report is wanted with which values, as typed, and with which
// criteria, if any. A run asked for twice with the same idempotency key is made
// once.
type Ask struct {
	Report      string
	Typed       map[string]string
	Criteria    int64
	Idempotency string
}

// StartRun checks the values and puts a run in the queue. When values are
// wrong, the error is a [param.Faults] that lists all of them.
func (a *Access) StartRun(ctx context.Context, ask Ask) (model.Run, error) {
	if err := a.may(run); err != nil {
		return model.Run{}, err
	}
	if ask.Criteria > 0 {
		if _, err := a.criteria(ctx, ask.Criteria); err != nil {
			return model.Run{}, err
		}
	}
	planned, err := a.plan(ctx, ask.Report, ask.Typed, With{Criteria: ask.Criteria})
	if err != nil {
		return model.Run{}, err
	}
	planned.Criteria = ask.Criteria
	key := ask.Idempotency
	if key != "" {
		key = a.person.Name + "/" + key
	}
	queued, err := a.store.AddRun(ctx, planned, key)
	if err != nil {
		return queued, err
	}
	a.runner.Wake()
	return queued, nil
}

// plan makes the run that a report with values would be.
func (a *Access) plan(ctx context.Context, id string, typed map[string]string, with With) (model.Run, error) {
	q, err := a.ask(ctx, id, with)
	if err != nil {
		return model.Run{}, err
	}
	if err := q.cannotRun(); err != nil {
		return model.Run{}, err
	}
	r, err := a.resolve(ctx, q, typed)
	if err != nil {
		return model.Run{}, err
	}
	if len(r.Faults) > 0 {
		return model.Run{}, r.Faults
	}
	return a.planned(q, r), nil
}

// Run returns one run.
func (a *Access) Run(ctx context.Context, number int64) (model.Run, error) {
	r, err := a.store.Run(ctx, number)
	if err == nil {
		var seen bool
		if seen, err = a.sees(ctx, r.Report, r.Reach); err == nil && !seen {
			err = model.ErrNotFound
		}
	}
	if err != nil {
		return model.Run{}, fmt.Errorf("run %d: %w", number, err)
	}
	return a.current(r), nil
}

// current adds the rows that a running run has read so far.
func (l *Library) current(r model.Run) model.Run {
	if p, ok := l.runner.Progress(r.Number); ok {
		r.Rows = p.Rows
	}
	return r
}

// Runs lists the runs that the person sees, the newest first.
func (a *Access) Runs(ctx context.Context, w model.RunWish) (runs []model.Run, err error) {
	if w.Sees, err = a.sight(ctx); err != nil {
		return nil, err
	}
	runs, err = a.store.Runs(ctx, w)
	for i := range runs {
		runs[i] = a.current(runs[i])
	}
	return runs, err
}

// StopRun stops a run and returns it as it then is. People stop their own
// runs, librarians any.
func (a *Access) StopRun(ctx context.Context, number int64) (model.Run, error) {
	r, err := a.Run(ctx, number)
	if err != nil {
		return model.Run{}, err
	}
	if err := a.may(run); err != nil {
		return model.Run{}, err
	}
	if err := a.mayChange("the run", r.AskedBy); err != nil {
		return model.Run{}, err
	}
	if err := a.runner.Stop(ctx, number); err != nil {
		return model.Run{}, err
	}
	return a.Run(ctx, number)
}

// Watch follows a run that the person sees; see [runner.Runner.Watch].
func (a *Access) Watch(number int64) (<-chan runner.Progress, func()) { return a.runner.Watch(number) }

// Elapsed is how long a run took, or has taken so far.
func (l *Library) Elapsed(r model.Run) time.Duration {
	switch {
	case r.StartedAt.IsZero():
		return 0
	case r.EndedAt.IsZero():
		return l.settings.Now().Sub(r.StartedAt)
	}
	return r.EndedAt.Sub(r.StartedAt)
}
