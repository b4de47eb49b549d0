package catalog

import (
	"context"
	"errors"
	"sync"
	"time"

	"mantilla/core/query"
	"mantilla/source"
)

// watched is a source of which it is known since when it cannot be read.
type watched struct {
	source.Source
	now func() time.Time

	mu    sync.Mutex // guards what follows
	since time.Time  // zero while it answers
	why   error
}

// saw takes note of how a call ended. Only what is wrong with the source itself counts.
func (w *watched) saw(err error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	switch {
	case err == nil:
		w.since, w.why = time.Time{}, nil
	case !errors.Is(err, source.ErrSilent) && !errors.Is(err, source.ErrMissing):
	default:
		if w.since.IsZero() {
			w.since = w.now()
		}
		w.why = err
	}
}

// Silent tells since when the source cannot be read, and why; zero where it can.
func (w *watched) Silent() (since time.Time, why error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.since, w.why
}

// Begin opens one unchanging view of the source.
func (w *watched) Begin(ctx context.Context) (source.Session, error) {
	v, err := w.Source.Begin(ctx)
	w.saw(err)
	return v, err
}

// Fingerprint identifies the present state of the source.
func (w *watched) Fingerprint(ctx context.Context) (string, error) {
	state, err := w.Source.Fingerprint(ctx)
	w.saw(err)
	return state, err
}

// List returns all entries of a declared list.
func (w *watched) List(ctx context.Context, list string) ([]source.Item, error) {
	items, err := w.Source.List(ctx, list)
	w.saw(err)
	return items, err
}

// Find returns entries of a declared list.
func (w *watched) Find(ctx context.Context, list string, sought source.Sought) ([]source.Item, error) {
	items, err := w.Source.Find(ctx, list, sought)
	w.saw(err)
	return items, err
}

// Prepare checks that the source understands a query.
func (w *watched) Prepare(ctx context.Context, q query.Query) error {
	err := w.Source.Prepare(ctx, q)
	w.saw(err)
	return err
}

// Tables are the tables and views of the source.
func (w *watched) Tables(ctx context.Context) ([]source.Table, error) {
	tables, err := w.Source.Tables(ctx)
	w.saw(err)
	return tables, err
}
