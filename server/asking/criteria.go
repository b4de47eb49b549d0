// Package asking answers calls about criteria and marks of the last look.
package asking

import (
	"mantilla/server/answer"

	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/asking"
	"mantilla/model"
)

// Asking answers calls about criteria and marks of the last look.
type Asking struct{ *answer.Service }

func criteria(c asking.Criteria) api.Criteria {
	return api.Criteria{Id: answer.CriteriaID(c.Number), Report: c.Report, Name: c.Name, Owner: c.Owner, Mine: c.Mine,
		Shared: c.Shared, Values: c.Typed,
		Usual: c.Usual, Revision: c.Revision, ChangedAt: c.ChangedAt, Deleted: c.Deleted, Sentence: c.Sentence,
		Unfit:   c.Unfit,
		LastRun: answer.Moment(c.LastRun), LastRows: rowsTold(c.LastRows)}
}

// rowsTold leaves out a number of rows that the person is not told.
func rowsTold(rows int64) *int64 {
	if rows < 0 {
		return nil
	}
	return &rows
}

// ListPastCriteria answers GET /criteria/{criteria}/past.
func (s Asking) ListPastCriteria(ctx context.Context,
	r handlers.ListPastCriteriaRequestObject) (handlers.ListPastCriteriaResponseObject, error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	past, err := answer.As(ctx).Asking.PastCriteria(ctx, n)
	out := handlers.ListPastCriteria200JSONResponse{}
	for _, c := range past {
		out = append(out, criteria(c))
	}
	return out, err
}

// ListCriteria answers GET /reports/{report}/criteria.
func (s Asking) ListCriteria(ctx context.Context,
	r handlers.ListCriteriaRequestObject) (handlers.ListCriteriaResponseObject, error) {
	list, err := answer.As(ctx).Asking.CriteriaFor(ctx, r.Report,
		asking.CriteriaWish{Search: answer.Value(r.Params.Search), Limit: answer.Limit(r.Params.Limit)})
	out := handlers.ListCriteria200JSONResponse{}
	for _, c := range list {
		out = append(out, criteria(c))
	}
	return out, err
}

// KeepCriteria answers POST /reports/{report}/criteria: keep values under a new name.
func (s Asking) KeepCriteria(ctx context.Context,
	r handlers.KeepCriteriaRequestObject) (handlers.KeepCriteriaResponseObject, error) {
	c, err := answer.As(ctx).Asking.KeepCriteria(ctx,
		model.Criteria{Report: r.Report, Name: r.Body.Name, Shared: r.Body.Shared, Typed: r.Body.Values})
	return handlers.KeepCriteria201JSONResponse(criteria(c)), err
}

// GetCriteria answers GET /criteria/{criteria}: criteria, also deleted ones, with what they come to today.
func (s Asking) GetCriteria(ctx context.Context,
	r handlers.GetCriteriaRequestObject) (handlers.GetCriteriaResponseObject, error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	c, err := answer.As(ctx).Asking.CriteriaOf(ctx, n)
	return handlers.GetCriteria200JSONResponse(criteria(c)), err
}

// ChangeCriteria answers PUT /criteria/{criteria}: overwrite, rename or share criteria.
func (s Asking) ChangeCriteria(ctx context.Context,
	r handlers.ChangeCriteriaRequestObject) (handlers.ChangeCriteriaResponseObject, error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	seen, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	c, err := answer.As(ctx).Asking.ChangeCriteria(ctx,
		model.Criteria{Number: n, Name: r.Body.Name, Shared: r.Body.Shared, Typed: r.Body.Values, Revision: seen})
	return handlers.ChangeCriteria200JSONResponse(criteria(c)), err
}

// DeleteCriteria answers DELETE /criteria/{criteria}: delete criteria; restoring brings them back.
func (s Asking) DeleteCriteria(ctx context.Context,
	r handlers.DeleteCriteriaRequestObject) (handlers.DeleteCriteriaResponseObject, error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err == nil {
		err = answer.As(ctx).Asking.DeleteCriteria(ctx, n)
	}
	return handlers.DeleteCriteria204Response{}, err
}

// RestoreCriteria answers POST /criteria/{criteria}/restore.
func (s Asking) RestoreCriteria(ctx context.Context,
	r handlers.RestoreCriteriaRequestObject) (handlers.RestoreCriteriaResponseObject, error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err != nil {
		return nil, err
	}
	c, err := answer.As(ctx).Asking.RestoreCriteria(ctx, n, answer.Value(r.Params.Revision))
	return handlers.RestoreCriteria200JSONResponse(criteria(c)), err
}

// SetUsual answers PUT /criteria/{criteria}/usual: let one's form of the report begin with these criteria.
func (s Asking) SetUsual(ctx context.Context, r handlers.SetUsualRequestObject) (handlers.SetUsualResponseObject,
	error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err == nil {
		err = answer.As(ctx).Asking.SetUsual(ctx, n, true)
	}
	return handlers.SetUsual204Response{}, err
}

// UnsetUsual answers DELETE /criteria/{criteria}/usual.
func (s Asking) UnsetUsual(ctx context.Context,
	r handlers.UnsetUsualRequestObject) (handlers.UnsetUsualResponseObject, error) {
	n, err := answer.Number("criteria", "C-", r.Criteria)
	if err == nil {
		err = answer.As(ctx).Asking.SetUsual(ctx, n, false)
	}
	return handlers.UnsetUsual204Response{}, err
}
