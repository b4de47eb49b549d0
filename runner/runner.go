// Package runner takes runs from the queue in the store and carries them out
// by a number of workers, within limits, with progress, and so that a run can
// be stopped at any moment.
package runner

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"mantilla/core/rescue"
	"mantilla/model"
)

// Why a run's context ends before its work does.
var (
	ErrStopped  = errors.New("the run was stopped")
	errShutdown = errors.New("the service was shut down")
)

// Queue is where runs wait and what became of them is written.
type Queue interface {
	// Recover settles what a crash left, and counts what waits again and what failed.
	Recover(ctx context.Context, now time.Time) (again, failed int64, err error)
	// Claim takes the run that waits longest, at a minute of the local day; it fails
	// with [model.ErrNotFound] when none may start.
	Claim(ctx context.Context, now time.Time, minute int) (model.Run, error)
	// Requeue lets a run wait again.
	Requeue(ctx context.Context, number int64) error
	// EndRun writes the end of a run that has no result.
	EndRun(ctx context.Context, number int64, state model.State, reason string, rows int64, now time.Time) error
	// StopWaiting ends a run that still waits; it tells whether it did.
	StopWaiting(ctx context.Context, number int64, now time.Time) (bool, error)
}

// Work carries out one run up to its sealed result. It tells how far it has come, and must
// return soon after the context ends.
type Work func(ctx context.Context, run model.Run, progress func(Far)) (result int64, rows int64, err error)

// Far is how far the work of a run has come.
type Far struct {
	Rows     int64  // read so far
	Expected int64  // about how many there will be; 0 where that is not known
	Says     string // what whoever waits should know; "" for nothing
}

// Progress is how far a run has come.
type Progress struct {
	Run   int64
	State model.State
	Far
	Elapsed time.Duration
	Reason  string
	Result  int64
}

// Runner owns the workers.
type Runner struct {
	queue   Queue
	work    Work
	now     func() time.Time
	log     *slog.Logger
	wake    chan struct{}
	ended   chan struct{}
	service context.Context // ends when the runner closes
	cancel  context.CancelFunc
	done    sync.WaitGroup

	// claiming is held from taking a run out of the queue until it stands in
	// running, so that a stop finds every run in one place or the other.
	claiming sync.Mutex

	mu       sync.Mutex
	running  map[int64]*active
	watchers map[int64]map[chan Progress]struct{}
}

type active struct {
	ctx      context.Context
	stop     context.CancelCauseFunc
	progress Progress
	started  time.Time
	told     time.Time // when watchers were last told
}

// New makes a runner that has not started. Now gives local times: some runs may start at
// certain hours only.
func New(ctx context.Context, queue Queue, work Work, now func() time.Time, log *slog.Logger) *Runner {
	ctx, cancel := context.WithCancel(context.WithoutCancel(ctx))
	return &Runner{queue: queue, work: work, now: now, log: log, wake: make(chan struct{}, 1),
		ended: make(chan struct{}, 1), service: ctx, cancel: cancel,
		running: map[int64]*active{}, watchers: map[int64]map[chan Progress]struct{}{}}
}

// Start settles what a crash left, then starts so many workers.
func (r *Runner) Start(workers int) error {
	again, failed, err := r.queue.Recover(r.service, r.now())
	if err != nil {
		return err
	}
	if again+failed > 0 {
		r.log.Warn("runs were cut off when the service last ended", "queued_again", again, "failed", failed)
	}
	for range workers {
		r.done.Go(func() { r.loop(r.service) })
	}
	return nil
}

// Close stops the workers. Runs under way end as their setting for a crash
// says: they wait again or fail.
func (r *Runner) Close() {
	r.cancel()
	r.mu.Lock()
	for _, a := range r.running {
		a.stop(errShutdown)
	}
	r.mu.Unlock()
	r.done.Wait()
}

// Wake tells the workers that a run was queued.
func (r *Runner) Wake() {
	select {
	case r.wake <- struct{}{}:
	default:
	}
}

func (r *Runner) loop(ctx context.Context) {
	if err := stepBack(); err != nil {
		r.log.Warn("runs have the same priority as readers", "error", err)
	}
	for ctx.Err() == nil {
		run, a, err := r.claim(ctx)
		if err == nil {
			r.Wake() // another worker looks whether more is waiting
			r.carryOut(a, run)
			continue
		}
		pause := time.Minute // the queue is looked at now and then even when nobody wakes
		if !errors.Is(err, model.ErrNotFound) && ctx.Err() == nil {
			r.log.Error("taking a run from the queue", "error", err)
			pause = time.Second
		}
		select {
		case <-ctx.Done():
		case <-r.wake:
		case <-time.After(pause):
		}
	}
}

// claim takes the next run from the queue and makes it known as running.
func (r *Runner) claim(service context.Context) (model.Run, *active, error) {
	r.claiming.Lock()
	defer r.claiming.Unlock()
	if err := service.Err(); err != nil {
		return model.Run{}, nil, err
	}
	// Once begun, claiming ends: a run that is taken and then not carried out
	// would seem to be running until the next start.
	now := r.now()
	run, err := r.queue.Claim(context.WithoutCancel(service), now, now.Hour()*60+now.Minute())
	if err != nil {
		return run, nil, err
	}
	ctx, stop := context.WithCancelCause(context.WithoutCancel(service))
	a := &active{ctx: ctx, stop: stop, started: time.Now(), progress: Progress{Run: run.Number, State: model.Running}}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.running[run.Number] = a
	if service.Err() != nil {
		stop(errShutdown)
	}
	return run, a, nil
}

// carryOut does the work of one run and settles how it ended.
func (r *Runner) carryOut(a *active, run model.Run) {
	defer a.stop(nil)
	r.tell(Progress{Run: run.Number, State: model.Running})

	result, rows, err := r.attempt(a.ctx, run, func(f Far) { r.progress(a, f) })

	end := Progress{Run: run.Number, State: model.Done, Far: Far{Rows: rows}, Elapsed: time.Since(a.started),
		Result: result}
	if err != nil {
		end = r.settle(run, end, err)
	}
	r.mu.Lock()
	delete(r.running, run.Number)
	r.mu.Unlock()
	r.log.Info("run ended", "run", run.Number, "report", run.Report, "state", end.State, "rows", end.Rows, "elapsed",
		end.Elapsed, "reason", end.Reason)
	r.tell(end)
	select {
	case r.ended <- struct{}{}:
	default:
	}
}

// Ended wakes one listener when runs have ended.
func (r *Runner) Ended() <-chan struct{} { return r.ended }

// attempt turns a panic in the work of one run into that run's failure.
func (r *Runner) attempt(ctx context.Context, run model.Run, progress func(Far)) (result, rows int64, err error) {
	err = rescue.Call(func() (err error) {
		result, rows, err = r.work(ctx, run, progress)
		return err
	})
	var p *rescue.Panic
	if errors.As(err, &p) {
		r.log.Error("a run panicked", "run", run.Number, "panic", p.Value, "stack", string(p.Stack))
	}
	return result, rows, err
}

// settle records a run that ended without a result. Where that cannot be
// written, it is tried until it can, so that no run seems to go on.
func (r *Runner) settle(run model.Run, end Progress, err error) Progress {
	end.State, end.Reason = model.Failed, err.Error()
	switch {
	case errors.Is(err, ErrStopped):
		end.State, end.Reason = model.Stopped, ""
	case errors.Is(err, errShutdown) && run.AfterCrash == "again":
		end.State, end.Reason = model.Waiting, ""
		r.record(run.Number, func(ctx context.Context) error { return r.queue.Requeue(ctx, run.Number) })
		return end
	}
	ended := r.now()
	r.record(run.Number, func(ctx context.Context) error {
		return r.queue.EndRun(ctx, run.Number, end.State, end.Reason, end.Rows, ended)
	})
	return end
}

// record writes the end of a run, at once or else in the background until it
// is written or the runner closes; then the next start settles it.
func (r *Runner) record(run int64, write func(context.Context) error) {
	err := write(context.Background())
	if err == nil {
		return
	}
	r.log.Error("recording the end of a run", "run", run, "error", err)
	r.done.Go(func() {
		for pause := time.Second; ; pause = min(2*pause, time.Minute) {
			select {
			case <-r.service.Done():
				return
			case <-time.After(pause):
			}
			if err := write(context.Background()); err == nil {
				r.log.Info("the end of a run is recorded", "run", run)
				r.Wake()
				return
			}
		}
	})
}

// Stop stops a run, waiting or running. A run that has ended stays as it is.
func (r *Runner) Stop(ctx context.Context, number int64) error {
	r.claiming.Lock()
	defer r.claiming.Unlock()
	stopped, err := r.queue.StopWaiting(ctx, number, r.now())
	if err != nil {
		return fmt.Errorf("stopping run %d: %w", number, err)
	}
	if stopped {
		r.tell(Progress{Run: number, State: model.Stopped})
		return nil
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if a := r.running[number]; a != nil {
		a.stop(ErrStopped)
	}
	return nil
}

// tellEvery is how often watchers hear of a run at most.
const tellEvery = 100 * time.Millisecond

func (r *Runner) progress(a *active, far Far) {
	r.mu.Lock()
	a.progress.Far, a.progress.Elapsed = far, time.Since(a.started)
	p, due := a.progress, time.Since(a.told) >= tellEvery
	if due {
		a.told = time.Now()
	}
	r.mu.Unlock()
	if due {
		r.tell(p)
	}
}

// Progress returns how far a run has come; ok is false unless it is running.
func (r *Runner) Progress(number int64) (p Progress, ok bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	a := r.running[number]
	if a == nil {
		return p, false
	}
	a.progress.Elapsed = time.Since(a.started)
	return a.progress, true
}

// Watch returns a channel of a run's progress. The newest progress replaces
// one that was not read; call end when it is no longer wanted.
func (r *Runner) Watch(number int64) (changes <-chan Progress, end func()) {
	ch := make(chan Progress, 1)
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.watchers[number] == nil {
		r.watchers[number] = map[chan Progress]struct{}{}
	}
	r.watchers[number][ch] = struct{}{}
	return ch, func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(r.watchers[number], ch)
		if len(r.watchers[number]) == 0 {
			delete(r.watchers, number)
		}
	}
}

func (r *Runner) tell(p Progress) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for ch := range r.watchers[p.Run] {
		select {
		case <-ch:
		default:
		}
		ch <- p
	}
}
