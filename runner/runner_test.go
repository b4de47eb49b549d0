package runner

import (
	"context"
	"errors"
	"log/slog"
	"testing"
	"time"

	"mantilla/model"
	"mantilla/store"
)

func open(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), t.TempDir(), 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func start(t *testing.T, s *store.Store, workers int, work Work) *Runner {
	t.Helper()
	r := New(context.Background(), s.Runs(), work, time.Now, slog.New(slog.DiscardHandler))
	t.Cleanup(r.Close)
	if err := r.Start(workers); err != nil {
		t.Fatal(err)
	}
	return r
}

func ask(t *testing.T, s *store.Store, r *Runner, afterCrash string) int64 {
	t.Helper()
	run, err := s.Runs().AddRun(context.Background(),
		model.Run{Report: "lots", AfterCrash: afterCrash, AskedAt: time.Now()}, "")
	if err != nil {
		t.Fatal(err)
	}
	if r != nil {
		r.Wake()
	}
	return run.Number
}

// until waits for a run to reach a state.
func until(t *testing.T, s *store.Store, run int64, want model.State) model.Run {
	t.Helper()
	for begun := time.Now(); ; time.Sleep(2 * time.Millisecond) {
		r, err := s.Runs().Run(context.Background(), run)
		if err != nil {
			t.Fatal(err)
		}
		if r.State == want {
			return r
		}
		if time.Since(begun) > 10*time.Second {
			t.Fatalf("run %d is %s (%s), not %s", run, r.State, r.Reason, want)
		}
	}
}

// keep seals an empty result.
func keep(ctx context.Context, s *store.Store, run model.Run) (int64, int64, error) {
	n, err := s.Runs().Capture(run.Number).Seal(ctx, run, model.Manifest{}, nil, nil, time.Now())
	return n, 0, err
}

// wait does nothing until it is told to end.
func wait(ctx context.Context, _ model.Run, progress func(Far)) (int64, int64, error) {
	progress(Far{Rows: 7})
	<-ctx.Done()
	return 0, 7, context.Cause(ctx)
}

func TestRunsAreCarriedOutInOrder(t *testing.T) {
	s := open(t)
	var order []int64
	first, second := ask(t, s, nil, "fail"), ask(t, s, nil, "fail")
	r := start(t, s, 1, func(ctx context.Context, run model.Run, _ func(Far)) (int64, int64, error) {
		order = append(order, run.Number)
		return keep(ctx, s, run)
	})
	third := ask(t, s, r, "fail")
	if done := until(t, s, third, model.Done); done.Result == 0 {
		t.Error("no result")
	}
	if len(order) != 3 || order[0] != first || order[1] != second || order[2] != third {
		t.Errorf("carried out as %v", order)
	}
}

func TestWorkersWorkAtOnce(t *testing.T) {
	s := open(t)
	both := make(chan struct{}, 2)
	r := start(t, s, 2, func(ctx context.Context, run model.Run, _ func(Far)) (int64, int64, error) {
		both <- struct{}{}
		for len(both) < 2 { // ends only when the other worker came too
			if ctx.Err() != nil {
				return 0, 0, ctx.Err()
			}
			time.Sleep(time.Millisecond)
		}
		return keep(ctx, s, run)
	})
	a, b := ask(t, s, r, "fail"), ask(t, s, r, "fail")
	until(t, s, a, model.Done)
	until(t, s, b, model.Done)
}

func TestFailureIsRecorded(t *testing.T) {
	s := open(t)
	r := start(t, s, 1, func(context.Context, model.Run, func(Far)) (int64, int64, error) {
		return 0, 42, errors.New("the source is gone")
	})
	if got := until(t, s, ask(t, s, r, "fail"), model.Failed); got.Reason != "the source is gone" || got.Rows != 42 ||
		got.EndedAt.IsZero() {
		t.Errorf("recorded as %+v", got)
	}
}

func TestPanicFailsOneRunOnly(t *testing.T) {
	s := open(t)
	times := 0
	r := start(t, s, 1, func(ctx context.Context, run model.Run, _ func(Far)) (int64, int64, error) {
		if times++; times == 1 {
			panic("oh")
		}
		return keep(ctx, s, run)
	})
	if got := until(t, s, ask(t, s, r, "fail"), model.Failed); got.Reason != "a fault in the program: oh" {
		t.Errorf("recorded as %q", got.Reason)
	}
	until(t, s, ask(t, s, r, "fail"), model.Done)
}

func TestStop(t *testing.T) {
	s, ctx := open(t), context.Background()
	r := start(t, s, 1, wait)
	running := ask(t, s, r, "fail")
	until(t, s, running, model.Running)
	waiting := ask(t, s, r, "fail")
	if err := r.Stop(ctx, waiting); err != nil {
		t.Fatal(err)
	}
	until(t, s, waiting, model.Stopped)
	if err := r.Stop(ctx, running); err != nil {
		t.Fatal(err)
	}
	if got := until(t, s, running, model.Stopped); got.Reason != "" {
		t.Errorf("stopped because %q", got.Reason)
	}
	if err := r.Stop(ctx, running); err != nil {
		t.Errorf("stopping what has ended: %v", err)
	}
	if r.Close(); until(t, s, waiting, model.Stopped).StartedAt.IsZero() == false {
		t.Error("a run that was stopped while it waited was started")
	}
}

func TestShutdownQueuesAgainOrFails(t *testing.T) {
	s := open(t)
	r := start(t, s, 2, wait)
	again, fail := ask(t, s, r, "again"), ask(t, s, r, "fail")
	until(t, s, again, model.Running)
	until(t, s, fail, model.Running)
	r.Close()
	until(t, s, again, model.Waiting)
	if got := until(t, s, fail, model.Failed); got.Reason != "the service was shut down" {
		t.Errorf("failed because %q", got.Reason)
	}
	start(t, s, 1, func(ctx context.Context, run model.Run, _ func(Far)) (int64, int64, error) {
		return keep(ctx, s, run)
	})
	until(t, s, again, model.Done)
}

func TestWatchersSeeTheEnd(t *testing.T) {
	s := open(t)
	step := make(chan struct{})
	r := start(t, s, 1, func(ctx context.Context, run model.Run, progress func(Far)) (int64, int64, error) {
		for i := range 2 {
			select {
			case <-step:
			case <-ctx.Done():
				return 0, 0, ctx.Err()
			}
			if i == 0 {
				progress(Far{Rows: 1000})
			}
		}
		return keep(ctx, s, run)
	})
	const run = 1
	changes, end := r.Watch(run)
	defer end()
	if number := ask(t, s, r, "fail"); number != run {
		t.Fatalf("the first run has the number %d", number)
	}
	next := func() Progress {
		select {
		case p := <-changes:
			return p
		case <-time.After(10 * time.Second):
			t.Fatal("nothing was told")
			return Progress{}
		}
	}
	if p := next(); p.State != model.Running || p.Rows != 0 {
		t.Errorf("first told %+v", p)
	}
	step <- struct{}{}
	if p := next(); p.Rows != 1000 || p.State != model.Running {
		t.Errorf("then told %+v", p)
	}
	if p, ok := r.Progress(run); !ok || p.Rows != 1000 {
		t.Errorf("asked, told %+v", p)
	}
	step <- struct{}{}
	if p := next(); p.State != model.Done || p.Result == 0 {
		t.Errorf("at the end told %+v", p)
	}
}
