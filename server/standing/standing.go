// Package standing answers calls about what the service takes.
package standing

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/model"
	"mantilla/server/answer"
)

// Standing answers calls about what the service takes.
type Standing struct{ *answer.Service }

// GetSpace answers GET /space.
func (s Standing) GetSpace(ctx context.Context, _ handlers.GetSpaceRequestObject) (handlers.GetSpaceResponseObject,
	error) {
	x, err := answer.As(ctx).Standing.Space(ctx)
	return handlers.GetSpace200JSONResponse{File: x.File, Free: x.Free, Disk: x.Disk, DiskFree: x.DiskFree,
		Reports: taken(x.Reports), People: taken(x.People), Ages: taken(x.Ages)}, err
}

func taken(all []model.Taken) []api.Taken {
	out := []api.Taken{}
	for _, t := range all {
		out = append(out, api.Taken{Name: t.Name, Results: t.Results, Rows: t.Rows, Bytes: t.Bytes, ForEver: t.ForEver})
	}
	return out
}
