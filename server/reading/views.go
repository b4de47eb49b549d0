package reading

import (
	"mantilla/server/answer"

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
	return api.KeptView{Id: fmt.Sprintf("V-%d", v.Number), Name: v.Name, View: v.Base, Everyone: v.Everyone,
		Owner: v.Owner, Mine: v.Mine, Revision: v.Revision, ChangedAt: v.ChangedAt,
		Changes: ChangesOut(c)}
}

// ChangesOut is what was changed about a view, as the contract has it.
func ChangesOut(c ask.Changes) api.Changes {
	part := func(items []string) *[]string {
		if items == nil {
			return nil
		}
		return &items
	}
	return api.Changes{Columns: part(c.Columns), Add: part(c.Add), Group: part(c.Group), Sort: part(c.Sort),
		Filters: part(c.Filters), Down: part(c.Down), Across: part(c.Across), Cells: part(c.Cells),
		Totals: part(c.Totals), Show: answer.Given(c.Show), Drawn: answer.Given(c.Drawn), Names: answer.Given(c.Names),
		Zeros: answer.Given(c.Zeros), Open: c.Open, Most: c.Limit}
}

// ChangesOf reads what is changed about a view.
func ChangesOf(c api.Changes) ask.Changes {
	return ask.Changes{Columns: answer.Value(c.Columns), Add: answer.Value(c.Add), Group: answer.Value(c.Group),
		Sort: answer.Value(c.Sort), Filters: answer.Value(c.Filters), Down: answer.Value(c.Down),
		Across: answer.Value(c.Across), Cells: answer.Value(c.Cells), Totals: answer.Value(c.Totals),
		Show: answer.Value(c.Show), Drawn: answer.Value(c.Drawn), Names: answer.Value(c.Names),
		Zeros: answer.Value(c.Zeros), Open: c.Open, Limit: c.Most}
}

func viewBody(report string, b *api.ViewBody) model.View {
	return model.View{Report: report, Base: b.View, Name: b.Name, Everyone: b.Everyone, Changes: ChangesOf(b.Changes)}
}

// ListKeptViews answers GET /reports/{report}/views.
func (s Results) ListKeptViews(ctx context.Context,
	r handlers.ListKeptViewsRequestObject) (handlers.ListKeptViewsResponseObject, error) {
	views, err := answer.As(ctx).Reading.KeptViews(ctx, r.Report)
	out := handlers.ListKeptViews200JSONResponse{}
	for _, v := range views {
		out = append(out, keptView(v))
	}
	return out, err
}

// KeepView answers POST /reports/{report}/views: keeps a view with what was changed about it.
func (s Results) KeepView(ctx context.Context, r handlers.KeepViewRequestObject) (handlers.KeepViewResponseObject,
	error) {
	v, err := answer.As(ctx).Reading.KeepView(ctx, viewBody(r.Report, r.Body))
	return handlers.KeepView201JSONResponse(keptView(v)), err
}

// ChangeKeptView answers PUT /reports/{report}/views/{kept}: changes a kept view.
func (s Results) ChangeKeptView(ctx context.Context,
	r handlers.ChangeKeptViewRequestObject) (handlers.ChangeKeptViewResponseObject, error) {
	v := viewBody(r.Report, r.Body)
	var err error
	if v.Number, err = answer.Number("view", "V-", r.Kept); err != nil {
		return nil, err
	}
	if v.Revision, err = answer.Revision(r.Params.IfMatch); err != nil {
		return nil, err
	}
	kept, err := answer.As(ctx).Reading.ChangeView(ctx, v)
	return handlers.ChangeKeptView200JSONResponse(keptView(kept)), err
}

// DeleteKeptView answers DELETE /reports/{report}/views/{kept}: deletes a kept view.
func (s Results) DeleteKeptView(ctx context.Context,
	r handlers.DeleteKeptViewRequestObject) (handlers.DeleteKeptViewResponseObject, error) {
	n, err := answer.Number("view", "V-", r.Kept)
	if err == nil {
		err = answer.As(ctx).Reading.DeleteView(ctx, n)
	}
	return handlers.DeleteKeptView204Response{}, err
}
