package capture

import (
	"context"

	"mantilla/model"
	"mantilla/runner"
	"mantilla/store"
)

// Records are what the room keeps: the queue of runs, and the rows that they become.
type Records interface {
	runner.Queue

	AddRun(ctx context.Context, r model.Run, idempotency string) (model.Run, error)
	Capture(run int64) *store.Capture
	Run(ctx context.Context, number int64) (model.Run, error)
	Runs(ctx context.Context, w model.RunWish) ([]model.Run, error)
}
