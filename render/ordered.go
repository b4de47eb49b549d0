package render

import (
	"context"
	"runtime"

	"mantilla/core/frame"
)

// inOrder makes something of each batch of rows on all cores, and hands it on
// in the order of the batches, until one of them fails.
func inOrder[T any](ctx context.Context, each func(ctx context.Context, visit func(*frame.Batch) error) error,
	of func(*frame.Batch) (T, error),
	use func(T) error) error {
	type made struct {
		value T
		err   error
	}
	var waiting []chan made
	settle := func() error {
		m := <-waiting[0]
		waiting = waiting[1:]
		if m.err != nil {
			return m.err
		}
		return use(m.value)
	}
	err := each(ctx, func(b *frame.Batch) error {
		next := make(chan made, 1) // nobody waits for what is no longer wanted
		go func() {
			value, err := of(b)
			next <- made{value, err}
		}()
		if waiting = append(waiting, next); len(waiting) > runtime.GOMAXPROCS(0) {
			return settle()
		}
		return nil
	})
	for err == nil && len(waiting) > 0 {
		err = settle()
	}
	return err
}
