package capture

import (
	"context"
	"fmt"

	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/reading"
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
	Version     int // of the report, by its number; 0 for that of now
	Idempotency string
}

// StartRun checks the values and puts a run in the queue. When values are
// wrong, the error is a [param.Faults] that lists all of them.
func (a *Access) StartRun(ctx context.Context, ask Ask) (model.Run, error) {
	if err := a.May(access.Run); err != nil {
		return model.Run{}, err
	}
	return a.start(ctx, ask)
}

// FollowLink puts the run in the queue that a row's link asks for: for everyone who runs
// reports and, where the report lets readers follow links to it, for readers too. It is
// theirs, and cut to their units.
func (a *Access) FollowLink(ctx context.Context, link reading.Link, idempotency string) (model.Run, error) {
	if err := a.May(access.Run); err != nil && !link.ForReaders() {
		return model.Run{}, fmt.Errorf("following the link to %s: %w", link.Report(), err)
	}
	return a.start(ctx, Ask{Report: link.Report(), Typed: link.Values(), Idempotency: idempotency})
}

// MayStart says why no further run of the person is put in the queue: many of theirs wait, or what they
// keep takes as much as it may. Runs of a timetable wait as they come.
func (a *Access) MayStart(ctx context.Context) error {
	if a.room.most.Waiting > 0 && a.Due().IsZero() {
		n, err := a.room.records.Waiting(ctx, a.Person().Name)
		if err != nil {
			return err
		}
		if n >= a.room.most.Waiting {
			return model.TooMuch("%d runs of yours wait; let some of them end, or stop some", n)
		}
	}
	if a.room.keepsMore == nil {
		return nil
	}
	return a.room.keepsMore(ctx, a.Person().Name)
}

// Allows lets runs start while who asks for them may keep more.
func (room *Room) Allows(keepsMore func(ctx context.Context, person string) error) {
	room.keepsMore = keepsMore
}

func (a *Access) start(ctx context.Context, ask Ask) (model.Run, error) {
	if err := a.MayStart(ctx); err != nil {
		return model.Run{}, err
	}
	if ask.Criteria > 0 {
		if _, err := a.asking.FindCriteria(ctx, ask.Criteria); err != nil {
			return model.Run{}, err
		}
	}
	planned, err := a.asking.Plan(ctx, ask.Report, ask.Typed, asking.With{Criteria: ask.Criteria, Version: ask.Version})
	if err != nil {
		return model.Run{}, err
	}
	planned.Criteria = ask.Criteria
	key := ask.Idempotency
	if key != "" {
		key = a.Person().Name + "/" + key
	}
	queued, err := a.room.records.AddRun(ctx, planned, key)
	if err != nil {
		return queued, err
	}
	a.room.Wake()
	return queued, nil
}

// Run returns one run.
func (a *Access) Run(ctx context.Context, number int64) (model.Run, error) {
	r, err := a.room.records.Run(ctx, number)
	if err == nil {
		var seen bool
		if seen, err = a.Sees(ctx, r.Report, r.Reach); err == nil && !seen {
			err = model.ErrNotFound
		}
	}
	if err != nil {
		return model.Run{}, fmt.Errorf("run %d: %w", number, err)
	}
	return a.room.Current(r), nil
}

// Current adds how far a running run has come.
func (room *Room) Current(r model.Run) model.Run {
	if p, ok := room.runner.Progress(r.Number); ok && !r.State.Ended() {
		r.Rows, r.Expected, r.Note = p.Rows, p.Expected, p.Says
	}
	return r
}

// Runs lists the runs that the person sees, the newest first.
func (a *Access) Runs(ctx context.Context, w model.RunWish) (runs []model.Run, err error) {
	if w.Sees, err = a.Sight(ctx); err != nil {
		return nil, err
	}
	runs, err = a.room.records.Runs(ctx, w)
	for i := range runs {
		runs[i] = a.room.Current(runs[i])
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
	if err := a.May(access.Run); err != nil {
		return model.Run{}, err
	}
	if err := a.MayChange("the run", r.AskedBy); err != nil {
		return model.Run{}, err
	}
	if err := a.room.runner.Stop(ctx, number); err != nil {
		return model.Run{}, err
	}
	return a.Run(ctx, number)
}

// Watch follows a run that the person sees; see [runner.Runner.Watch].
func (a *Access) Watch(number int64) (<-chan runner.Progress, func()) {
	return a.room.runner.Watch(number)
}

// SeenRuns are those of some runs that the person sees, as they now are.
func (a *Access) SeenRuns(ctx context.Context, runs []model.Run) (seen []model.Run, err error) {
	for _, r := range runs {
		ok, err := a.Sees(ctx, r.Report, r.Reach)
		if err != nil {
			return nil, err
		}
		if ok {
			seen = append(seen, a.room.Current(r))
		}
	}
	return seen, nil
}
