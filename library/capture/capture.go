package capture

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/checks"
	"mantilla/core/compare"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/runner"
	"mantilla/source"
	"mantilla/tracing"
)

// capture is the work of a run: read every dataset from one view of the
// source, keep the rows, seal the result. Reading runs ahead of keeping by a
// few batches, so both cores are used and memory stays flat.
func (room *Room) capture(ctx context.Context, run model.Run, progress func(runner.Far)) (result, rows int64,
	err error) {
	ctx, span := tracing.Begin(ctx, "run", "mantilla.report", run.Report, "mantilla.run", run.Number)
	defer func() {
		span.Has("mantilla.rows", rows)
		span.End(err)
	}()
	if run.Making != nil {
		return room.made(ctx, run, progress)
	}
	d, err := room.catalog.Version(ctx, run.Report, run.Version, room.org.Currency)
	if err != nil {
		return 0, 0, err
	}
	limits := room.limits(d, run.Terms)
	ctx, cancel := context.WithTimeoutCause(ctx, limits.Time,
		fmt.Errorf("the run took longer than %s, the limit of this report; choose less", limits.Time))
	defer cancel()
	src, err := room.catalog.Source(d.Source)
	if err != nil {
		return 0, 0, err
	}
	values, err := room.valuesOf(ctx, d, run, src)
	if err != nil {
		return 0, 0, err
	}
	settled := d.Settle(values)
	queries, err := query.Plan(settled, values, run.Reach, src.Dialect().Quotes())
	if err != nil {
		return 0, 0, err
	}
	schema, err := settled.Schema()
	if err != nil {
		return 0, 0, err
	}
	session, err := src.Begin(ctx)
	if err != nil {
		return 0, 0, err
	}
	defer session.Close()

	c := counting{limit: limits.Rows, engine: src.Engine() != nil, progress: progress}
	c.reckon(ctx, session, queries)
	keep := room.records.Capture(run.Number)
	stays := staying{run: run.Number, service: room.service, most: stayingLimit(d, run.Terms)}
	defer func() {
		if err != nil {
			stays.drop(ctx, src, room)
		}
	}()
	if err := room.keep(ctx, run, session, queries, keep, &stays, &c); err != nil {
		return 0, c.rows, err
	}
	c.rows += c.stayed
	if c.rows == 0 {
		switch run.Terms.Empty {
		case "fail":
			return 0, 0, errors.New("the result is empty, which its run control treats as failed")
		case "note":
			run.Note = "The result is empty."
		}
	}
	outcomes, err := room.check(ctx, run, settled, values, keep, stays.of(src))
	if err != nil {
		return 0, c.rows, err
	}
	if said := checks.Said(outcomes); len(said) > 0 {
		run.Note = strings.TrimSpace(run.Note + " " + strings.Join(said, " "))
	}
	result, err = keep.Seal(context.WithoutCancel(ctx), run,
		model.Manifest{Report: d.ID, Version: d.Version, Typed: run.Typed, Facts: run.Facts,
			AskedBy: run.AskedBy, StartedAt: run.StartedAt, Duration: room.org.Now().Sub(run.StartedAt), Source: d.Source,
			Fingerprint: session.Fingerprint(), Reach: run.Reach,
			Title: run.Title, Sentence: run.Sentence, Currency: room.org.Currency, Zone: room.org.Zone.String(),
			FiscalStart: room.org.FiscalStart, Checks: outcomes}, schema, room.asking.MarksOf(run, values), room.org.Now())
	if err == nil {
		room.restated(context.WithoutCancel(ctx), run, result)
		room.thin(context.WithoutCancel(ctx), run, result)
		room.told(context.WithoutCancel(ctx), run, result)
	}
	return result, c.rows, err
}

// keep reads each dataset and keeps its rows, here or where they lie.
func (room *Room) keep(ctx context.Context, run model.Run, session source.Session, queries []query.Query, keep Keeper,
	stays *staying, c *counting) error {
	for _, q := range queries {
		if room.most.Spare != nil {
			if err := room.most.Spare(); err != nil {
				return err
			}
		}
		keep.Dataset(q.Dataset.ID)
		read := keepRows
		switch {
		case q.Dataset.Keep == report.InEngine:
			read = stays.keep
		case len(q.Companions) > 0:
			read = keepCompared
		}
		reading, span := tracing.Begin(ctx, "dataset "+q.Dataset.ID)
		err := read(reading, session, q, keep, c)
		span.End(err)
		var limit *limitReached
		if err != nil && q.Dataset.MayFail && ctx.Err() == nil && !errors.As(err, &limit) && !errors.Is(err, model.ErrFull) {
			room.log.WarnContext(ctx, "a block of a run failed", "run", run.Number, "dataset", q.Dataset.ID, "error", err)
			err = keep.Failed(ctx, err.Error())
			c.rows = c.before
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// thin keeps what the result of a run control before this one has in common with that before it
// once. What cannot be thinned stays as it is.
func (room *Room) thin(ctx context.Context, run model.Run, result int64) {
	if run.ControlRun == 0 {
		return
	}
	if err := room.records.Thin(ctx, run, result); err != nil {
		room.log.WarnContext(ctx, "an earlier result stays kept as a whole", "run", run.Number, "error", err)
	}
}

// limits are the tightest of those of the service, the report and the terms of
// a run control.
func (room *Room) limits(d *report.Definition, terms model.Terms) report.Limits {
	limits := report.Limits{Rows: room.most.Rows, Time: room.most.Time}
	if d.Limits.Rows > 0 {
		limits.Rows = min(limits.Rows, d.Limits.Rows)
	}
	if d.Limits.Time > 0 {
		limits.Time = min(limits.Time, d.Limits.Time)
	}
	if terms.Rows > 0 {
		limits.Rows = min(limits.Rows, terms.Rows)
	}
	if terms.Time > 0 {
		limits.Time = min(limits.Time, terms.Time)
	}
	return limits
}

// stayingLimit is how many rows of a dataset may stay in an engine: what the report or the terms of
// a run control say; the service's own limit is of rows that are kept here.
func stayingLimit(d *report.Definition, terms model.Terms) int64 {
	most := int64(mostStaying)
	for _, limit := range []int64{d.Limits.Rows, terms.Rows} {
		if limit > 0 {
			most = min(most, limit)
		}
	}
	return most
}

// valuesOf are a run's values as they were when it was asked for, whatever has
// become of lists and of the day. Runs that were asked for by an earlier program
// have them as facts alone, which are read against the lists of now.
func (room *Room) valuesOf(ctx context.Context, d *report.Definition, run model.Run, src catalog.Source) (param.Values,
	error) {
	if len(run.Values) > 0 {
		return param.Unpack(d.Parameters, run.Values)
	}
	setting := param.Setting{Calendar: room.org.Calendar(), Lists: src.Book.For(run.Reach)}
	values, faults, err := param.Resolve(ctx, d.Parameters, model.Resolved(run.Facts), setting)
	if err == nil && len(faults) > 0 {
		err = faults
	}
	return values, err
}

// keepRows streams one query into the store.
func keepRows(ctx context.Context, session source.Session, q query.Query, keep Keeper, c *counting) error {
	return ahead(ctx, keep, func(ctx context.Context, hand func(func() arrow.RecordBatch) error) error {
		rows := source.NewLateSink(report.SchemaOf(q.Dataset.Read()), frame.BatchRows, hand, c.tick)
		return readRows(ctx, session, q, rows, c)
	})
}

func readRows(ctx context.Context, session source.Session, q query.Query, rows *source.Sink, c *counting) error {
	c.before = c.rows
	if err := session.Read(ctx, q, rows); err != nil {
		return err
	}
	return rows.Close()
}

// keepCompared reads a query and its companions and keeps their comparison.
// The rows of a comparison are totals, few enough to be held in memory.
func keepCompared(ctx context.Context, session source.Session, q query.Query, keep Keeper, c *counting) error {
	schema := report.SchemaOf(q.Dataset.Read())
	var periods []*frame.Frame
	for _, one := range append([]query.Query{q}, q.Companions...) {
		var records []arrow.RecordBatch
		rows := source.NewSink(schema, frame.BatchRows, func(r arrow.RecordBatch) error {
			records = append(records, r)
			return nil
		}, c.tick)
		if err := readRows(ctx, session, one, rows, c); err != nil {
			return err
		}
		f, err := frame.New(schema, records...)
		if err != nil {
			return err
		}
		periods = append(periods, f)
	}
	layout := compare.Layout{Begins: q.Begins}
	for i, col := range q.Dataset.Read() {
		if slices.Contains(q.Dataset.Key, col.ID) {
			layout.Key = append(layout.Key, i)
		}
		layout.Measure = append(layout.Measure, q.Dataset.Measure(col))
	}
	out := frame.NewBuilder(q.Dataset.Schema(), frame.BatchRows,
		func(r arrow.RecordBatch) error { return keep.Add(ctx, r) })
	if err := compare.Periods(ctx, periods, layout, out); err != nil {
		return err
	}
	c.rows = out.Rows()
	return out.Close()
}
