package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/model"
)

func runID(number int64) string { return fmt.Sprintf("RUN-%06d", number) }

func resultID(number int64) string { return fmt.Sprintf("R-%06d", number) }

// number reads the number of an id, with its letters or without.
func number(what, prefix, id string) (int64, error) {
	digits := strings.TrimPrefix(strings.ToUpper(id), prefix)
	n, err := strconv.ParseInt(digits, 10, 64)
	if err != nil || n < 1 {
		return 0, &badRequest{what, fmt.Errorf("%q is not a %s; write it as %s000017", id, what, prefix)}
	}
	return n, nil
}

// optionalNumber reads the number of an id that may be left out, as 0.
func optionalNumber(what, prefix string, id *string) (int64, error) {
	if value(id) == "" {
		return 0, nil
	}
	return number(what, prefix, *id)
}

func facts(list []model.Fact) []api.Fact {
	out := make([]api.Fact, len(list))
	for i, f := range list {
		out[i] = api.Fact{Parameter: f.Parameter, Label: f.Label, Typed: f.Typed, Resolved: f.Resolved, Says: f.Says}
	}
	return out
}

func (s *service) run(r model.Run) api.Run {
	out := api.Run{Id: runID(r.Number), Report: r.Report, Title: r.Title, State: api.State(r.State), Sentence: r.Sentence,
		Values:  r.Typed,
		AskedBy: r.AskedBy, AskedAt: r.AskedAt, Rows: r.Rows, Seconds: r.Elapsed(s.library.Settings().Now()).Seconds(),
		Reason: filled(r.Reason),
		Note:   filled(r.Note), Control: filled(r.Terms.Control), StartedAt: moment(r.StartedAt), EndedAt: moment(r.EndedAt)}
	if r.Criteria > 0 {
		id := criteriaID(r.Criteria)
		out.Criteria = &id
	}
	if r.Result != 0 {
		id := resultID(r.Result)
		out.Result = &id
	}
	return out
}

func (s *service) StartRun(ctx context.Context, r handlers.StartRunRequestObject) (handlers.StartRunResponseObject,
	error) {
	criteria, err := optionalNumber("criteria", "C-", r.Body.Criteria)
	if err != nil {
		return nil, err
	}
	run, err := as(ctx).Capture.StartRun(ctx,
		capture.Ask{
			Report:      r.Body.Report,
			Typed:       r.Body.Values,
			Criteria:    criteria,
			Idempotency: value(r.Params.IdempotencyKey),
		})
	if err != nil {
		return nil, err
	}
	return handlers.StartRun201JSONResponse(s.run(run)), nil
}

func (s *service) ListRuns(ctx context.Context, r handlers.ListRunsRequestObject) (handlers.ListRunsResponseObject,
	error) {
	w := model.RunWish{
		State:  model.State(value(r.Params.State)),
		Report: value(r.Params.Report),
		Limit:  limit(r.Params.Limit),
	}
	var err error
	if r.Params.Before != nil {
		if w.Before, err = number("run", "RUN-", *r.Params.Before); err != nil {
			return nil, err
		}
	}
	runs, err := as(ctx).Capture.Runs(ctx, w)
	if err != nil {
		return nil, err
	}
	out := make(handlers.ListRuns200JSONResponse, len(runs))
	for i, run := range runs {
		out[i] = s.run(run)
	}
	return out, nil
}

func (s *service) GetRun(ctx context.Context, r handlers.GetRunRequestObject) (handlers.GetRunResponseObject, error) {
	n, err := number("run", "RUN-", r.Run)
	if err != nil {
		return nil, err
	}
	run, err := as(ctx).Capture.Run(ctx, n)
	return handlers.GetRun200JSONResponse(s.run(run)), err
}

func (s *service) StopRun(ctx context.Context, r handlers.StopRunRequestObject) (handlers.StopRunResponseObject,
	error) {
	n, err := number("run", "RUN-", r.Run)
	if err != nil {
		return nil, err
	}
	run, err := as(ctx).Capture.StopRun(ctx, n)
	return handlers.StopRun200JSONResponse(s.run(run)), err
}

func (s *service) WatchRun(ctx context.Context, r handlers.WatchRunRequestObject) (handlers.WatchRunResponseObject,
	error) {
	n, err := number("run", "RUN-", r.Run)
	if err != nil {
		return nil, err
	}
	if _, err := as(ctx).Capture.Run(ctx, n); err != nil {
		return nil, err
	}
	return progress{s, as(ctx), ctx, n}, nil
}

// progress streams a run as server-sent events until it ends.
type progress struct {
	*service
	access *library.Access
	ctx    context.Context
	run    int64
}

// heartbeat keeps proxies from closing a stream on which nothing happens.
const heartbeat = 15 * time.Second

func (p progress) VisitWatchRunResponse(w http.ResponseWriter) error {
	changes, end := p.access.Capture.Watch(p.run)
	defer end()
	return stream(p.ctx, p.closing, w, "run", changes, func() (any, bool, error) {
		run, err := p.access.Capture.Run(p.ctx, p.run)
		return p.service.run(run), run.State.Ended(), err
	})
}

// stream writes server-sent events: what there is now, and again after each
// change, until it has ended, the listener has gone or the service closes.
func stream[T any](ctx context.Context, closing <-chan struct{}, w http.ResponseWriter, name string, changes <-chan T,
	now func() (data any, ended bool, err error)) error {
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(http.StatusOK)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		if !of(ctx).still(ctx) {
			return nil // whoever listens may no longer
		}
		what, ended, err := now()
		if err != nil {
			return err
		}
		data, err := json.Marshal(what)
		if err != nil {
			return err
		}
		if _, err := fmt.Fprintf(w, "event: %s\ndata: %s\n\n", name, data); err != nil {
			return nil // the listener has gone
		}
		w.(http.Flusher).Flush()
		if ended {
			return nil
		}
		select {
		case <-changes:
		case <-beat.C:
		case <-closing:
			return nil
		case <-ctx.Done():
			return nil
		}
	}
}
