package background

import (
	"context"
	"errors"
	"log/slog"
	"testing"
	"time"

	"mantilla/core/rescue"
	"mantilla/model"
)

func begin(t *testing.T) *Work {
	t.Helper()
	w := Begin(t.Context(), slog.New(slog.DiscardHandler))
	t.Cleanup(func() { w.End(); w.Wait() })
	return w
}

func TestPausesGrowToAMinute(t *testing.T) {
	for failures, want := range map[int]time.Duration{0: time.Second, 1: time.Second, 2: 2 * time.Second,
		5: 16 * time.Second, 7: time.Minute, 1000: time.Minute} {
		if got := PauseAfter(failures); got != want {
			t.Errorf("after %d failures: %s, want %s", failures, got, want)
		}
	}
}

func TestWhatWillNeverBeWrittenIsNotTriedAgain(t *testing.T) {
	for _, never := range []error{model.ErrStale, model.ErrNotFound} {
		tries := 0
		err := begin(t).Record("it", func(context.Context) error { tries++; return never })
		if !errors.Is(err, never) || tries != 1 {
			t.Errorf("%v after %d tries", err, tries)
		}
	}
}

func TestRecordTriesUntilItIsWritten(t *testing.T) {
	tries := 0
	err := begin(t).Record("it", func(context.Context) error {
		if tries++; tries < 2 {
			return model.ErrFull
		}
		return nil
	})
	if err != nil || tries != 2 {
		t.Errorf("%v after %d tries", err, tries)
	}
}

func TestRecordEndsWithTheWork(t *testing.T) {
	w := begin(t)
	err := w.Record("it", func(ctx context.Context) error {
		w.End()
		if ctx.Err() != nil {
			t.Error("what is written is cut off by the end")
		}
		return model.ErrFull
	})
	if !errors.Is(err, model.ErrFull) {
		t.Errorf("ended with %v", err)
	}
}

func TestABellWakesWhoSleepsOrSleepsNext(t *testing.T) {
	w, bell := begin(t), NewBell()
	bell.Ring()
	bell.Ring() // rings that nobody heard are one
	begun := time.Now()
	if !w.Sleep(time.Minute, bell) || time.Since(begun) > 10*time.Second {
		t.Error("a bell that was rung before did not wake")
	}
	w.Go(func() { bell.Ring() })
	if !w.Sleep(time.Minute, bell) || time.Since(begun) > 10*time.Second {
		t.Error("a bell did not wake who slept")
	}
	w.End()
	if w.Sleep(time.Minute, bell) {
		t.Error("it went on after its end")
	}
}

func TestAPanicIsAFailedPiece(t *testing.T) {
	var p *rescue.Panic
	if err := begin(t).Guard(func() error { panic("no") }); !errors.As(err, &p) {
		t.Errorf("a panic is %v", err)
	}
}
