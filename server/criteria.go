package server

import (
	"context"
	"fmt"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/asking"
	"mantilla/model"
)

func criteriaID(number int64) string { return fmt.Sprintf("C-%d", number) }

func criteria(c asking.Criteria) api.Criteria {
	return api.Criteria{Id: criteriaID(c.Number), Report: c.Report, Name: c.Name, Owner: c.Owner, Mine: c.Mine,
		Shared: c.Shared, Values: c.Typed,
		Usual: c.Usual, Revision: c.Revision, ChangedAt: c.ChangedAt, Deleted: c.Deleted, Sentence: c.Sentence,
		Unfit:   c.Unfit,
		LastRun: moment(c.LastRun), LastRows: rowsTold(c.LastRows)}
}

// rowsTold leaves out a number of rows that the person is not told.
func rowsTold(rows int64) *int64 {
	if rows < 0 {
		return nil
	}
	return &rows
}

func (s *service) ListPastCriteria(ctx context.Context,
	r handlers.ListPastCriteriaRequestObject) (handlers.ListPastCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	past, err := as(ctx).Asking.PastCriteria(ctx, n)
	out := handlers.ListPastCriteria200JSONResponse{}
	for _, c := range past {
		out = append(out, criteria(c))
	}
	return out, err
}

func (s *service) ListCriteria(ctx context.Context,
	r handlers.ListCriteriaRequestObject) (handlers.ListCriteriaResponseObject, error) {
	list, err := as(ctx).Asking.CriteriaFor(ctx, r.Report,
		asking.CriteriaWish{Search: value(r.Params.Search), Limit: limit(r.Params.Limit)})
	out := handlers.ListCriteria200JSONResponse{}
	for _, c := range list {
		out = append(out, criteria(c))
	}
	return out, err
}

func (s *service) KeepCriteria(ctx context.Context,
	r handlers.KeepCriteriaRequestObject) (handlers.KeepCriteriaResponseObject, error) {
	c, err := as(ctx).Asking.KeepCriteria(ctx,
		model.Criteria{Report: r.Report, Name: r.Body.Name, Shared: r.Body.Shared, Typed: r.Body.Values})
	return handlers.KeepCriteria201JSONResponse(criteria(c)), err
}

func (s *service) GetCriteria(ctx context.Context,
	r handlers.GetCriteriaRequestObject) (handlers.GetCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Asking.CriteriaOf(ctx, n)
	return handlers.GetCriteria200JSONResponse(criteria(c)), err
}

func (s *service) ChangeCriteria(ctx context.Context,
	r handlers.ChangeCriteriaRequestObject) (handlers.ChangeCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	seen, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Asking.ChangeCriteria(ctx,
		model.Criteria{Number: n, Name: r.Body.Name, Shared: r.Body.Shared, Typed: r.Body.Values, Revision: seen})
	return handlers.ChangeCriteria200JSONResponse(criteria(c)), err
}

func (s *service) DeleteCriteria(ctx context.Context,
	r handlers.DeleteCriteriaRequestObject) (handlers.DeleteCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err == nil {
		err = as(ctx).Asking.DeleteCriteria(ctx, n)
	}
	return handlers.DeleteCriteria204Response{}, err
}

func (s *service) RestoreCriteria(ctx context.Context,
	r handlers.RestoreCriteriaRequestObject) (handlers.RestoreCriteriaResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	c, err := as(ctx).Asking.RestoreCriteria(ctx, n, value(r.Params.Revision))
	return handlers.RestoreCriteria200JSONResponse(criteria(c)), err
}

func (s *service) SetUsual(ctx context.Context, r handlers.SetUsualRequestObject) (handlers.SetUsualResponseObject,
	error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err == nil {
		err = as(ctx).Asking.SetUsual(ctx, n, true)
	}
	return handlers.SetUsual204Response{}, err
}

func (s *service) UnsetUsual(ctx context.Context,
	r handlers.UnsetUsualRequestObject) (handlers.UnsetUsualResponseObject, error) {
	n, err := number("criteria", "C-", r.Criteria)
	if err == nil {
		err = as(ctx).Asking.SetUsual(ctx, n, false)
	}
	return handlers.UnsetUsual204Response{}, err
}
