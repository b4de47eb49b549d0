package main

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"net/url"
	"path/filepath"
	"runtime"
	"slices"
	"sync"
	"time"

	"mantilla/bench/measure"
	"mantilla/library/capture"
	"mantilla/model"
)

// besideCaptures times what twenty readers of ten million rows wait for, alone and while
// two captures of as many rows run.
func besideCaptures(ctx context.Context) error {
	const millions, people = 10, 20
	fmt.Printf("\n%d readers of %d,000,000 rows, each asking about once a second\n", people, millions)
	dir := filepath.Join(*dataDir, fmt.Sprintf("kept-%dm", millions))
	if err := captureInto(ctx, dir, millions); err != nil {
		return err
	}
	b := &bench{dir: dir, result: 1, workers: 2}
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(runtime.GOMAXPROCS(0) + b.workers)) // as the service does
	if err := b.reopen(ctx, millions); err != nil {
		return err
	}
	address, token, end, err := b.serve(ctx)
	if err != nil {
		return err
	}
	defer end()
	read := func(until <-chan struct{}) ([]float64, error) {
		return b.readers(people, until, func(q url.Values) error {
			return call(ctx, fmt.Sprintf("%s/api/results/R-%06d/views/rows?%s", address, b.result, q.Encode()), token)
		})
	}
	if _, err := read(after(10 * time.Second)); err != nil { // warms
		return err
	}
	alone, err := read(after(20 * time.Second))
	if err != nil {
		return err
	}
	ended := make(chan struct{})
	var captured error
	go func() {
		defer close(ended)
		captured = b.captureTwice(ctx)
	}()
	during, err := read(ended)
	if err := errors.Join(err, captured); err != nil {
		return err
	}
	for _, part := range []struct {
		name string
		at   float64
	}{{"median", 0.5}, {"95th percentile", 0.95}, {"slowest", 1}} {
		one, other := quantile(alone, part.at), quantile(during, part.at)
		fmt.Printf("  %-20s alone %8.1f ms   beside two captures %8.1f ms   ratio %.2f\n", part.name, one, other, other/one)
	}
	return errors.Join(b.library.Close(), b.store.Close())
}

func after(d time.Duration) <-chan struct{} {
	ended := make(chan struct{})
	time.AfterFunc(d, func() { close(ended) })
	return ended
}

func quantile(sorted []float64, at float64) float64 {
	return sorted[min(int(at*float64(len(sorted))), len(sorted)-1)]
}

// readers has people ask until they are to end, and returns how long each answer took.
// They turn pages, and now and then filter and group anew.
func (b *bench) readers(people int, until <-chan struct{}, get func(url.Values) error) ([]float64, error) {
	var mu sync.Mutex // over all and failed
	var all []float64
	var failed error
	var group sync.WaitGroup
	for range people {
		group.Go(func() {
			for n := rand.IntN(5); ; n++ {
				select {
				case <-until:
					return
				case <-time.After(time.Duration(500+rand.IntN(1000)) * time.Millisecond):
				}
				q := url.Values{"first": {fmt.Sprint(rand.IntN(9_999_000))}, "count": {"100"}}
				if n%5 == 0 {
					q = url.Values{"group": {"region"}, "column": sums, "filter": {fmt.Sprintf("item=item-%04d", rand.IntN(4000))}}
				}
				t, err := measure.Took(func() error { return get(q) })
				mu.Lock()
				all = append(all, t)
				failed = errors.Join(failed, err)
				mu.Unlock()
			}
		})
	}
	group.Wait()
	slices.Sort(all)
	return all, failed
}

// captureTwice captures the table twice at the same time and throws both results away.
func (b *bench) captureTwice(ctx context.Context) error {
	as := b.library.AsService()
	var runs []model.Run
	for range 2 {
		run, err := as.Capture.StartRun(ctx, capture.Ask{Report: "made"})
		if err != nil {
			return err
		}
		runs = append(runs, run)
	}
	for i := range runs {
		for !runs[i].State.Ended() {
			time.Sleep(200 * time.Millisecond)
			var err error
			if runs[i], err = as.Capture.Run(ctx, runs[i].Number); err != nil {
				return err
			}
		}
		if runs[i].State != model.Done {
			return fmt.Errorf("a capture ended as %s: %s", runs[i].State, runs[i].Reason)
		}
	}
	for _, run := range runs {
		if err := as.Reading.DeleteResult(ctx, run.Result); err != nil {
			return err
		}
	}
	return nil
}
