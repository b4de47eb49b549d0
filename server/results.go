package server

import (
	"context"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/report"
	"mantilla/library/reading"
	"mantilla/model"
)

func (s *service) result(ctx context.Context, id string) (*reading.Result, error) {
	n, err := number("result", "R-", id)
	if err != nil {
		return nil, err
	}
	return as(ctx).Reading.Result(ctx, n)
}

func (s *service) ListResults(ctx context.Context,
	r handlers.ListResultsRequestObject) (handlers.ListResultsResponseObject, error) {
	w := model.ResultWish{Report: value(r.Params.Report), Search: value(r.Params.Search), Limit: limit(r.Params.Limit)}
	var err error
	if r.Params.Before != nil {
		if w.Before, err = number("result", "R-", *r.Params.Before); err != nil {
			return nil, err
		}
	}
	results, err := as(ctx).Reading.Results(ctx, w)
	if err != nil {
		return nil, err
	}
	out := make(handlers.ListResults200JSONResponse, len(results))
	for i, x := range results {
		out[i] = resultLine(x)
	}
	return out, nil
}

func resultLine(x model.Result) api.ResultLine {
	return api.ResultLine{
		Id:       resultID(x.Number),
		Report:   x.Report,
		Title:    x.Title,
		Sentence: x.Sentence,
		AskedBy:  x.Manifest.AskedBy,
		KeptAt:   x.KeptAt,
		Rows:     x.Rows,
		Bytes:    x.Bytes,
		KeptTill: moment(x.KeptTill),
	}
}

// moment is left out where it is none.
func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func (s *service) GetResult(ctx context.Context, r handlers.GetResultRequestObject) (handlers.GetResultResponseObject,
	error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	tag := quoted(x.Manifest.Seal + "@" + as(ctx).Zone().String()) // in which its notes are said
	if of(ctx).has(tag) {
		return notModified(tag), nil
	}
	m := x.Manifest
	body := api.Result{Id: resultID(x.Number), Report: x.Report, Title: x.Title, Sentence: x.Sentence, KeptAt: x.KeptAt,
		Rows: x.Rows, Bytes: x.Bytes,
		Run: runID(x.Run), Version: m.Version, Facts: facts(m.Facts), Values: m.Typed, AskedBy: m.AskedBy,
		StartedAt: m.StartedAt,
		Seconds:   m.Duration.Seconds(), Source: m.Source, Fingerprint: m.Fingerprint, Seal: m.Seal,
		Units: given(m.Reach.Units), KeptTill: moment(x.KeptTill), Notes: list(x.Notes(as(ctx).Zone())),
		Page: []api.PageView{}, Views: []api.PageView{}}
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

func pageView(x *reading.Result, v *report.View) api.PageView {
	return api.PageView{Id: v.ID, Title: v.Title, Rows: x.RowsOf(v.Of)}
}

func (s *service) DeleteResult(ctx context.Context,
	r handlers.DeleteResultRequestObject) (handlers.DeleteResultResponseObject, error) {
	n, err := number("result", "R-", r.Result)
	if err == nil {
		err = as(ctx).Reading.DeleteResult(ctx, n)
	}
	return handlers.DeleteResult204Response{}, err
}

func (s *service) CheckSeal(ctx context.Context, r handlers.CheckSealRequestObject) (handlers.CheckSealResponseObject,
	error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	unchanged, err := as(ctx).Reading.CheckSeal(ctx, x)
	return handlers.CheckSeal200JSONResponse{Seal: x.Manifest.Seal, Unchanged: unchanged}, err
}
