package people

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"image/png"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/qr"

	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// edge is that of the picture of a second factor, in pixels.
const edge = 240

// pictured is a text as a QR code, in a data URI.
func pictured(text string) (string, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err == nil {
		code, err = barcode.Scale(code, edge, edge)
	}
	var b bytes.Buffer
	if err == nil {
		err = png.Encode(&b, code)
	}
	if err != nil {
		return "", fmt.Errorf("drawing the second factor: %w", err)
	}
	return "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes()), nil
}

// BeginSecond answers POST /session/second.
func (s People) BeginSecond(ctx context.Context,
	_ handlers.BeginSecondRequestObject) (handlers.BeginSecondResponseObject, error) {
	n, err := answer.As(ctx).BeginSecond(ctx)
	if err != nil {
		return nil, err
	}
	picture, err := pictured(n.URI)
	return handlers.BeginSecond201JSONResponse{Secret: n.Secret, Uri: n.URI, Picture: picture}, err
}

// ConfirmSecond answers PUT /session/second.
func (s People) ConfirmSecond(ctx context.Context,
	r handlers.ConfirmSecondRequestObject) (handlers.ConfirmSecondResponseObject, error) {
	left, err := answer.As(ctx).ConfirmSecond(ctx, r.Body.Code)
	return handlers.ConfirmSecond200JSONResponse(left), err
}

// EndSecond answers POST /session/second/end.
func (s People) EndSecond(ctx context.Context, r handlers.EndSecondRequestObject) (handlers.EndSecondResponseObject,
	error) {
	return handlers.EndSecond204Response{}, answer.As(ctx).EndSecond(ctx, r.Body.Code)
}

// ResetSecond answers DELETE /people/{person}/second.
func (s People) ResetSecond(ctx context.Context,
	r handlers.ResetSecondRequestObject) (handlers.ResetSecondResponseObject, error) {
	return handlers.ResetSecond204Response{}, answer.As(ctx).ResetSecond(ctx, r.Person)
}
