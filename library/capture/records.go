package capture

import (
	"context"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/checks"
	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/runner"
)

// Records are what the room keeps: the queue of runs, and the rows that they become.
type Records interface {
	runner.Queue

	AddRun(ctx context.Context, r model.Run, idempotency string) (model.Run, error)
	// Before is how the checks of the last result came out that was made by the same
	// report with the same typed values and reach; none where there is no such result.
	Before(ctx context.Context, run model.Run) ([]checks.Outcome, error)
	// Signed is how the checks of the last result of the report that was signed off came
	// out, of the same reach.
	Signed(ctx context.Context, run model.Run) ([]checks.Outcome, error)
	// Capture begins to keep the rows of a run.
	Capture(run int64) Keeper
	// Origin is what a name was first noted as; now, as it is at present, where it was not.
	Origin(ctx context.Context, name, present string) (string, error)
	Run(ctx context.Context, number int64) (model.Run, error)
	Runs(ctx context.Context, w model.RunWish) ([]model.Run, error)
	// Waiting is how many runs of somebody wait.
	Waiting(ctx context.Context, person string) (int, error)
	// WithRows tells which of some runs go on or have a result, so that their rows are wanted.
	WithRows(ctx context.Context, runs []int64) ([]int64, error)
	// Thin keeps the result of a run control before the newest as what it has that the one
	// before it has not.
	Thin(ctx context.Context, run model.Run, newest int64) error
}

// Keeper keeps the rows of one run while they come in, dataset by dataset.
type Keeper interface {
	// Dataset begins the next dataset; one that gets no batch is kept as empty.
	Dataset(id string)
	// Add keeps a batch of the dataset's rows.
	Add(ctx context.Context, record arrow.RecordBatch) error
	// Stays notes that the dataset's rows stay in the engine of their source.
	Stays(stay model.Stay, rows int64)
	// Failed forgets the rows of the dataset, which could not be read, and why.
	Failed(ctx context.Context, reason string) error
	// Frame is the rows of a dataset that were kept so far.
	Frame(ctx context.Context, dataset string, schema frame.Schema) (*frame.Frame, error)
	// Seal makes a result of what was kept and ends the run, at once or not at all.
	Seal(ctx context.Context, run model.Run, m model.Manifest, settled []byte, marks []model.Mark,
		now time.Time) (number int64, err error)
}
