// Package trash answers calls about what was deleted.
package trash

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/model"
	"mantilla/server/answer"
)

// Trash answers calls about what was deleted.
type Trash struct{ *answer.Service }

// ListTrash answers GET /trash: what was deleted and can be brought back, the last first.
func (s Trash) ListTrash(ctx context.Context, _ handlers.ListTrashRequestObject) (handlers.ListTrashResponseObject,
	error) {
	all, err := answer.As(ctx).Trash.List(ctx)
	out := handlers.ListTrash200JSONResponse{}
	for _, t := range all {
		out = append(out, api.Thrown{Kind: api.ThrownKind(t.Kind), Id: t.ID, Name: t.Name, Report: answer.Given(t.Report),
			Owner: t.Owner, At: t.At, Until: t.At.AddDate(0, 0, model.TrashDays)})
	}
	return out, err
}

// ReturnThrown answers POST /trash/{kind}/{id}: take a thing out of the trash.
func (s Trash) ReturnThrown(ctx context.Context,
	r handlers.ReturnThrownRequestObject) (handlers.ReturnThrownResponseObject, error) {
	return handlers.ReturnThrown204Response{}, answer.As(ctx).Trash.BringBack(ctx, string(r.Kind), r.Id)
}
