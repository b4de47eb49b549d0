package library

import (
	"context"
	"errors"
	"time"

	"mantilla/core/rescue"
	"mantilla/model"
)

// Work in the background goes on until the library closes, whatever goes wrong
// with a piece of it: what fails is tried again after a pause that grows, and a
// piece that panics is a failed piece.

// pauseAfter is how long to wait after so many failures in a row: a second,
// then twice as long each time, at most a minute.
func pauseAfter(failures int) time.Duration {
	return min(time.Second<<min(max(failures-1, 0), 6), time.Minute)
}

// sleep waits, for as long as the library is open; it tells whether it still is.
func (l *Library) sleep(d time.Duration, wake <-chan struct{}) bool {
	select {
	case <-l.ctx.Done():
		return false
	case <-wake:
	case <-time.After(d):
	}
	return l.ctx.Err() == nil
}

// record writes what has become of something into the records, and tries until
// it is written or the library closes: what was done must not be done again
// because it could not be written down.
func (l *Library) record(what string, write func(context.Context) error) error {
	for failures := 1; ; failures++ {
		err := write(context.WithoutCancel(l.ctx))
		if err == nil || !failsForNow(err) {
			return err
		}
		l.log.Error("recording "+what, "error", err, "failures", failures)
		if !l.sleep(pauseAfter(failures), nil) {
			return err
		}
	}
}

// failsForNow tells whether something may succeed later.
func failsForNow(err error) bool {
	return !errors.Is(err, model.ErrStale) && !errors.Is(err, model.ErrNotFound)
}

// guarded turns a panic in a piece of work into its error.
func (l *Library) guarded(do func() error) error {
	err := rescue.Call(do)
	var p *rescue.Panic
	if errors.As(err, &p) {
		l.log.Error("a piece of work panicked", "panic", p.Value, "stack", string(p.Stack))
	}
	return err
}
