package capture

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/asking"
	"mantilla/library/catalog"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/runner"
	"mantilla/source"
)

// A preview reads so many rows of one dataset at most, for so long.
const (
	previewRows = 200
	previewTime = 10 * time.Second
)

// Preview is the first rows of what a run would read.
type Preview struct {
	Definition *report.Definition // as its values settle it
	Values     param.Values
	Sentence   string
	Frame      *frame.Frame
	Cut        bool // there are more rows
	Statements []source.Statement
}

// Preview reads the first rows of the dataset of a view as a run would, cut to what the
// person may see, and keeps nothing.
func (a *Access) Preview(ctx context.Context, q Ask, view string) (p Preview, err error) {
	if err := a.May(access.Run); err != nil {
		return p, err
	}
	run, err := a.asking.Plan(ctx, q.Report, q.Typed, asking.With{})
	if err != nil {
		return p, err
	}
	r, err := a.room.reads(ctx, run)
	if err != nil {
		return p, err
	}
	p.Definition, p.Values, p.Sentence = r.definition, r.values, run.Sentence
	v := reading.ViewOf(p.Definition, view)
	if v == nil {
		return p, model.NoSuch("view", view, reading.ViewIDs(p.Definition))
	}
	src := r.src
	ctx, cancel := context.WithTimeoutCause(ctx, previewTime,
		fmt.Errorf("the first rows took longer than %s; a run may take longer", previewTime))
	defer cancel()
	for _, q := range r.queries {
		for _, one := range append([]query.Query{q}, q.Companions...) {
			p.Statements = append(p.Statements, source.Write(one, src.Dialect()))
		}
		if q.Dataset.ID == v.Of {
			p.Frame, p.Cut, err = first(ctx, src, q)
		}
		if err != nil {
			return p, fmt.Errorf("dataset %s: %w", q.Dataset.ID, err)
		}
	}
	return p, nil
}

// reads is what a run that is planned would read.
type reads struct {
	definition *report.Definition // as its values settle it
	values     param.Values
	src        catalog.Source
	queries    []query.Query
}

func (room *Room) reads(ctx context.Context, run model.Run) (r reads, err error) {
	d, err := room.catalog.Version(ctx, run.Report, run.Version, room.org.Currency)
	if err != nil {
		return r, err
	}
	if r.src, err = room.catalog.Source(d.Source); err != nil {
		return r, err
	}
	if r.values, err = param.Unpack(d.Parameters, run.Values); err != nil {
		return r, err
	}
	r.definition = d.Settle(r.values)
	r.queries, err = query.Plan(r.definition, r.values, run.Reach, r.src.Dialect().Quotes())
	return r, err
}

// errEnough ends a reading that has its rows.
var errEnough = errors.New("there are rows enough")

func first(ctx context.Context, src catalog.Source, q query.Query) (f *frame.Frame, cut bool, err error) {
	session, err := src.Begin(ctx)
	if err != nil {
		return nil, false, err
	}
	defer session.Close()
	if len(q.Companions) > 0 {
		m := memory{}
		err := keepCompared(ctx, session, q, &m, &counting{limit: 100 * previewRows, progress: func(runner.Far) {}})
		if err != nil {
			return nil, false, err
		}
		f, err := frame.New(q.Dataset.Schema(), m.records...)
		return f, false, err
	}
	var records []arrow.RecordBatch
	schema := report.SchemaOf(q.Dataset.Read())
	rows := source.NewSink(schema, previewRows, func(r arrow.RecordBatch) error {
		records = append(records, r)
		return errEnough
	}, func(int64) error { return nil })
	err = session.Read(ctx, q, rows)
	switch {
	case errors.Is(err, errEnough):
		cut = true
	case err != nil:
		return nil, false, err
	default:
		if err := rows.Close(); err != nil && !errors.Is(err, errEnough) {
			return nil, false, err
		}
	}
	f, err = frame.New(schema, records...)
	return f, cut, err
}

// memory keeps the rows of a comparison nowhere but here.
type memory struct {
	Keeper

	records []arrow.RecordBatch
}

func (m *memory) Add(_ context.Context, record arrow.RecordBatch) error {
	m.records = append(m.records, record)
	return nil
}
