package source

import (
	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
)

// Sink is where the rows of a query pour: one by one into its builder, or as whole
// Arrow batches where an engine gives those. Capturing, comparing and previewing
// are sinks of one stream.
type Sink struct {
	Rows *frame.Builder // for engines that give row by row

	add   func(arrow.RecordBatch) error // of whole batches
	tick  func(rows int64) error
	whole int64 // rows of whole batches
}

// NewSink makes a sink of a schema. Batches of at most so many rows go to add; tick
// is told now and then how many rows there are, and its error ends the reading.
func NewSink(schema frame.Schema, batch int, add func(arrow.RecordBatch) error, tick func(rows int64) error) *Sink {
	return &Sink{Rows: frame.NewBuilder(schema, batch, add), add: add, tick: tick}
}

// NewLateSink makes a sink whose batches are made elsewhere, so that reading goes on
// meanwhile: add is given what makes one, to be called once.
func NewLateSink(schema frame.Schema, batch int, add func(record func() arrow.RecordBatch) error,
	tick func(rows int64) error) *Sink {
	return &Sink{
		Rows: frame.NewRawBuilder(schema, batch, func(r *frame.Rows) error { return add(r.Record) }),
		add:  func(r arrow.RecordBatch) error { return add(func() arrow.RecordBatch { return r }) },
		tick: tick,
	}
}

// Batch takes a whole batch of the sink's schema.
func (s *Sink) Batch(record arrow.RecordBatch) error {
	s.whole += record.NumRows()
	if err := s.add(record); err != nil {
		return err
	}
	return s.Tick()
}

// Tick tells how far the reading is.
func (s *Sink) Tick() error { return s.tick(s.Count()) }

// Count is the number of rows so far.
func (s *Sink) Count() int64 { return s.whole + s.Rows.Rows() }

// Close hands on the rows that are not yet a batch.
func (s *Sink) Close() error { return s.Rows.Close() }
