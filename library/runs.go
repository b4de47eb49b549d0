package library

import (
	"context"
	"fmt"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/runner"
	"mantilla/source"
	"mantilla/store"
)

// Resolution is what a set of typed values comes to today.
type Resolution struct {
	Values   param.Values
	Facts    []store.Fact
	Sentence string
	Faults   param.Faults
}

func (l *Library) setting(lists param.Lists) param.Setting {
	return param.Setting{Calendar: l.Calendar(), Lists: lists}
}

// Resolve resolves typed values against today and the report's source. Faults
// are part of the answer, not an error.
func (l *Library) Resolve(ctx context.Context, id string, typed map[string]string) (*Resolution, error) {
	d, err := l.Report(id)
	if err != nil {
		return nil, err
	}
	src, err := l.source(d.Source)
	if err != nil {
		return nil, err
	}
	values, faults, err := param.Resolve(ctx, d.Parameters, typed, l.setting(src))
	if err != nil {
		return nil, err
	}
	r := &Resolution{Values: values, Faults: faults}
	for _, v := range values {
		r.Facts = append(r.Facts, store.Fact{Parameter: v.Parameter.ID, Label: v.Parameter.Label,
			Typed: v.Typed, Resolved: v.Resolved(), Says: v.Phrase()})
	}
	if len(faults) == 0 {
		r.Sentence = param.Describe(values)
	}
	return r, nil
}

// Entries returns the entries that a parameter offers.
func (l *Library) Entries(ctx context.Context, id, parameter string, w source.Wish) ([]param.Entry, error) {
	d, err := l.Report(id)
	if err != nil {
		return nil, err
	}
	p := d.Parameter(parameter)
	if p == nil {
		return nil, missing("parameter", parameter, parameterIDs(d))
	}
	if p.From == "" {
		return p.Options, nil
	}
	src, err := l.source(d.Source)
	if err != nil {
		return nil, err
	}
	return src.Entries(ctx, p.From, w)
}

func parameterIDs(d *report.Definition) (ids []string) {
	for _, p := range d.Parameters {
		ids = append(ids, p.ID)
	}
	return ids
}

// Presets returns the named ranges with their days as they are now.
func (l *Library) Presets() []period.Named { return l.Calendar().Presets() }

// Ask says who wants which report with which values, as typed. A run asked for
// twice with the same idempotency key is made once.
type Ask struct {
	Report      string
	Typed       map[string]string
	By          string
	Idempotency string
}

// StartRun checks the values and puts a run in the queue. When values are
// wrong, the error is a [param.Faults] that lists all of them.
func (l *Library) StartRun(ctx context.Context, a Ask) (store.Run, error) {
	r, err := l.Resolve(ctx, a.Report, a.Typed)
	if err != nil {
		return store.Run{}, err
	}
	if len(r.Faults) > 0 {
		return store.Run{}, r.Faults
	}
	d, err := l.Report(a.Report)
	if err != nil {
		return store.Run{}, err
	}
	typed := map[string]string{}
	for _, f := range r.Facts {
		typed[f.Parameter] = f.Typed
	}
	run, err := l.store.AddRun(ctx, store.Run{Report: d.ID, Title: d.Title, Version: d.Version, Typed: typed, Facts: r.Facts,
		Sentence: r.Sentence, AskedBy: a.By, AskedAt: l.settings.Now(), AfterCrash: d.Limits.AfterCrash}, a.Idempotency)
	if err != nil {
		return run, err
	}
	l.runner.Wake()
	return run, nil
}

// Run returns one run.
func (l *Library) Run(ctx context.Context, number int64) (store.Run, error) {
	run, err := l.store.Run(ctx, number)
	if err != nil {
		return run, fmt.Errorf("run %d: %w", number, err)
	}
	return l.current(run), nil
}

// current adds the rows that a running run has read so far.
func (l *Library) current(run store.Run) store.Run {
	if p, ok := l.runner.Progress(run.Number); ok {
		run.Rows = p.Rows
	}
	return run
}

// Runs lists runs, the newest first.
func (l *Library) Runs(ctx context.Context, w store.RunWish) ([]store.Run, error) {
	runs, err := l.store.Runs(ctx, w)
	for i := range runs {
		runs[i] = l.current(runs[i])
	}
	return runs, err
}

// StopRun stops a run and returns it as it then is.
func (l *Library) StopRun(ctx context.Context, number int64) (store.Run, error) {
	if _, err := l.Run(ctx, number); err != nil {
		return store.Run{}, err
	}
	if err := l.runner.Stop(ctx, number); err != nil {
		return store.Run{}, err
	}
	return l.Run(ctx, number)
}

// Watch follows a run; see [runner.Runner.Watch].
func (l *Library) Watch(number int64) (<-chan runner.Progress, func()) { return l.runner.Watch(number) }

// capture is the work of a run: read every dataset from one view of the
// source, keep the rows, seal the result. Reading runs ahead of keeping by a
// few batches, so both cores are used and memory stays flat.
func (l *Library) capture(ctx context.Context, run store.Run, progress func(int64)) (result, rows int64, err error) {
	d, err := l.version(ctx, run.Report, run.Version)
	if err != nil {
		return 0, 0, err
	}
	limits := l.limits(d)
	ctx, cancel := context.WithTimeoutCause(ctx, limits.Time,
		fmt.Errorf("the run took longer than %s, the limit of this report; choose less", limits.Time))
	defer cancel()
	src, err := l.source(d.Source)
	if err != nil {
		return 0, 0, err
	}
	values, err := l.factsOf(ctx, d, run, src)
	if err != nil {
		return 0, 0, err
	}
	queries, err := d.Plan(values)
	if err != nil {
		return 0, 0, err
	}
	fingerprint, err := src.Fingerprint(ctx)
	if err != nil {
		return 0, 0, err
	}
	session, err := src.Begin(ctx)
	if err != nil {
		return 0, 0, err
	}
	defer session.Close()

	c := counting{limit: limits.Rows, progress: progress}
	keep := l.store.Capture(run.Number)
	for _, q := range queries {
		keep.Dataset(q.Dataset.ID)
		if err := keepRows(ctx, session, q, keep, &c); err != nil {
			return 0, c.rows, err
		}
	}
	result, err = keep.Seal(context.WithoutCancel(ctx), run, store.Manifest{Report: d.ID, Version: d.Version, Typed: run.Typed, Facts: run.Facts,
		AskedBy: run.AskedBy, StartedAt: run.StartedAt, Duration: l.settings.Now().Sub(run.StartedAt), Source: d.Source, Fingerprint: fingerprint}, l.settings.Now())
	return result, c.rows, err
}

// limits fills in the service's limits where the report has none.
func (l *Library) limits(d *report.Definition) report.Limits {
	limits := d.Limits
	if limits.Rows == 0 {
		limits.Rows = l.settings.MaxRows
	}
	if limits.Time == 0 {
		limits.Time = l.settings.MaxTime
	}
	return limits
}

// factsOf reads a run's values back from what they were resolved to when it
// was asked for, so that a run that waited over midnight keeps its days.
func (l *Library) factsOf(ctx context.Context, d *report.Definition, run store.Run, src source.Source) (param.Values, error) {
	resolved := map[string]string{}
	for _, f := range run.Facts {
		resolved[f.Parameter] = f.Resolved
	}
	values, faults, err := param.Resolve(ctx, d.Parameters, resolved, l.setting(src))
	if err == nil && len(faults) > 0 {
		err = faults
	}
	return values, err
}

// counting counts the rows of all datasets of a run against its limit.
type counting struct {
	before   int64 // rows of earlier datasets
	rows     int64
	limit    int64
	progress func(int64)
}

func (c *counting) tick(rows int64) error {
	c.rows = c.before + rows
	c.progress(c.rows)
	if c.rows > c.limit {
		return fmt.Errorf("the run gives more than %d rows, the limit of this report; choose less, a shorter range for one", c.limit)
	}
	return nil
}

// keepRows streams one query into the store.
func keepRows(ctx context.Context, session source.Session, q report.Query, keep *store.Capture, c *counting) error {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	records := make(chan arrow.RecordBatch, 2)
	kept := make(chan error, 1)
	go func() {
		var err error
		for record := range records {
			if err == nil {
				if err = keep.Add(ctx, record); err != nil {
					cancel(err) // interrupts the reading
				}
			}
		}
		kept <- err
	}()
	rows := frame.NewBuilder(q.Dataset.Schema(), frame.BatchRows, func(record arrow.RecordBatch) error {
		select {
		case records <- record:
			return nil
		case <-ctx.Done():
			return context.Cause(ctx)
		}
	})
	c.before = c.rows
	err := session.Read(ctx, q, rows, func() error { return c.tick(rows.Rows()) })
	if err == nil {
		err = rows.Close()
	}
	close(records)
	if keepErr := <-kept; keepErr != nil {
		return keepErr
	}
	return err
}

// Elapsed is how long a run took, or has taken so far.
func (l *Library) Elapsed(run store.Run) time.Duration {
	switch {
	case run.StartedAt.IsZero():
		return 0
	case run.EndedAt.IsZero():
		return l.settings.Now().Sub(run.StartedAt)
	}
	return run.EndedAt.Sub(run.StartedAt)
}
