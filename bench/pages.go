package main

import (
	"context"
	"fmt"
	"os/exec"

	"mantilla/bench/made"
	"mantilla/bench/measure"
	"mantilla/core/ask"
	"mantilla/core/sheet"
	"mantilla/library/capture"
)

// captureOnce runs the report from query to sealed result.
func (b *bench) captureOnce(ctx context.Context) error {
	run, err := b.library.AsService().Capture.StartRun(ctx, capture.Ask{Report: "made"})
	if err != nil {
		return err
	}
	run, err = b.ended(ctx, run)
	b.result = run.Result
	return err
}

func (b *bench) capture(ctx context.Context, bare func() error) error {
	fmt.Println("\nCapture of 1,000,000 rows by 10 columns, query to sealed result")
	var reading, capture, ratios []float64
	for range measure.Times { // in turn, so that both see the same machine
		r, err := measure.Took(bare)
		if err != nil {
			return err
		}
		c, err := measure.Took(func() error { return b.captureOnce(ctx) })
		if err != nil {
			return err
		}
		reading, capture, ratios = append(reading, r), append(capture, c), append(ratios, c/r)
		if len(ratios) < measure.Times {
			if err := b.library.AsService().Reading.DeleteResult(ctx, b.result); err != nil {
				return err
			}
		}
	}
	measure.Row("read and thrown away", measure.Median(reading))
	measure.Row("captured", measure.Median(capture))
	fmt.Printf("  %-46s %9.2f  (each pair: %s)\n", "ratio", measure.Median(ratios), measure.List(ratios))
	return nil
}

func (b *bench) sheet(ctx context.Context, reading ask.Changes) (*sheet.Sheet, error) {
	r, err := b.library.AsService().Reading.Result(ctx, b.result)
	if err != nil {
		return nil, err
	}
	return b.library.AsService().Reading.Sheet(ctx, r, "rows", reading)
}

// pages times what a reader waits for: cold is with nothing decoded, warm with
// the rows decoded but the order not known.
func (b *bench) pages(ctx context.Context) error {
	fmt.Println("\nPages of 100 of the 1,000,000 kept rows")
	page := func(first int, reading ask.Changes) func() error {
		return func() error {
			s, err := b.sheet(ctx, reading)
			if err == nil {
				_, err = s.Read(ctx, first, 100)
			}
			return err
		}
	}
	asked := 0
	// leaves all rows, but is a filter never seen before
	other := func() string { asked++; return fmt.Sprintf("amount<>%d", -asked) }
	for _, work := range []struct {
		name    string
		first   int
		reading func() ask.Changes
		cold    bool
	}{
		{"first page, as kept, cold", 0, func() ask.Changes { return ask.Changes{} }, true},
		{"page from the middle, as kept, cold", 500_000, func() ask.Changes { return ask.Changes{} }, true},
		{"page from the middle, as kept, warm", 500_000, func() ask.Changes { return ask.Changes{} }, false},
		{"first page sorted by a decimal, cold", 0, func() ask.Changes { return ask.Changes{Sort: []string{"-amount"}} },
			true},
		{"first page sorted by a decimal, warm, new order", 0,
			func() ask.Changes { return ask.Changes{Sort: []string{"-amount"}, Filters: []string{other()}} }, false},
		{"page from the middle, sorted, order known", 500_000,
			func() ask.Changes { return ask.Changes{Sort: []string{"-amount"}} }, false},
		{"filter on a text of 4,000 values, cold", 0,
			func() ask.Changes { return ask.Changes{Filters: []string{"item=item-0042"}} }, true},
		{"filter on a text of 4,000 values, warm, new", 0, func() ask.Changes {
			asked++
			return ask.Changes{Filters: []string{fmt.Sprintf("item=item-%04d", asked)}}
		}, false},
	} {
		var all []float64
		for range measure.Times {
			if work.cold {
				if err := b.reopen(ctx, 1); err != nil {
					return err
				}
			}
			t, err := measure.Took(page(work.first, work.reading()))
			if err != nil {
				return err
			}
			all = append(all, t)
		}
		if !work.cold {
			all = all[1:] // the first warms
		}
		measure.Row(work.name, measure.Median(all))
	}
	return nil
}

func (b *bench) csv(ctx context.Context) error {
	fmt.Println("\nCSV of all rows")
	var own, shell []float64
	for range measure.Times {
		s, err := b.sheet(ctx, ask.Changes{})
		if err != nil {
			return err
		}
		t, err := measure.Took(func() error {
			return toFile("own.csv", func(w writer) error { return takeAway(ctx, w, s, "csv") })
		})
		if err != nil {
			return err
		}
		own = append(own, t)
		if t, err = measure.Took(func() error {
			return toFile("shell.csv", func(w writer) error {
				c := exec.CommandContext(ctx, "sqlite3", "-csv", "-header", made.Path(*dataDir, 1), made.Query)
				c.Stdout = w
				return c.Run()
			})
		}); err != nil {
			return fmt.Errorf("the sqlite3 shell: %w", err)
		}
		shell = append(shell, t)
	}
	measure.Row("written from the kept rows", measure.Median(own))
	measure.Row("written by the sqlite3 shell", measure.Median(shell))
	fmt.Printf("  %-46s %9.2f\n", "ratio", measure.Median(own)/measure.Median(shell))
	return nil
}
