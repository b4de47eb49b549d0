package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"slices"
	"sync"
	"time"

	"mantilla/bench/measure"
	"mantilla/console"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/server"
)

const readers = 50

// overHTTP times what a reader waits for: regrouping, and a page of a sorted
// result while fifty readers page through it.
func (b *bench) overHTTP(ctx context.Context) error {
	fmt.Println("\nOver HTTP, 1,000,000 kept rows")
	address, token, end, err := b.serve(ctx)
	if err != nil {
		return err
	}
	defer end()
	view := fmt.Sprintf("%s/api/results/R-%06d/views/rows?", address, b.result)
	get := func(query url.Values) error { return call(ctx, view+query.Encode(), token) }
	if err := get(url.Values{"group": {"region"}, "column": sums}); err != nil { // decodes the rows
		return err
	}
	for _, by := range [][]string{{"status", "region"}, {"item"}, {"month(day)", "region"},
		{"region", "status", "month(day)"}} {
		t, err := measure.Took(func() error { return get(url.Values{"group": by, "column": sums}) })
		if err != nil {
			return err
		}
		measure.Row(fmt.Sprintf("regrouped by %v", by), t)
	}
	sorted := url.Values{"sort": {"-amount"}}
	if err := get(sorted); err != nil {
		return err
	}
	var mu sync.Mutex
	var all []float64
	var failed error
	var group sync.WaitGroup
	for reader := range readers {
		group.Go(func() {
			for n := range 20 {
				time.Sleep(time.Duration(500+rand.IntN(1000)) * time.Millisecond) // each turns about a page a second
				q := url.Values{"sort": {"-amount"}, "first": {fmt.Sprint((reader*7919 + n*104729) % 999_000)}, "count": {"100"}}
				t, err := measure.Took(func() error { return get(q) })
				mu.Lock()
				if n > 0 { // the first opens the connection
					all = append(all, t)
				}
				if err != nil {
					failed = err
				}
				mu.Unlock()
			}
		})
	}
	group.Wait()
	slices.Sort(all)
	measure.Row(fmt.Sprintf("a sorted page, %d readers, one a second, median", readers), all[len(all)/2])
	measure.Row("the same, 99th percentile", all[len(all)*99/100])
	return failed
}

// serve starts the service on the bench's records.
func (b *bench) serve(ctx context.Context) (address, token string, end func(), err error) {
	closing := make(chan struct{})
	handler, err := server.Handler(b.library,
		server.Settings{Console: console.Files(), Version: "bench", Closing: closing}, slog.New(slog.DiscardHandler))
	if err != nil {
		return "", "", nil, err
	}
	web := httptest.NewServer(handler)
	end = func() { close(closing); web.Close() }
	const password = "correct-horse-battery"
	err = b.library.AsService().PutPerson(ctx, model.Person{Name: "bench", Title: "Bench", Role: model.Administrator},
		password)
	if err == nil || errors.Is(err, model.ErrStale) { // or it is there already
		token, _, _, err = b.library.Door().SignIn(ctx,
			access.Knock{Name: "bench", Password: password, Kind: "token", Label: "bench"})
	}
	return web.URL, token, end, err
}

func call(ctx context.Context, address, token string) error {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return err
	}
	request.Header.Set("Authorization", "Bearer "+token)
	answer, err := client.Do(request)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if _, err := io.Copy(io.Discard, answer.Body); err != nil {
		return err
	}
	if answer.StatusCode != http.StatusOK {
		return fmt.Errorf("%s: %s", address, answer.Status)
	}
	return nil
}

// client keeps a connection for every reader.
var client = &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: readers}}
