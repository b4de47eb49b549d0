// Package guide answers calls about the pages that explain the console.
package guide

import (
	"bytes"
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/guide"
	"mantilla/server/answer"
)

// Guide answers calls about the pages that explain the console.
type Guide struct{ *answer.Service }

// ListGuide answers GET /guide.
func (s Guide) ListGuide(_ context.Context, r handlers.ListGuideRequestObject) (handlers.ListGuideResponseObject,
	error) {
	out := handlers.ListGuide200JSONResponse{}
	for _, p := range guide.Pages(answer.Value(r.Params.Search)) {
		out = append(out, api.GuideLine{Id: p.ID, Title: p.Title, Line: p.Line})
	}
	return out, nil
}

// GetGuidePage answers GET /guide/{page}.
func (s Guide) GetGuidePage(_ context.Context,
	r handlers.GetGuidePageRequestObject) (handlers.GetGuidePageResponseObject, error) {
	p, err := guide.Of(r.Page)
	return handlers.GetGuidePage200JSONResponse{Id: p.ID, Title: p.Title, Line: p.Line, Text: p.Text, Html: p.HTML(),
		Picture: p.Picture}, err
}

// GetGuidePicture answers GET /guide/{page}/picture.
func (s Guide) GetGuidePicture(_ context.Context,
	r handlers.GetGuidePictureRequestObject) (handlers.GetGuidePictureResponseObject, error) {
	picture, err := guide.Picture(r.Page)
	return handlers.GetGuidePicture200ImagepngResponse{Body: bytes.NewReader(picture), ContentLength: int64(len(picture))},
		err
}
