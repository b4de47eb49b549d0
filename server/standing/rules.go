package standing

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/model"
	"mantilla/server/answer"
)

const megabyte = 1_000_000

// ListRules answers GET /rules: how long results are kept, and how much people may keep.
func (s Standing) ListRules(ctx context.Context, _ handlers.ListRulesRequestObject) (handlers.ListRulesResponseObject,
	error) {
	a := answer.As(ctx).Standing
	rules, err := a.KeepRules(ctx)
	if err != nil {
		return nil, err
	}
	quotas, err := a.Quotas(ctx)
	out := handlers.ListRules200JSONResponse{Keep: []api.KeepRule{}, Quotas: []api.Quota{}}
	for _, x := range rules {
		out.Keep = append(out.Keep, api.KeepRule{Kind: api.KeepRuleKind(x.Kind), Id: x.ID, Days: x.Days, Final: x.Final,
			By: x.By, At: x.At})
	}
	for _, x := range quotas {
		out.Quotas = append(out.Quotas, api.Quota{Kind: api.QuotaKind(x.Kind), Id: x.ID, Megabytes: x.Bytes / megabyte})
	}
	return out, err
}

// PutKeepRule answers PUT /rules/keep/{kind}/{id}: keep a rule, or only try it.
func (s Standing) PutKeepRule(ctx context.Context,
	r handlers.PutKeepRuleRequestObject) (handlers.PutKeepRuleResponseObject, error) {
	a := answer.As(ctx).Standing
	x := model.KeepRule{Kind: string(r.Kind), ID: r.Id, Days: r.Body.Days, Final: r.Body.Final}
	put := a.PutKeepRule
	if answer.Value(r.Params.Try) {
		put = a.TryKeepRule
	}
	e, err := put(ctx, x)
	out := handlers.PutKeepRule200JSONResponse{Results: e.Results, Bytes: e.Bytes, Oldest: answer.Moment(e.Oldest),
		Newest: answer.Moment(e.Newest), Sample: []api.RuleSample{}}
	for _, k := range e.Sample {
		out.Sample = append(out.Sample, api.RuleSample{Id: answer.ResultID(k.Number), Report: k.Report, Title: k.Title,
			Rows: k.Rows, KeptAt: k.KeptAt})
	}
	return out, err
}

// DeleteKeepRule answers DELETE /rules/keep/{kind}/{id}.
func (s Standing) DeleteKeepRule(ctx context.Context,
	r handlers.DeleteKeepRuleRequestObject) (handlers.DeleteKeepRuleResponseObject, error) {
	return handlers.DeleteKeepRule204Response{}, answer.As(ctx).Standing.DeleteKeepRule(ctx, string(r.Kind), r.Id)
}

// PutQuota answers PUT /rules/quota/{kind}/{id}.
func (s Standing) PutQuota(ctx context.Context, r handlers.PutQuotaRequestObject) (handlers.PutQuotaResponseObject,
	error) {
	return handlers.PutQuota204Response{}, answer.As(ctx).Standing.PutQuota(ctx,
		model.Quota{Kind: string(r.Kind), ID: r.Id, Bytes: r.Body.Megabytes * megabyte})
}
