package server

import (
	"context"
	"fmt"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/ask"
	"mantilla/library/reading"
	"mantilla/model"
)

func keptView(v reading.KeptView) api.KeptView {
	c := v.Changes
	part := func(items []string) *[]string {
		if items == nil {
			return nil
		}
		return &items
	}
	return api.KeptView{Id: fmt.Sprintf("V-%d", v.Number), Name: v.Name, View: v.Base, Everyone: v.Everyone,
		Owner: v.Owner, Mine: v.Mine, Revision: v.Revision, ChangedAt: v.ChangedAt,
		Changes: api.Changes{Columns: part(c.Columns), Add: part(c.Add), Group: part(c.Group), Sort: part(c.Sort),
			Filters: part(c.Filters), Down: part(c.Down), Across: part(c.Across),
			Cells: part(c.Cells), Show: given1(c.Show), Drawn: given1(c.Drawn), Names: given1(c.Names), Zeros: given1(c.Zeros),
			Open: c.Open, Most: c.Limit}}
}

func viewBody(report string, b *api.ViewBody) model.View {
	c := b.Changes
	return model.View{Report: report, Base: b.View, Name: b.Name, Everyone: b.Everyone,
		Changes: ask.Changes{Columns: value(c.Columns), Add: value(c.Add), Group: value(c.Group),
			Sort: value(c.Sort), Filters: value(c.Filters), Down: value(c.Down), Across: value(c.Across), Cells: value(c.Cells),
			Show: value(c.Show), Drawn: value(c.Drawn),
			Names: value(c.Names), Zeros: value(c.Zeros), Open: c.Open, Limit: c.Most}}
}

func (s *service) ListKeptViews(ctx context.Context,
	r handlers.ListKeptViewsRequestObject) (handlers.ListKeptViewsResponseObject, error) {
	views, err := as(ctx).Reading.KeptViews(ctx, r.Report)
	out := handlers.ListKeptViews200JSONResponse{}
	for _, v := range views {
		out = append(out, keptView(v))
	}
	return out, err
}

func (s *service) KeepView(ctx context.Context, r handlers.KeepViewRequestObject) (handlers.KeepViewResponseObject,
	error) {
	v, err := as(ctx).Reading.KeepView(ctx, viewBody(r.Report, r.Body))
	return handlers.KeepView201JSONResponse(keptView(v)), err
}

func (s *service) ChangeKeptView(ctx context.Context,
	r handlers.ChangeKeptViewRequestObject) (handlers.ChangeKeptViewResponseObject, error) {
	v := viewBody(r.Report, r.Body)
	var err error
	if v.Number, err = number("view", "V-", r.Kept); err != nil {
		return nil, err
	}
	if v.Revision, err = revision(r.Params.IfMatch); err != nil {
		return nil, err
	}
	kept, err := as(ctx).Reading.ChangeView(ctx, v)
	return handlers.ChangeKeptView200JSONResponse(keptView(kept)), err
}

func (s *service) DeleteKeptView(ctx context.Context,
	r handlers.DeleteKeptViewRequestObject) (handlers.DeleteKeptViewResponseObject, error) {
	n, err := number("view", "V-", r.Kept)
	if err == nil {
		err = as(ctx).Reading.DeleteView(ctx, n)
	}
	return handlers.DeleteKeptView204Response{}, err
}
