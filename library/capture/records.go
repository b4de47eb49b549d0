package capture

import (
	"context"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/model"
	"mantilla/runner"
)

// Records are what the room keeps: the queue of runs, and the rows that they become.
type Records interface {
	runner.Queue

	AddRun(ctx context.Context, r model.Run, idempotency string) (model.Run, error)
	// Capture begins to keep the rows of a run.
	Capture(run int64) Keeper
	Run(ctx context.Context, number int64) (model.Run, error)
	Runs(ctx context.Context, w model.RunWish) ([]model.Run, error)
}

// Keeper keeps the rows of one run while they come in, dataset by dataset.
type Keeper interface {
	// Dataset begins the next dataset; one that gets no batch is kept as empty.
	Dataset(id string)
	// Add keeps a batch of the dataset's rows.
	Add(ctx context.Context, record arrow.RecordBatch) error
	// Failed forgets the rows of the dataset, which could not be read, and why.
	Failed(ctx context.Context, reason string) error
	// Seal makes a result of what was kept and ends the run, at once or not at all.
	Seal(ctx context.Context, run model.Run, m model.Manifest, settled []byte, marks []model.Mark,
		now time.Time) (number int64, err error)
}
