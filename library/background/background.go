// Package background is the work that goes on until the library closes, whatever
// goes wrong with a piece of it: what fails is tried again after a pause that
// grows, and a piece that panics is a failed piece.
package background

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"mantilla/core/rescue"
	"mantilla/library/acting"
	"mantilla/model"
)

// Work is all that goes on beside what people ask for. It is safe for several
// goroutines.
type Work struct {
	ctx   context.Context // ends when the library closes, and with it all work
	stop  context.CancelFunc
	under sync.WaitGroup // what goes on
	log   *slog.Logger
	notes func(ctx context.Context, d acting.Done)
}

// Notes says who keeps what the service does by itself; it is said before anything begins.
func (w *Work) Notes(keep func(ctx context.Context, d acting.Done)) { w.notes = keep }

// Note keeps something that the service did by itself, or for somebody.
func (w *Work) Note(d acting.Done) {
	if w.notes != nil {
		w.notes(w.ctx, d)
	}
}

// Begin makes ready for work that outlasts a context; see [Work.End].
func Begin(ctx context.Context, log *slog.Logger) *Work {
	w := &Work{log: log}
	w.ctx, w.stop = context.WithCancel(context.WithoutCancel(ctx))
	return w
}

// Context ends when the work does.
func (w *Work) Context() context.Context { return w.ctx }

// Go begins a piece of work.
func (w *Work) Go(piece func()) { w.under.Go(piece) }

// End tells all work to end.
func (w *Work) End() { w.stop() }

// Wait returns when all work has ended.
func (w *Work) Wait() { w.under.Wait() }

// Sleep waits, for as long as the library is open; it tells whether it still is.
func (w *Work) Sleep(d time.Duration, wake Bell) bool {
	select {
	case <-w.ctx.Done():
		return false
	case <-wake:
	case <-time.After(d):
	}
	return w.ctx.Err() == nil
}

// PauseAfter is how long to wait after so many failures in a row: a second,
// then twice as long each time, at most a minute.
func PauseAfter(failures int) time.Duration {
	return min(time.Second<<min(max(failures-1, 0), 6), time.Minute)
}

// Record writes what has become of something into the records, and tries until
// it is written or the library closes: what was done must not be done again
// because it could not be written down.
func (w *Work) Record(what string, write func(context.Context) error) error {
	for failures := 1; ; failures++ {
		err := write(context.WithoutCancel(w.ctx))
		if err == nil || !failsForNow(err) {
			return err
		}
		w.log.Error("recording "+what, "error", err, "failures", failures)
		if !w.Sleep(PauseAfter(failures), nil) {
			return err
		}
	}
}

// failsForNow tells whether something may succeed later.
func failsForNow(err error) bool {
	return !errors.Is(err, model.ErrStale) && !errors.Is(err, model.ErrNotFound)
}

// Guard turns a panic in a piece of work into its error.
func (w *Work) Guard(do func() error) error {
	err := rescue.Call(do)
	var p *rescue.Panic
	if errors.As(err, &p) {
		w.log.Error("a piece of work panicked", "panic", p.Value, "stack", string(p.Stack))
	}
	return err
}

// Bell wakes one who waits.
type Bell chan struct{}

// NewBell makes a bell that was not rung.
func NewBell() Bell { return make(Bell, 1) }

// Ring wakes who waits, or who waits next.
func (b Bell) Ring() {
	select {
	case b <- struct{}{}:
	default:
	}
}
