// Package history answers calls about the results of a run control in their order.
package history

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/history"
	"mantilla/server/answer"
	"mantilla/server/capture"
)

// History answers calls about the results of a run control in their order.
type History struct{ *answer.Service }

// ListCaptures answers GET /controls/{control}/captures.
func (s History) ListCaptures(ctx context.Context,
	r handlers.ListCapturesRequestObject) (handlers.ListCapturesResponseObject, error) {
	a, report := answer.As(ctx).History, answer.Value(r.Params.Report)
	like, err := answer.OptionalNumber("like", "R-", r.Params.Like)
	if err != nil {
		return nil, err
	}
	series, err := a.Captures(ctx, r.Control, report, like)
	if err != nil {
		return nil, err
	}
	out := handlers.ListCaptures200JSONResponse{Report: series.Report, Other: series.Other,
		Captures: []api.Capture{}, Series: []api.SeriesKind{}}
	for _, k := range series.Kinds {
		out.Series = append(out.Series, api.SeriesKind{Like: answer.ResultID(k.Result), Sentence: k.Sentence, Kept: k.Kept})
	}
	for _, c := range series.Captures {
		one := api.Capture{At: c.At, Rows: c.Rows, Sentence: answer.Given(c.Sentence), Reason: answer.Given(c.Reason)}
		if c.Result > 0 {
			id := answer.ResultID(c.Result)
			one.Result = &id
		}
		out.Captures = append(out.Captures, one)
	}
	if on := answer.Value(r.Params.On); on != "" {
		c, err := a.On(ctx, r.Control, report, like, on)
		if err != nil {
			return nil, err
		}
		id := answer.ResultID(c.Result)
		out.On = &id
	}
	return out, nil
}

// ReadHistory answers POST /histories.
func (s History) ReadHistory(ctx context.Context,
	r handlers.ReadHistoryRequestObject) (handlers.ReadHistoryResponseObject, error) {
	b := r.Body
	like, err := answer.OptionalNumber("like", "R-", b.Like)
	if err != nil {
		return nil, err
	}
	wish := history.Wish{Control: b.Control, Report: answer.Value(b.Report), Like: like, Dataset: answer.Value(b.Dataset),
		Since: answer.Value(b.Since), Until: answer.Value(b.Until)}
	if b.Key != nil {
		wish.Key = *b.Key
	}
	if b.Track != nil {
		wish.Track = *b.Track
	}
	run, err := answer.As(ctx).History.Read(ctx, wish)
	if err != nil {
		return nil, err
	}
	return handlers.ReadHistory201JSONResponse(capture.Out(run, s.Library.Settings().Now())), nil
}
