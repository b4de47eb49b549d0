package capture

import (
	"context"
	"fmt"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/runner"
	"mantilla/source"
)

// countTime is how long rows are counted.
const countTime = 20 * time.Second

// Count reads what a run that is planned would read, keeps nothing of it, and returns how many rows its
// result would have. It fails as the run would, and where it takes longer than somebody waits.
func (a *Access) Count(ctx context.Context, run model.Run) (int64, error) {
	if err := a.May(access.Run); err != nil {
		return 0, err
	}
	r, err := a.room.reads(ctx, run)
	if err != nil {
		return 0, err
	}
	ctx, cancel := context.WithTimeoutCause(ctx, countTime,
		fmt.Errorf("counting took longer than %s; the run may take longer", countTime))
	defer cancel()
	session, err := r.src.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer session.Close()
	c := &counting{limit: a.room.limits(r.definition, run.Terms).Rows, progress: func(runner.Far) {}}
	for _, q := range r.queries {
		c.before = c.rows
		if len(q.Companions) > 0 {
			err = keepCompared(ctx, session, q, &nothing{}, c)
		} else {
			rows := source.NewSink(report.SchemaOf(q.Dataset.Read()), previewRows,
				func(arrow.RecordBatch) error { return nil }, c.tick)
			if err = session.Read(ctx, q, rows); err == nil {
				err = rows.Close()
			}
		}
		if err != nil {
			return 0, fmt.Errorf("dataset %s: %w", q.Dataset.ID, err)
		}
	}
	return c.rows, nil
}

// nothing keeps no rows.
type nothing struct{ Keeper }

// Add forgets them.
func (*nothing) Add(context.Context, arrow.RecordBatch) error { return nil }
