// Package reading answers calls about results, their sheets and what is taken away of them.
package reading

import (
	"fmt"
	"time"

	"mantilla/server/answer"

	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/checks"
	"mantilla/core/report"
	"mantilla/library/reading"
	"mantilla/model"
)

// Results answers calls about results, their sheets and what is taken away of them.
type Results struct{ *answer.Service }

// ResultOf finds a result by its id.
func ResultOf(ctx context.Context, id string) (*reading.Result, error) {
	n, err := answer.Number("result", "R-", id)
	if err != nil {
		return nil, err
	}
	return answer.As(ctx).Reading.Result(ctx, n)
}

// ListResults answers GET /results: kept results, the newest first.
func (s Results) ListResults(ctx context.Context,
	r handlers.ListResultsRequestObject) (handlers.ListResultsResponseObject, error) {
	w := model.ResultWish{
		Report:  answer.Value(r.Params.Report),
		Search:  answer.Value(r.Params.Search),
		Limit:   answer.Limit(r.Params.Limit),
		By:      answer.Value(r.Params.By),
		Control: answer.Value(r.Params.Control),
	}
	w.Signed, w.Held, w.Noted, w.Trashed = onlyKept(r.Params.Kept, api.ListResultsParamsKeptSigned),
		onlyKept(r.Params.Kept, api.ListResultsParamsKeptHeld), onlyKept(r.Params.Kept, api.ListResultsParamsKeptNoted),
		onlyKept(r.Params.Kept, api.ListResultsParamsKeptTrashed)
	zone := answer.As(ctx).Zone()
	if day := r.Params.Since; day != nil {
		w.Since = time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, zone)
	}
	if day := r.Params.Until; day != nil {
		w.Until = time.Date(day.Year(), day.Month(), day.Day()+1, 0, 0, 0, 0, zone)
	}
	var err error
	if r.Params.Before != nil {
		if w.Before, err = answer.Number("result", "R-", *r.Params.Before); err != nil {
			return nil, err
		}
	}
	results, err := answer.As(ctx).Reading.Results(ctx, w)
	if err != nil {
		return nil, err
	}
	out := make(handlers.ListResults200JSONResponse, len(results))
	for i, x := range results {
		out[i] = answer.ResultLine(x)
	}
	return out, nil
}

func onlyKept(wanted *api.ListResultsParamsKept, kept api.ListResultsParamsKept) bool {
	return wanted != nil && *wanted == kept
}

// GetResult answers GET /results/{result}: a result with its page.
func (s Results) GetResult(ctx context.Context, r handlers.GetResultRequestObject) (handlers.GetResultResponseObject,
	error) {
	x, err := ResultOf(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	answer.As(ctx).Care.Visited(ctx, x.Report, model.VisitRead)
	asks := answer.As(ctx).Reading.AsksPurpose(x)
	tag := answer.Quoted(fmt.Sprintf("%s@%s %v %v %v %v", x.Manifest.Seal, answer.As(ctx).Zone(), x.Signs, x.Signed,
		x.Held, asks)) // in which its notes are said
	if answer.CallOf(ctx).Has(tag) {
		return answer.NotModified(tag), nil
	}
	m := x.Manifest
	body := api.Result{Id: answer.ResultID(x.Number), Report: x.Report, Title: x.Title, Sentence: x.Sentence,
		KeptAt: x.KeptAt,
		Rows:   x.Rows, Bytes: x.Bytes,
		Run: answer.RunID(x.Run), Version: m.Version, Facts: answer.Facts(m.Facts), Values: m.Typed, AskedBy: m.AskedBy,
		StartedAt: m.StartedAt,
		Seconds:   m.Duration.Seconds(), Source: m.Source, Fingerprint: m.Fingerprint, Seal: m.Seal,
		Units: answer.List(m.Reach.Units), KeptTill: answer.Moment(x.KeptTill),
		Notes:  answer.List(x.Notes(answer.As(ctx).Zone())),
		Checks: answer.Checks(m.Checks), Marked: answer.Truth(checks.Marks(m.Checks)),
		Page: []api.PageView{}, Views: []api.PageView{}}
	body.Made, body.Signed, body.Held = answer.Made(m.Made), answer.Truth(x.Signed), answer.Truth(x.Held)
	body.Stays, body.AsksPurpose = stays(m), answer.Truth(asks)
	for _, v := range x.Page() {
		body.Page = append(body.Page, pageView(x, v))
	}
	for i := range x.Definition.Views {
		body.Views = append(body.Views, pageView(x, &x.Definition.Views[i]))
	}
	body.Imports = []api.PageView{}
	for _, f := range x.Definition.Imports {
		body.Imports = append(body.Imports, api.PageView{Id: f.ID, Title: f.Title, Rows: x.RowsOf(f.Of)})
	}
	return handlers.GetResult200JSONResponse{Body: body, Headers: handlers.GetResult200ResponseHeaders{ETag: &tag}}, nil
}

// stays are the rows that stay in the engine of their source; nil for none.
func stays(m model.Manifest) *[]api.Stay {
	var out []api.Stay
	for _, k := range m.Datasets {
		if k.Stay != nil {
			out = append(out, api.Stay{Dataset: k.Dataset, Source: k.Stay.Source, Rows: k.Rows, Bytes: k.Stay.Bytes})
		}
	}
	if len(out) == 0 {
		return nil
	}
	return &out
}

func pageView(x *reading.Result, v *report.View) api.PageView {
	return api.PageView{Id: v.ID, Title: v.Title, Rows: x.RowsOf(v.Of)}
}

// DeleteResult answers DELETE /results/{result}: delete a result with its rows.
func (s Results) DeleteResult(ctx context.Context,
	r handlers.DeleteResultRequestObject) (handlers.DeleteResultResponseObject, error) {
	n, err := answer.Number("result", "R-", r.Result)
	if err == nil {
		err = answer.As(ctx).Reading.DeleteResult(ctx, n)
	}
	return handlers.DeleteResult204Response{}, err
}

// CheckSeal answers GET /results/{result}/seal: read all kept rows again and compare them with the seal.
func (s Results) CheckSeal(ctx context.Context, r handlers.CheckSealRequestObject) (handlers.CheckSealResponseObject,
	error) {
	x, err := ResultOf(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	unchanged, err := answer.As(ctx).Reading.CheckSeal(ctx, x)
	return handlers.CheckSeal200JSONResponse{Seal: x.Manifest.Seal, Unchanged: unchanged}, err
}
