package catalog

import (
	"context"

	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// DeleteSource answers DELETE /sources/{source}: take a source that no report reads out of the catalog.
func (s Catalog) DeleteSource(ctx context.Context,
	r handlers.DeleteSourceRequestObject) (handlers.DeleteSourceResponseObject, error) {
	return handlers.DeleteSource204Response{}, answer.As(ctx).Catalog.DeleteSource(ctx, r.Source)
}

// DeleteReport answers DELETE /reports/{report}.
func (s Catalog) DeleteReport(ctx context.Context,
	r handlers.DeleteReportRequestObject) (handlers.DeleteReportResponseObject, error) {
	return handlers.DeleteReport204Response{}, answer.As(ctx).Catalog.DeleteReport(ctx, r.Report)
}

// RenameReport answers POST /reports/{report}/rename.
func (s Catalog) RenameReport(ctx context.Context,
	r handlers.RenameReportRequestObject) (handlers.RenameReportResponseObject, error) {
	d, err := answer.As(ctx).Catalog.Rename(ctx, r.Report, r.Body.To, answer.Value(r.Body.Note))
	if err != nil {
		return nil, err
	}
	body, err := s.Report(ctx, d)
	return handlers.RenameReport200JSONResponse(body), err
}

// SetFavourite answers PUT /reports/{report}/favourite.
func (s Catalog) SetFavourite(ctx context.Context,
	r handlers.SetFavouriteRequestObject) (handlers.SetFavouriteResponseObject, error) {
	return handlers.SetFavourite204Response{}, answer.As(ctx).Catalog.SetFavourite(ctx, r.Report, true)
}

// UnsetFavourite answers DELETE /reports/{report}/favourite.
func (s Catalog) UnsetFavourite(ctx context.Context,
	r handlers.UnsetFavouriteRequestObject) (handlers.UnsetFavouriteResponseObject, error) {
	return handlers.UnsetFavourite204Response{}, answer.As(ctx).Catalog.SetFavourite(ctx, r.Report, false)
}
