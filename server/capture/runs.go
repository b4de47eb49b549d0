// Package capture answers calls about runs, and streams their progress.
package capture

import (
	"time"

	"context"
	"net/http"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/acting"
	"mantilla/library/capture"
	"mantilla/model"
	"mantilla/server/answer"
)

// Runs answers calls about runs, and streams their progress.
type Runs struct{ *answer.Service }

func (s Runs) out(r model.Run) api.Run { return Out(r, s.Library.Settings().Now()) }

// Out is a run as callers see it at a moment.
func Out(r model.Run, now time.Time) api.Run {
	out := api.Run{Id: answer.RunID(r.Number), Report: r.Report, Title: r.Title, State: api.State(r.State),
		Sentence: r.Sentence,
		Values:   r.Typed,
		AskedBy:  r.AskedBy, AskedAt: r.AskedAt, Rows: r.Rows, Seconds: r.Elapsed(now).Seconds(),
		Reason: answer.Filled(r.Reason),
		Note:   answer.Filled(r.Note), Control: answer.Filled(r.Terms.Control), StartedAt: answer.Moment(r.StartedAt),
		EndedAt: answer.Moment(r.EndedAt)}
	if r.Expected > 0 {
		out.Expected = &r.Expected
	}
	if r.Criteria > 0 {
		id := answer.CriteriaID(r.Criteria)
		out.Criteria = &id
	}
	if r.Making != nil {
		how := api.RunHow(r.Making.How)
		out.How = &how
	}
	if r.Result != 0 {
		id := answer.ResultID(r.Result)
		out.Result = &id
	}
	return out
}

// StartRun answers POST /runs: ask for a run.
func (s Runs) StartRun(ctx context.Context, r handlers.StartRunRequestObject) (handlers.StartRunResponseObject,
	error) {
	criteria, err := answer.OptionalNumber("criteria", "C-", r.Body.Criteria)
	if err != nil {
		return nil, err
	}
	run, err := answer.As(ctx).Capture.StartRun(ctx,
		capture.Ask{
			Report:      r.Body.Report,
			Typed:       r.Body.Values,
			Criteria:    criteria,
			Idempotency: answer.Value(r.Params.IdempotencyKey),
		})
	if err != nil {
		return nil, err
	}
	answer.As(ctx).Care.Visited(ctx, run.Report, model.VisitRun)
	acting.On(ctx, "report", run.Report)
	acting.Changes(ctx, "", answer.RunID(run.Number))
	return handlers.StartRun201JSONResponse(s.out(run)), nil
}

// FollowLink answers POST /results/{result}/views/{view}/follow: run what a row's link opens.
func (s Runs) FollowLink(ctx context.Context,
	r handlers.FollowLinkRequestObject) (handlers.FollowLinkResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	as := answer.As(ctx)
	result, err := as.Reading.Result(ctx, number)
	if err != nil {
		return nil, err
	}
	link, err := as.Reading.Link(ctx, result, r.View, r.Body.Row, r.Body.Column)
	if err != nil {
		return nil, err
	}
	run, err := as.Capture.FollowLink(ctx, link, answer.Value(r.Params.IdempotencyKey))
	if err != nil {
		return nil, err
	}
	as.Care.Visited(ctx, run.Report, model.VisitRun)
	return handlers.FollowLink201JSONResponse(s.out(run)), nil
}

// ListRuns answers GET /runs: runs, the newest first.
func (s Runs) ListRuns(ctx context.Context, r handlers.ListRunsRequestObject) (handlers.ListRunsResponseObject,
	error) {
	w := model.RunWish{
		State:  model.State(answer.Value(r.Params.State)),
		Report: answer.Value(r.Params.Report),
		Limit:  answer.Limit(r.Params.Limit),
	}
	var err error
	if r.Params.Before != nil {
		if w.Before, err = answer.Number("run", "RUN-", *r.Params.Before); err != nil {
			return nil, err
		}
	}
	runs, err := answer.As(ctx).Capture.Runs(ctx, w)
	if err != nil {
		return nil, err
	}
	out := make(handlers.ListRuns200JSONResponse, len(runs))
	for i, run := range runs {
		out[i] = s.out(run)
	}
	return out, nil
}

// GetRun answers GET /runs/{run}: one run.
func (s Runs) GetRun(ctx context.Context, r handlers.GetRunRequestObject) (handlers.GetRunResponseObject, error) {
	n, err := answer.Number("run", "RUN-", r.Run)
	if err != nil {
		return nil, err
	}
	run, err := answer.As(ctx).Capture.Run(ctx, n)
	return handlers.GetRun200JSONResponse(s.out(run)), err
}

// StopRun answers POST /runs/{run}/stop: stop a run that waits or is running; one that has ended stays as it is.
func (s Runs) StopRun(ctx context.Context, r handlers.StopRunRequestObject) (handlers.StopRunResponseObject,
	error) {
	n, err := answer.Number("run", "RUN-", r.Run)
	if err != nil {
		return nil, err
	}
	run, err := answer.As(ctx).Capture.StopRun(ctx, n)
	return handlers.StopRun200JSONResponse(s.out(run)), err
}

// WatchRun answers GET /runs/{run}/progress: the run each time it changes, as server-sent events until it ends.
func (s Runs) WatchRun(ctx context.Context, r handlers.WatchRunRequestObject) (handlers.WatchRunResponseObject,
	error) {
	n, err := answer.Number("run", "RUN-", r.Run)
	if err != nil {
		return nil, err
	}
	if _, err := answer.As(ctx).Capture.Run(ctx, n); err != nil {
		return nil, err
	}
	return progress{s, answer.As(ctx), ctx, n}, nil
}

// progress streams a run as server-sent events until it ends.
type progress struct {
	Runs
	access *library.Access
	ctx    context.Context
	run    int64
}

func (p progress) VisitWatchRunResponse(w http.ResponseWriter) error {
	changes, end := p.access.Capture.Watch(p.run)
	defer end()
	return answer.Stream(p.ctx, p.Closing, w, "run", changes, func() (any, bool, error) {
		run, err := p.access.Capture.Run(p.ctx, p.run)
		return p.out(run), run.State.Ended(), err
	})
}
