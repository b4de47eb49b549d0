package capture

import (
	"context"
	"fmt"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/checks"
	"mantilla/core/entries"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/param"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/runner"
	"mantilla/source"
)

// A try reads so many rows at most for each of its expectations, for so long; they are held
// in memory and kept nowhere.
const (
	triedRows = 500_000
	triedTime = time.Minute
)

// Tried is an expectation of a definition with what came of it.
type Tried struct {
	Name     string
	Sentence string // of the values
	Rows     int64
	Figures  []checks.Compared
	Checks   []checks.Outcome
	Failed   string // why it could not be read
}

// Held tells whether all is as it was expected.
func (t *Tried) Held() bool {
	for _, f := range t.Figures {
		if !f.Same {
			return false
		}
	}
	return t.Failed == "" && checks.Failed(t.Checks) == nil
}

// Try reads the rows of each expectation of a definition as a run would, and compares its
// figures with what is expected of them.
func (a *Access) Try(ctx context.Context, d *report.Definition) (out []Tried, err error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	src, err := a.room.catalog.Source(d.Source)
	if err != nil {
		return nil, err
	}
	for _, e := range d.Expected {
		t := Tried{Name: e.Name}
		if err := a.try(ctx, d, src, e, &t); err != nil {
			if ctx.Err() != nil {
				return nil, context.Cause(ctx)
			}
			t.Failed = err.Error()
		}
		out = append(out, t)
	}
	return out, nil
}

func (a *Access) try(ctx context.Context, d *report.Definition, src catalog.Source, e report.Expected,
	t *Tried) error {
	reach, err := a.Reach(ctx, src.Book)
	if err != nil {
		return err
	}
	values, faults, err := param.Resolve(ctx, d.Parameters, e.Values,
		param.Setting{Calendar: a.room.org.Calendar(), Lists: src.Book.For(reach)})
	if err != nil {
		return err
	}
	if len(faults) > 0 {
		return faults
	}
	t.Sentence = param.Describe(values)
	settled := d.Settle(values)
	queries, err := query.Plan(settled, values, reach, src.Dialect().Quotes())
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeoutCause(ctx, triedTime,
		fmt.Errorf("it took longer than %s; expect figures of fewer rows", triedTime))
	defer cancel()
	frames, err := a.frames(ctx, src, queries, t)
	if err != nil {
		return err
	}
	rows := func(_ context.Context, set *report.Dataset) (table.Table, error) {
		f, ok := frames[set.ID]
		if !ok {
			return nil, fmt.Errorf("these values give no dataset %s", set.ID)
		}
		f, _ = new(entries.Layer).Over(f, set)
		return kept.Of(f, table.Fresh{}), nil
	}
	setting := a.room.setting(settled, values)
	if t.Figures, err = checks.Expect(ctx, settled, rows, setting, e.Figures); err != nil {
		return err
	}
	t.Checks, err = checks.Of(ctx, settled, rows, setting, nil)
	return err
}

// frames reads all queries from one view of the source.
func (a *Access) frames(ctx context.Context, src catalog.Source, queries []query.Query,
	t *Tried) (map[string]*frame.Frame, error) {
	session, err := src.Begin(ctx)
	if err != nil {
		return nil, err
	}
	defer session.Close()
	counted := counting{limit: triedRows, progress: func(runner.Far) {}}
	frames := map[string]*frame.Frame{}
	for _, q := range queries {
		m := memory{}
		if len(q.Companions) > 0 {
			err = keepCompared(ctx, session, q, &m, &counted)
		} else {
			err = m.read(ctx, session, q, &counted)
		}
		if err != nil {
			return nil, fmt.Errorf("dataset %s: %w", q.Dataset.ID, err)
		}
		if frames[q.Dataset.ID], err = frame.New(q.Dataset.Schema(), m.records...); err != nil {
			return nil, err
		}
	}
	t.Rows = counted.rows
	return frames, nil
}

// read reads one query into memory.
func (m *memory) read(ctx context.Context, session source.Session, q query.Query, c *counting) error {
	rows := source.NewSink(report.SchemaOf(q.Dataset.Read()), frame.BatchRows, func(r arrow.RecordBatch) error {
		return m.Add(ctx, r)
	}, c.tick)
	return readRows(ctx, session, q, rows, c)
}
