package office

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"runtime"
	"sync/atomic"
	"time"

	"mantilla/bench/made"
	"mantilla/bench/measure"
	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/model"
	"mantilla/store"
)

// dueControls is how many run controls come due in one minute.
const dueControls = 10_000

const small = `report: small
title: One row
category: Bench
depth: lines
about: One row.
source: made
datasets:
  rows:
    from: rows
    where: [id = 1]
    columns: [{id: id, is: id, type: integer}]
views: {rows: {of: rows}}
`

// Due measures how long it takes until all of ten thousand run controls that
// come due in the same minute are in the queue.
func Due(ctx context.Context, data string) error {
	if err := made.Table(ctx, data, 1); err != nil {
		return err
	}
	fmt.Printf("\n%d run controls due in one minute\n", dueControls)
	dir, err := os.MkdirTemp(data, "due")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	records, err := store.Open(ctx, dir, cacheBytes)
	if err != nil {
		return err
	}
	path, err := filepath.Abs(made.Path(data, 1))
	if err != nil {
		return err
	}
	var at atomic.Int64
	minute := time.Date(2026, 10, 16, 7, 0, 0, 0, time.UTC)
	at.Store(minute.Add(-time.Hour).Unix())
	l, err := library.Open(ctx, records, library.Settings{
		Organisation: model.Organisation{
			Zone:     time.UTC,
			Currency: "EUR",
			Now:      func() time.Time { return time.Unix(at.Load(), 0) },
		},
		Limits:  capture.Limits{Rows: 1000, Time: time.Minute, Workers: 1},
		DataDir: filepath.Dir(path),
	}, slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	defer func() { _ = errors.Join(l.Close(), records.Close()) }()
	a := l.AsService()
	if err := a.Catalog.PutSource(ctx, "made",
		[]byte("source: made\nkind: sqlite\nfile: "+filepath.Base(path)+"\n")); err != nil {
		return err
	}
	if _, err := a.Catalog.PutReport(ctx, []byte(small), catalog.Put{Was: "*"}); err != nil {
		return err
	}
	if err := a.PutPerson(ctx, model.Person{Name: "bench", Title: "Bench", Role: model.Administrator},
		"a long password"); err != nil {
		return err
	}
	if a, err = l.AsPerson(ctx, "bench"); err != nil {
		return err
	}
	for i := range dueControls {
		c := controls.Control{
			Control:   model.Control{ID: fmt.Sprintf("c%05d", i), Title: "Due"},
			Steps:     []controls.Step{{Report: "small"}},
			Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 7 * 60},
		}
		if _, err := a.Controls.PutControl(ctx, c); err != nil {
			return err
		}
	}
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	at.Store(minute.Unix())
	begun := time.Now()
	if _, err := a.Controls.PauseControl(ctx, "c00000", false); err != nil { // a change wakes the timetable
		return err
	}
	for {
		left, err := records.Controls().DueControls(ctx, minute, 1)
		if err != nil {
			return err
		}
		if len(left) == 0 {
			break
		}
		time.Sleep(5 * time.Millisecond)
	}
	measure.Row("all of them queued", float64(time.Since(begun).Microseconds())/1000)
	runtime.GC()
	runtime.ReadMemStats(&after)
	ran, err := records.Controls().TimedRuns(ctx, 3*dueControls)
	if err != nil {
		return err
	}
	seen := map[string]bool{}
	for _, r := range ran {
		seen[r.Control] = true
	}
	fmt.Printf("  %-46s %9d, of %d controls\n", "runs", len(ran), len(seen))
	fmt.Printf("  %-46s %+9.1f MiB\n", "memory held afterwards",
		(float64(after.HeapAlloc)-float64(before.HeapAlloc))/(1<<20))
	return nil
}
