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
