package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"mantilla/bench/made"
	"mantilla/bench/measure"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/history"
	"mantilla/model"
)

// Of the series: a year of daily captures.
const (
	seriesDays = 365
	seriesRows = 50_000
)

// seriesDefinition reads rows of which one in a hundred has another status and amount each day.
var seriesDefinition = strings.NewReplacer(
	"    from: rows\n", fmt.Sprintf("    from: rows\n    where: [id < %d]\n", seriesRows),
	"datasets:\n", "parameters:\n  - {id: as_of, type: date, required: true, default: today}\ndatasets:\n",
	"is: status,", "is: \"'stage ' || ((cast(julianday(:as_of) as integer) + id) / 100 % 5)\",",
	"is: amount,", "is: amount + (cast(julianday(:as_of) as integer) + id) / 100 * 1000,").Replace(made.Report)

// series keeps a day after the other, and reads the year as a history.
func series(ctx context.Context) error {
	if err := made.Table(ctx, *dataDir, 1); err != nil {
		return err
	}
	fmt.Printf("\nA year of daily captures: %d of %d rows by 10 columns, 1 %% of the rows changed each day\n", seriesDays,
		seriesRows)
	dir := filepath.Join(*dataDir, "series")
	if err := os.RemoveAll(dir); err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return err
	}
	day := time.Date(2025, 10, 1, 6, 0, 0, 0, time.UTC)
	b := &bench{dir: dir, now: func() time.Time { return day }}
	if err := b.reopen(ctx, 1); err != nil {
		return err
	}
	defer b.close()
	service := b.library.AsService()
	if _, err := service.Catalog.PutReport(ctx, []byte(seriesDefinition), catalog.Put{Was: "*"}); err != nil {
		return err
	}
	if _, err := service.Controls.PutControl(ctx, controls.Control{Control: model.Control{ID: "daily", Title: "Daily"},
		Outputs: []string{"kept"}, Steps: []controls.Step{{Report: "made",
			Typed: map[string]string{"as_of": "today"}}}}); err != nil {
		return err
	}
	var first, all int64
	kept, err := measure.Took(func() error {
		for range seriesDays {
			day = day.AddDate(0, 0, 1)
			ran, err := service.Controls.RunControl(ctx, "daily", nil, false)
			if err != nil {
				return err
			}
			if _, err := b.ended(ctx, ran[0].Runs[0]); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	results, err := service.Reading.Results(ctx, model.ResultWish{Control: "daily", Limit: seriesDays})
	if err != nil {
		return err
	}
	for _, r := range results {
		all, first = all+r.Bytes, r.Bytes
	}
	read, err := measure.Took(func() error {
		run, err := service.History.Read(ctx, history.Wish{Control: "daily", Track: []string{"status"}})
		if err == nil {
			_, err = b.ended(ctx, run)
		}
		return err
	})
	if err != nil {
		return err
	}
	fmt.Printf("  %-36s %9.1f ms each\n", "captured and sealed", kept/seriesDays)
	fmt.Printf("  %-36s %9.1f MB, %.2f of one capture (aim 3)\n", "kept", float64(all)/1e6, float64(all)/float64(first))
	fmt.Printf("  %-36s %9.1f ms, %.2f of capturing it\n  peak memory ", "read as a history, to sealed result", read,
		read/kept)
	return printPeak()
}

// ended waits for the end of a run, which must be well.
func (b *bench) ended(ctx context.Context, run model.Run) (model.Run, error) {
	service := b.library.AsService()
	done, end := service.Capture.Watch(run.Number)
	defer end()
	var err error
	for err == nil && !run.State.Ended() {
		select {
		case <-done:
		case <-time.After(time.Second):
		}
		run, err = service.Capture.Run(ctx, run.Number)
	}
	if err == nil && run.State != model.Done {
		err = fmt.Errorf("RUN-%06d ended as %s: %s", run.Number, run.State, run.Reason)
	}
	return run, err
}
