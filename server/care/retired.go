package care

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// ListRetired answers GET /retired.
func (s Care) ListRetired(ctx context.Context,
	_ handlers.ListRetiredRequestObject) (handlers.ListRetiredResponseObject, error) {
	out := handlers.ListRetired200JSONResponse{}
	for _, r := range answer.As(ctx).AllRetired() {
		out = append(out, api.Retired{Kind: api.RetiredKind(r.Kind), Id: r.ID, Successor: answer.Given(r.Successor), At: r.At,
			By: r.By})
	}
	return out, nil
}

// RetireOther answers PUT /retired/{kind}/{id}.
func (s Care) RetireOther(ctx context.Context,
	r handlers.RetireOtherRequestObject) (handlers.RetireOtherResponseObject, error) {
	return handlers.RetireOther204Response{},
		answer.As(ctx).RetireOther(ctx, r.Kind, r.Id, answer.Value(r.Body.Successor))
}

// ReinstateOther answers DELETE /retired/{kind}/{id}.
func (s Care) ReinstateOther(ctx context.Context,
	r handlers.ReinstateOtherRequestObject) (handlers.ReinstateOtherResponseObject, error) {
	return handlers.ReinstateOther204Response{}, answer.As(ctx).ReinstateOther(ctx, r.Kind, r.Id)
}

// RenameOther answers POST /renamed/{kind}/{id}.
func (s Care) RenameOther(ctx context.Context,
	r handlers.RenameOtherRequestObject) (handlers.RenameOtherResponseObject, error) {
	return handlers.RenameOther204Response{}, answer.As(ctx).Rename(ctx, r.Kind, r.Id, r.Body.To)
}
