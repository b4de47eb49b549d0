package library

import (
	"context"

	"mantilla/model"
)

// Rename gives a source, a shared parameter, a group, an address or an account another id or
// name, in the room that keeps it. Reports are renamed in the catalog.
func (a *Access) Rename(ctx context.Context, kind, id, to string) error {
	switch kind {
	case model.KindSource:
		return a.Catalog.RenameSource(ctx, id, to)
	case model.KindParameter:
		return a.Catalog.RenameParameter(ctx, id, to)
	case model.KindGroup:
		return a.RenameGroup(ctx, id, to)
	case model.KindAddress:
		return a.Sending.RenameAddress(ctx, id, to)
	case model.KindAccount:
		return a.RenameAccount(ctx, id, to)
	}
	return model.NoSuch("kind of things to rename", kind, []string{model.KindSource, model.KindParameter,
		model.KindGroup, model.KindAddress, model.KindAccount})
}
