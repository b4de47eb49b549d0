// Package secrets answers calls about the passwords and keys of sources. None of them
// is ever told.
package secrets

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// Secrets answers calls about the passwords and keys of sources.
type Secrets struct{ *answer.Service }

// ListSecrets answers GET /secrets.
func (s Secrets) ListSecrets(ctx context.Context,
	_ handlers.ListSecretsRequestObject) (handlers.ListSecretsResponseObject,
	error) {
	all, err := answer.As(ctx).Secrets.List(ctx)
	out := handlers.ListSecrets200JSONResponse{}
	for _, x := range all {
		out = append(out, api.Secret{Name: x.Name, From: api.SecretFrom(x.From), ChangedBy: answer.Given(x.ChangedBy),
			ChangedAt: answer.Moment(x.ChangedAt)})
	}
	return out, err
}

// PutSecret answers PUT /secrets/{secret}.
func (s Secrets) PutSecret(ctx context.Context, r handlers.PutSecretRequestObject) (handlers.PutSecretResponseObject,
	error) {
	return handlers.PutSecret204Response{}, answer.As(ctx).Secrets.Put(ctx, r.Secret, r.Body.Text)
}

// DeleteSecret answers DELETE /secrets/{secret}.
func (s Secrets) DeleteSecret(ctx context.Context,
	r handlers.DeleteSecretRequestObject) (handlers.DeleteSecretResponseObject, error) {
	return handlers.DeleteSecret204Response{}, answer.As(ctx).Secrets.Delete(ctx, r.Secret)
}
