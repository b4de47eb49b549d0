package sourcetest

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/report"
	"mantilla/source"
)

var errLeft = errors.New("the reader left")

// stopped is a query soon after its context ends, with the context's cause, and the source goes
// on being read.
func stopped(t *testing.T, m Made) {
	d := parse(t, strings.Replace(lots, "from: lot join unit on unit.id = lot.site",
		"from: "+m.Endless+" join lot on true join unit on unit.id = lot.site", 1))
	q := planned(t, m.Source, d, nil, report.Reach{})[0]
	v := begin(t, m.Source)
	ctx, leave := context.WithCancelCause(t.Context())
	time.AfterFunc(300*time.Millisecond, func() { leave(errLeft) })
	began := time.Now()
	sink := source.NewSink(report.SchemaOf(q.Dataset.Read()), 1000, func(arrow.RecordBatch) error { return nil },
		func(int64) error { return nil })
	err := v.Read(ctx, q, sink)
	if took := time.Since(began); !errors.Is(err, errLeft) || took > 5*time.Second {
		t.Errorf("it ended after %s with %v", took, err)
	}
	full := errors.New("there is no room for more")
	sink = source.NewSink(report.SchemaOf(q.Dataset.Read()), 1000, func(arrow.RecordBatch) error { return nil },
		func(int64) error { return full })
	whole := planned(t, m.Source, parse(t, lots), nil, report.Reach{})[0]
	if err := begin(t, m.Source).Read(t.Context(), whole, sink); !errors.Is(err, full) {
		t.Errorf("a sink that is full ends it with %v", err)
	}
	if rows, err := read(t, begin(t, m.Source), whole); err != nil || len(rows) != 5 {
		t.Errorf("then it gives %d rows, %v", len(rows), err)
	}
}

// millions is a definition whose first query gives hundreds of millions of rows.
func millions(t *testing.T) *report.Definition {
	from := "from: lot join unit on unit.id = lot.site"
	many := from
	for _, other := range strings.Fields("b c d e f g h i j k l") {
		many += " join lot as " + other + " on true"
	}
	return parse(t, strings.Replace(lots, from, many, 1))
}

// others of a session's queries are answered after one that failed, and one whose rows are no
// longer wanted ends at once, not when they have all come.
func others(t *testing.T, m Made) {
	v := begin(t, m.Source)
	whole := planned(t, m.Source, parse(t, lots), nil, report.Reach{})[0]
	wrong := planned(t, m.Source, parse(t, strings.Replace(lots, "is: lot.note", "is: lot.notes", 1)), nil,
		report.Reach{})[0]
	full := errors.New("there is no room for more")
	some := 0
	for what, fault := range map[string]func() error{
		"not understood": func() error { _, err := read(t, v, wrong); return err },
		"too many": func() error {
			q := planned(t, m.Source, millions(t), nil, report.Reach{})[0]
			sink := source.NewSink(report.SchemaOf(q.Dataset.Read()), 1000, func(arrow.RecordBatch) error { return nil },
				func(int64) error { some++; return full })
			return v.Read(t.Context(), q, sink)
		},
	} {
		began := time.Now()
		err := fault()
		if took := time.Since(began); err == nil || took > 5*time.Second {
			t.Errorf("%s: %v after %s", what, err, took)
		}
		if rows, err := read(t, v, whole); err != nil || len(rows) != 5 {
			t.Errorf("after what was %s it gives %d rows, %v", what, len(rows), err)
		}
	}
	if some != 1 {
		t.Errorf("a full sink was filled %d times", some)
	}
}

// reckoned are the rows of a query by an engine that can tell: few as few, very many as many,
// with what is bound; and what it does not understand is an error and not a number.
func reckoned(t *testing.T, m Made) {
	few := planned(t, m.Source, parse(t, lots), map[string]string{"least": "1", "grade": "A"}, report.Reach{})[0]
	r, can := begin(t, m.Source).(source.Reckoner)
	if can != m.Reckons {
		t.Fatalf("it reckons: %t", can)
	}
	if !can {
		return
	}
	if rows, err := r.Reckon(t.Context(), few); err != nil || rows < 0 || rows > 10_000 {
		t.Errorf("it reckons with %d rows, %v", rows, err)
	}
	q := planned(t, m.Source, millions(t), nil, report.Reach{})[0]
	if rows, err := r.Reckon(t.Context(), q); err != nil || rows < 1_000_000 {
		t.Errorf("of millions of rows it reckons with %d, %v", rows, err)
	}
	wrong := planned(t, m.Source, parse(t, strings.Replace(lots, "is: lot.note", "is: lot.notes", 1)), nil,
		report.Reach{})[0]
	if rows, err := r.Reckon(t.Context(), wrong); err == nil {
		t.Errorf("of what it does not understand it reckons with %d rows", rows)
	}
	if rows, err := read(t, r.(source.Session), few); err != nil || len(rows) == 0 {
		t.Errorf("then it gives %d rows, %v", len(rows), err)
	}
}
