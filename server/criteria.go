package server

import (
	"context"
	"fmt"

	"mantilla/api"
	"mantilla/library/asking"
	"mantilla/model"
)

func criteriaID(number int64) string { return fmt.Sprintf("C-%d", number) }

func criteria(c asking.Criteria) api.Criteria {
	return api.Criteria{Id: criteriaID(c.Number), Report: c.Report, Name: c.Name, Owner: c.Owner, Mine: c.Mine, Shared: c.Shared, Values: c.Typed,
		Usual: c.Usual, Revision: c.Revision, ChangedAt: c.ChangedAt, Deleted: c.Deleted, Sentence: c.Sentence, Unfit: c.Unfit,
		LastRun: moment(c.LastRun), LastRows: rowsTold(c.LastRows)}
}

// rowsTold leaves out a number of rows that the person is not told.
func rowsTold(rows int64) *int64 {
	if rows < 0 {
		return nil
	}
	return &rows
}

func (s *service) ListPastCriteria(ctx context.Context, r api.ListPastCriteriaRequestObject) (api.ListPastCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	past, err := as(ctx).Asking.PastCriteria(ctx, n)
	out := api.ListPastCriteria200JSONResponse{}
	for _, c := range past {
		out = append(out, criteria(c))
	}
	return out, err
}

func (s *service) ListCriteria(ctx context.Context, r api.ListCriteriaRequestObject) (api.ListCriteriaResponseObject, error) {
	list, err := as(ctx).Asking.CriteriaFor(ctx, r.Report, asking.CriteriaWish{Search: value(r.Params.Search), Limit: limit(r.Params.Limit)})
	out := api.ListCriteria200JSONResponse{}
	for _, c := range list {
		out = append(out, criteria(c))
	}
	return out, err
}

func (s *service) KeepCriteria(ctx context.Context, r api.KeepCriteriaRequestObject) (api.KeepCriteriaResponseObject, error) {
	c, err := as(ctx).Asking.KeepCriteria(ctx, model.Criteria{Report: r.Report, Name: r.Body.Name, Shared: r.Body.Shared, Typed: r.Body.Values})
	return api.KeepCriteria201JSONResponse(criteria(c)), err
}

func (s *service) GetCriteria(ctx context.Context, r api.GetCriteriaRequestObject) (api.GetCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Asking.CriteriaOf(ctx, n)
	return api.GetCriteria200JSONResponse(criteria(c)), err
}

func (s *service) ChangeCriteria(ctx context.Context, r api.ChangeCriteriaRequestObject) (api.ChangeCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	seen, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Asking.ChangeCriteria(ctx, model.Criteria{Number: n, Name: r.Body.Name, Shared: r.Body.Shared, Typed: r.Body.Values, Revision: seen})
	return api.ChangeCriteria200JSONResponse(criteria(c)), err
}

func (s *service) DeleteCriteria(ctx context.Context, r api.DeleteCriteriaRequestObject) (api.DeleteCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err == nil {
		err = as(ctx).Asking.DeleteCriteria(ctx, n)
	}
	return api.DeleteCriteria204Response{}, err
}

func (s *service) RestoreCriteria(ctx context.Context, r api.RestoreCriteriaRequestObject) (api.RestoreCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Asking.RestoreCriteria(ctx, n, value(r.Params.Revision))
	return api.RestoreCriteria200JSONResponse(criteria(c)), err
}

func (s *service) SetUsual(ctx context.Context, r api.SetUsualRequestObject) (api.SetUsualResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err == nil {
		err = as(ctx).Asking.SetUsual(ctx, n, true)
	}
	return api.SetUsual204Response{}, err
}

func (s *service) UnsetUsual(ctx context.Context, r api.UnsetUsualRequestObject) (api.UnsetUsualResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err == nil {
		err = as(ctx).Asking.SetUsual(ctx, n, false)
	}
	return api.UnsetUsual204Response{}, err
}
