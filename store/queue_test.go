package store

import (
	"context"
	"errors"
	"strings"
	"testing"

	"mantilla/core/frame"
	"mantilla/model"
)

func TestRunGoesThroughTheQueue(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	first, second := asked(t, s, "fail"), asked(t, s, "again")
	if first.State != model.Waiting || first.Typed["days"] != "last month" ||
		first.Facts[0].Resolved != "2026-09-01/2026-09-30" || !first.AskedAt.Equal(now) {
		t.Errorf("queued as %+v", first)
	}
	if got := claim(t, s); got.Number != first.Number || got.State != model.Running || !got.StartedAt.Equal(now) {
		t.Errorf("claimed %+v", got)
	}
	if stopped, err := s.Runs().StopWaiting(ctx, first.Number, now); stopped || err != nil {
		t.Errorf("a running run was stopped as if it waited: %v", err)
	}
	if stopped, err := s.Runs().StopWaiting(ctx, second.Number, now); !stopped || err != nil {
		t.Errorf("a waiting run was not stopped: %v", err)
	}
	if _, err := s.Runs().Claim(ctx, now, 600); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("claimed from an empty queue: %v", err)
	}
	if err := s.Runs().EndRun(ctx, first.Number, model.Failed, "no reason", 5, now); err != nil {
		t.Fatal(err)
	}
	if err := s.Runs().EndRun(ctx, first.Number, model.Stopped, "", 0, now); err != nil {
		t.Fatal(err)
	}
	if got, err := s.Runs().Run(ctx, first.Number); err != nil || got.State != model.Failed || got.Reason != "no reason" ||
		got.Rows != 5 {
		t.Errorf("an ended run was changed: %+v, %v", got, err)
	}
	for state, want := range map[model.State]int{"": 2, model.Failed: 1, model.Stopped: 1, model.Done: 0} {
		if got, err := s.Runs().Runs(ctx, model.RunWish{Sees: model.Sight{All: true}, State: state, Limit: 10}); err != nil ||
			len(got) != want {
			t.Errorf("%q: %d runs, %v; want %d", state, len(got), err, want)
		}
	}
	if got, err := s.Runs().Runs(ctx,
		model.RunWish{Sees: model.Sight{All: true}, Before: second.Number, Limit: 10}); err != nil || len(got) != 1 ||
		got[0].Number != first.Number {
		t.Errorf("before the second: %v, %v", got, err)
	}
}

func TestIdempotencyKeyMakesOneRun(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	a, err := s.Runs().AddRun(ctx, model.Run{Report: "lots", AfterCrash: "fail", AskedAt: now}, "key")
	b, err2 := s.Runs().AddRun(ctx, model.Run{Report: "lots", AfterCrash: "fail", AskedAt: now}, "key")
	c, err3 := s.Runs().AddRun(ctx, model.Run{Report: "lots", AfterCrash: "fail", AskedAt: now}, "other")
	if err := errors.Join(err, err2, err3); err != nil || a.Number != b.Number || a.Number == c.Number {
		t.Errorf("runs %d, %d, %d, %v", a.Number, b.Number, c.Number, err)
	}
}

func TestRecoverSettlesWhatACrashLeft(t *testing.T) {
	dir, ctx := t.TempDir(), context.Background()
	s := open(t, dir, 1<<20)
	good := sealed(t, s, 10)
	asked(t, s, "fail")
	asked(t, s, "again")
	fail, again := claim(t, s), claim(t, s)
	for _, run := range []model.Run{fail, again} {
		if _, err := keep(s, run.Number, frame.BatchRows+1); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil { // as a crash: nothing was ended
		t.Fatal(err)
	}
	s = open(t, dir, 1<<20)
	if before := batches(t, s); before != 5 {
		t.Fatalf("%d batches before", before)
	}
	requeued, failed, err := s.Runs().Recover(ctx, now)
	if err != nil || requeued != 1 || failed != 1 || batches(t, s) != 1 {
		t.Errorf("%d queued again, %d failed, %d batches left, %v", requeued, failed, batches(t, s), err)
	}
	if r, err := s.Runs().Run(ctx, fail.Number); err != nil || r.State != model.Failed ||
		!strings.Contains(r.Reason, "run it again") {
		t.Errorf("%+v, %v", r, err)
	}
	if r := claim(t, s); r.Number != again.Number {
		t.Errorf("claimed run %d, want %d", r.Number, again.Number)
	}
	if ok, err := s.Results().CheckSeal(ctx, good); err != nil || !ok {
		t.Errorf("the kept result was harmed: %v", err)
	}
}
