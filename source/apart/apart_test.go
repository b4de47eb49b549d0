package apart

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"reflect"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/definition"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/source/sourcetest"
	_ "mantilla/source/sqlite"
)

// TestMain is the worker where it is started as one.
func TestMain(m *testing.M) {
	if len(os.Args) == 2 && os.Args[1] == "serve" {
		ctx, stop := signal.NotifyContext(context.Background(), syscall.SIGTERM)
		defer stop()
		if err := Serve(ctx, os.Stdin, os.Stdout); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// apartly is the agreements' SQLite source, read by workers.
func apartly(t *testing.T, memory int64) sourcetest.Made {
	t.Helper()
	dir, made := sourcetest.SQLite(t)
	config, err := source.ParseConfig([]byte("source: there\nkind: sqlite\nfile: there.db\n"))
	if err != nil {
		t.Fatal(err)
	}
	config.Lists, config.Units = sourcetest.Lists(), "units"
	at := source.Place{Dir: dir}
	s, err := source.Open(config, at)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	made.Source = Worker{Command: []string{os.Args[0], "serve"}, Memory: memory}.Of(s, config, at)
	return made
}

// TestAgreements holds what is read apart to what all sources are held to.
func TestAgreements(t *testing.T) {
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made { return apartly(t, 1<<30) })
}

// planned is the query of one column of a table of one row.
func planned(t *testing.T, is string) query.Query {
	t.Helper()
	d, faults := definition.Parse([]byte(`report: large
title: Large
category: Intake
depth: lines
about: One cell.
source: there
datasets:
  lots:
    from: (select 1 as one) as t
    columns: [{id: cell, is: "`+is+`", type: text}]
views:
  lots: {of: lots}
`), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		t.Fatal(faults)
	}
	queries, err := query.Plan(d, param.Values{}, report.Reach{}, report.AnyQuotes)
	if err != nil {
		t.Fatal(err)
	}
	return queries[0]
}

func read(ctx context.Context, s source.Session, q query.Query) (rows int64, err error) {
	sink := source.NewSink(report.SchemaOf(q.Dataset.Read()), 1000, func(arrow.RecordBatch) error { return nil },
		func(int64) error { return nil })
	err = errors.Join(s.Read(ctx, q, sink), sink.Close())
	return sink.Count(), err
}

// A query that takes more memory than it may ends its worker, which is told as why; the next run
// has one of its own.
func TestAQueryThatTakesAllMemoryEndsItself(t *testing.T) {
	m := apartly(t, 100<<20)
	v, err := m.Source.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	large := planned(t, "t.one")
	large.From = query.Piece{{Text: "(with recursive n(i) as (select 1 union all select i + 1 from n where i < 150) " +
		"select hex(randomblob(700000)) as one from n order by 1) as t"}}
	_, err = read(t.Context(), v, large)
	if err == nil || !strings.Contains(err.Error(), "took more than 100 MB of memory, the limit of a run; choose less") {
		t.Errorf("it ended with %v", err)
	}
	if _, err := read(t.Context(), v, planned(t, "t.one")); err == nil || !strings.Contains(err.Error(), "has ended") {
		t.Errorf("the session goes on: %v", err)
	}
	if err := v.Close(); err != nil {
		t.Error(err)
	}
	v, err = m.Source.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	if rows, err := read(t.Context(), v, planned(t, "t.one")); err != nil || rows != 1 {
		t.Errorf("then it gives %d rows, %v", rows, err)
	}
}

// A worker that dies by itself, or does not begin, is told; none is left behind by a session that
// is closed or a run that is stopped.
func TestWorkersThatEnd(t *testing.T) {
	m := apartly(t, 1<<30)
	v, err := m.Source.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	of := v.(*session)
	if err := of.command.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	_, err = read(t.Context(), v, planned(t, "t.one"))
	if err == nil || !strings.Contains(err.Error(), "what reads it ended") {
		t.Errorf("a worker that was killed: %v", err)
	}
	for _, command := range [][]string{{"/nowhere/at/all"}, {"false"}, {"echo", "nonsense"}} {
		s := Worker{Command: command, Memory: 1 << 30}.Of(m.Source.(*apart).Source, m.Source.(*apart).config,
			m.Source.(*apart).at)
		if _, err := s.Begin(t.Context()); err == nil || !strings.HasPrefix(err.Error(), "source there: ") {
			t.Errorf("%s: %v", command, err)
		}
	}
	ctx, leave := context.WithCancelCause(t.Context())
	stopped, err := m.Source.Begin(ctx)
	if err != nil {
		t.Fatal(err)
	}
	left := errors.New("the run was stopped")
	leave(left)
	if _, err := read(ctx, stopped, planned(t, "t.one")); !errors.Is(err, left) {
		t.Errorf("a run that was stopped: %v", err)
	}
	if err := stopped.Close(); err != nil {
		t.Error(err)
	}
	if stopped.(*session).command.ProcessState == nil {
		t.Error("its worker goes on")
	}
}

// What is sent to a worker comes there as it was.
func TestQueriesTravel(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	old := time.Date(1800, 1, 1, 12, 0, 0, 1000, berlin)
	for _, is := range []any{nil, "it's", "", true, false, frame.Exact(-12_345, 3), period.Date(1899, 12, 31),
		[]string{"a", "é"}, []string{}} {
		text, err := json.Marshal(query.Value{Name: "v", Is: is})
		if err != nil {
			t.Fatal(err)
		}
		var again query.Value
		if err := json.Unmarshal(text, &again); err != nil || !reflect.DeepEqual(again, query.Value{Name: "v", Is: is}) {
			t.Errorf("%#v comes as %#v, %v", is, again, err)
		}
	}
	q := planned(t, "t.one")
	q.Where = []query.Condition{{Within: &query.Within{Moments: true, Spans: []period.Interval{{From: old, To: old}}}},
		{Among: &query.Value{Is: old}}}
	text, err := json.Marshal(request{Read: wired(q)})
	if err != nil {
		t.Fatal(err)
	}
	var came request
	if err := json.Unmarshal(text, &came); err != nil {
		t.Fatal(err)
	}
	where := came.Read.Where
	if !where[0].Within.Spans[0].From.Equal(old) || !where[1].Among.Is.(time.Time).Equal(old) {
		t.Errorf("a moment of 1800 comes as %v, %v", where[0].Within.Spans[0].From, where[1].Among.Is)
	}
	if _, err := json.Marshal(query.Value{Name: "v", Is: 3}); err == nil {
		t.Error("something that is no value travels")
	}
}
