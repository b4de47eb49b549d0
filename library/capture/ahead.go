package capture

import (
	"context"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/rescue"
)

// ahead keeps batches in a goroutine of its own, so that rows are made of them, packed and kept
// while those that follow come in: a few batches ahead, so that both cores are used and memory
// stays flat. Work hands batches on; it ends early when one cannot be kept.
func ahead(ctx context.Context, keep Keeper,
	work func(ctx context.Context, hand func(record func() arrow.RecordBatch) error) error) error {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	records := make(chan func() arrow.RecordBatch, 2)
	kept := make(chan error, 1)
	go func() {
		var failed error
		for record := range records {
			if failed != nil {
				continue
			}
			failed = rescue.Call(func() error { return keep.Add(ctx, record()) })
			if failed != nil {
				cancel(failed) // interrupts the work
			}
		}
		kept <- failed
	}()
	err := work(ctx, func(record func() arrow.RecordBatch) error {
		select {
		case records <- record:
			return nil
		case <-ctx.Done():
			return context.Cause(ctx)
		}
	})
	close(records)
	if keepErr := <-kept; keepErr != nil {
		return keepErr
	}
	return err
}

// Ahead keeps the rows of a dataset that write writes, while it goes on writing. Tick is told
// how many there are.
func Ahead(ctx context.Context, keep Keeper, schema frame.Schema, tick func(rows int64) error,
	write func(ctx context.Context, out *frame.Builder) error) error {
	return ahead(ctx, keep, func(ctx context.Context, hand func(func() arrow.RecordBatch) error) error {
		rows := int64(0)
		out := frame.NewRawBuilder(schema, frame.BatchRows, func(r *frame.Rows) error {
			rows += int64(r.Len())
			if err := tick(rows); err != nil {
				return err
			}
			return hand(r.Record)
		})
		if err := write(ctx, out); err != nil {
			return err
		}
		return out.Close()
	})
}
