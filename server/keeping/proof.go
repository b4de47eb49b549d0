package keeping

import (
	"context"
	"fmt"
	"io"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/rescue"
	"mantilla/model"
	"mantilla/server/answer"
)

// ProveResult answers GET /results/{result}/proof.
func (s Keeping) ProveResult(ctx context.Context,
	r handlers.ProveResultRequestObject) (handlers.ProveResultResponseObject, error) {
	n, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	write, err := answer.As(ctx).Keeping.Prove(ctx, n)
	if err != nil {
		return nil, err
	}
	out, in := io.Pipe()
	go func() { in.CloseWithError(rescue.Call(func() error { return write(in) })) }()
	name := fmt.Sprintf(`attachment; filename="%s proof.zip"`, answer.ResultID(n))
	return handlers.ProveResult200ApplicationzipResponse{Body: out,
		Headers: handlers.ProveResult200ResponseHeaders{ContentDisposition: &name}}, nil
}

func key(k model.SigningKey) api.SigningKey {
	return api.SigningKey{Id: k.ID, Public: k.Public, MadeAt: k.MadeAt}
}

// ListKeys answers GET /keys.
func (s Keeping) ListKeys(ctx context.Context,
	_ handlers.ListKeysRequestObject) (handlers.ListKeysResponseObject, error) {
	keys, err := s.Library.Keys(ctx)
	out := handlers.ListKeys200JSONResponse{}
	for _, k := range keys {
		out = append(out, key(k))
	}
	return out, err
}

// MakeKey answers POST /keys.
func (s Keeping) MakeKey(ctx context.Context, _ handlers.MakeKeyRequestObject) (handlers.MakeKeyResponseObject, error) {
	k, err := answer.As(ctx).Keeping.NewKey(ctx)
	return handlers.MakeKey201JSONResponse(key(k)), err
}
