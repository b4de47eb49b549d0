package people

import (
	"context"
	"encoding/json"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// questioned is a question as the contract has it.
func questioned(text []byte, err error) (q api.PasskeyQuestion, _ error) {
	if err == nil {
		err = json.Unmarshal(text, &q)
	}
	return q, err
}

// AskPasskey answers POST /session/passkey.
func (s People) AskPasskey(ctx context.Context,
	_ handlers.AskPasskeyRequestObject) (handlers.AskPasskeyResponseObject, error) {
	q, err := questioned(s.Library.Door().AskPasskey(ctx))
	return handlers.AskPasskey201JSONResponse(q), err
}

// SignInByPasskey answers PUT /session/passkey.
func (s People) SignInByPasskey(ctx context.Context,
	r handlers.SignInByPasskeyRequestObject) (handlers.SignInByPasskeyResponseObject, error) {
	text, err := json.Marshal(r.Body)
	if err != nil {
		return nil, err
	}
	secret, person, _, err := s.Library.Door().SignInByPasskey(ctx, text)
	if err != nil {
		return nil, err
	}
	return handlers.SignInByPasskey200JSONResponse{
		Body:    s.whoIs(ctx, person),
		Headers: handlers.SignInByPasskey200ResponseHeaders{SetCookie: answer.CallOf(ctx).CookieOf(secret)},
	}, nil
}

// ListPasskeys answers GET /session/passkeys.
func (s People) ListPasskeys(ctx context.Context,
	_ handlers.ListPasskeysRequestObject) (handlers.ListPasskeysResponseObject, error) {
	all, err := answer.As(ctx).Passkeys(ctx)
	out := handlers.ListPasskeys200JSONResponse{}
	for _, k := range all {
		out = append(out, api.Passkey{Id: k.ID, Label: k.Label, MadeAt: k.MadeAt, LastAt: answer.Moment(k.LastAt)})
	}
	return out, err
}

// BeginPasskey answers POST /session/passkeys.
func (s People) BeginPasskey(ctx context.Context,
	_ handlers.BeginPasskeyRequestObject) (handlers.BeginPasskeyResponseObject, error) {
	q, err := questioned(answer.As(ctx).BeginPasskey(ctx))
	return handlers.BeginPasskey201JSONResponse(q), err
}

// AddPasskey answers PUT /session/passkeys.
func (s People) AddPasskey(ctx context.Context,
	r handlers.AddPasskeyRequestObject) (handlers.AddPasskeyResponseObject, error) {
	text, err := json.Marshal(r.Body.Answer)
	if err != nil {
		return nil, err
	}
	return handlers.AddPasskey204Response{}, answer.As(ctx).AddPasskey(ctx, r.Body.Label, text)
}

// DeletePasskey answers DELETE /session/passkeys/{passkey}.
func (s People) DeletePasskey(ctx context.Context,
	r handlers.DeletePasskeyRequestObject) (handlers.DeletePasskeyResponseObject, error) {
	return handlers.DeletePasskey204Response{}, answer.As(ctx).DeletePasskey(ctx, r.Passkey)
}
