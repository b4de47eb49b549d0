package drafting

import (
	"context"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	library "mantilla/library/catalog"
	"mantilla/server/answer"
	"mantilla/server/catalog"
)

// ListVersions answers GET /reports/{report}/versions.
func (s Drafting) ListVersions(ctx context.Context,
	r handlers.ListVersionsRequestObject) (handlers.ListVersionsResponseObject, error) {
	if _, err := answer.As(ctx).Catalog.Report(r.Report); err != nil {
		return nil, err
	}
	all, err := answer.As(ctx).Catalog.Versions(ctx, r.Report)
	out := handlers.ListVersions200JSONResponse{}
	for _, v := range all {
		out = append(out, catalog.Version(v))
	}
	return out, err
}

// GetVersion answers GET /reports/{report}/versions/{number}.
func (s Drafting) GetVersion(ctx context.Context,
	r handlers.GetVersionRequestObject) (handlers.GetVersionResponseObject, error) {
	text, _, err := answer.As(ctx).Catalog.VersionText(ctx, r.Report, r.Number)
	return handlers.GetVersion200ApplicationyamlResponse{Body: strings.NewReader(text),
		ContentLength: int64(len(text))}, err
}

// CompareVersions answers GET /reports/{report}/versions/{number}/differences.
func (s Drafting) CompareVersions(ctx context.Context,
	r handlers.CompareVersionsRequestObject) (handlers.CompareVersionsResponseObject, error) {
	from := answer.Or(r.Params.From, r.Number-1)
	if from < 1 {
		return handlers.CompareVersions200JSONResponse{Words: []string{"it is the first version"}}, nil
	}
	d, err := answer.As(ctx).Catalog.Compare(ctx, r.Report, from, r.Number)
	return handlers.CompareVersions200JSONResponse{Words: answer.List(d.Words), Text: d.Text}, err
}

// RestoreVersion answers POST /reports/{report}/versions/{number}/restore.
func (s Drafting) RestoreVersion(ctx context.Context,
	r handlers.RestoreVersionRequestObject) (handlers.RestoreVersionResponseObject, error) {
	put := library.Put{Was: strings.Trim(answer.Value(r.Params.IfMatch), `"`), Note: answer.Value(r.Body.Note)}
	d, err := answer.As(ctx).Catalog.BringBack(ctx, r.Report, r.Number, put)
	if err != nil {
		return nil, err
	}
	body, err := s.Catalog.Report(ctx, d)
	return handlers.RestoreVersion200JSONResponse(body), err
}

// ListNotices answers GET /notices.
func (s Drafting) ListNotices(ctx context.Context,
	_ handlers.ListNoticesRequestObject) (handlers.ListNoticesResponseObject, error) {
	all, err := answer.As(ctx).Notices.List(ctx)
	out := handlers.ListNotices200JSONResponse{}
	for _, n := range all {
		out = append(out, api.Notice{Number: n.Number, At: n.At, About: n.About, Says: n.Says, Place: n.Place})
	}
	return out, err
}

// PutAwayNotice answers DELETE /notices/{notice}.
func (s Drafting) PutAwayNotice(ctx context.Context,
	r handlers.PutAwayNoticeRequestObject) (handlers.PutAwayNoticeResponseObject, error) {
	return handlers.PutAwayNotice204Response{}, answer.As(ctx).Notices.PutAway(ctx, r.Notice)
}

// ReturnNotice answers PUT /notices/{notice}.
func (s Drafting) ReturnNotice(ctx context.Context,
	r handlers.ReturnNoticeRequestObject) (handlers.ReturnNoticeResponseObject, error) {
	return handlers.ReturnNotice204Response{}, answer.As(ctx).Notices.Return(ctx, r.Notice)
}
