// Package moving answers calls about bundles.
package moving

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/moving"
	"mantilla/server/answer"
)

// Moving answers calls about bundles.
type Moving struct{ *answer.Service }

// MakeBundle answers POST /bundles.
func (s Moving) MakeBundle(ctx context.Context,
	r handlers.MakeBundleRequestObject) (handlers.MakeBundleResponseObject, error) {
	var out bytes.Buffer
	err := answer.As(ctx).Moving.Make(ctx, &out, moving.Wish{Reports: r.Body.Reports,
		Controls: answer.Value(r.Body.Controls), Recipients: answer.Value(r.Body.Recipients)})
	if err != nil {
		return nil, err
	}
	return handlers.MakeBundle200ApplicationzipResponse{Body: &out, ContentLength: int64(out.Len()),
		Headers: handlers.MakeBundle200ResponseHeaders{ContentDisposition: answer.Attachment("reports.bundle.zip")}}, nil
}

// mapping reads what is called otherwise here: THERE=HERE.
func mapping(sources, groups, units *[]string) (m moving.Mapping, err error) {
	for _, kind := range []struct {
		field string
		pairs *[]string
		to    *map[string]string
	}{{"source", sources, &m.Sources}, {"group", groups, &m.Groups}, {"unit", units, &m.Units}} {
		*kind.to = map[string]string{}
		for _, pair := range answer.Value(kind.pairs) {
			there, here, ok := strings.Cut(pair, "=")
			if !ok || there == "" || here == "" {
				return m, &answer.BadRequest{Field: kind.field, Err: fmt.Errorf("%q is not a pair; write it as THERE=HERE", pair)}
			}
			(*kind.to)[there] = here
		}
	}
	return m, nil
}

// LookAtBundle answers POST /bundles/look.
func (s Moving) LookAtBundle(ctx context.Context,
	r handlers.LookAtBundleRequestObject) (handlers.LookAtBundleResponseObject, error) {
	m, err := mapping(r.Params.Source, r.Params.Group, r.Params.Unit)
	if err != nil {
		return nil, err
	}
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "bundle", Err: err}
	}
	l, err := answer.As(ctx).Moving.Look(ctx, text, m)
	return handlers.LookAtBundle200JSONResponse(look(l, nil)), err
}

func look(l moving.Look, back []string) api.BundleLook {
	out := api.BundleLook{From: l.From, By: l.By, Made: l.Made, Blocked: l.Blocked(), Back: answer.List(back),
		Items: []api.BundleItem{}}
	for _, i := range l.Items {
		out.Items = append(out.Items, api.BundleItem{Kind: api.BundleItemKind(i.Kind), Id: i.ID, Title: i.Title,
			State: api.BundleItemState(i.State), Says: answer.List(i.Says)})
	}
	return out
}

// TakeBundle answers POST /bundles/take.
func (s Moving) TakeBundle(ctx context.Context,
	r handlers.TakeBundleRequestObject) (handlers.TakeBundleResponseObject, error) {
	m, err := mapping(r.Params.Source, r.Params.Group, r.Params.Unit)
	if err != nil {
		return nil, err
	}
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "bundle", Err: err}
	}
	taken, err := answer.As(ctx).Moving.Take(ctx, text, m, answer.Value(r.Params.Note))
	return handlers.TakeBundle200JSONResponse(look(taken.Look, taken.Back)), err
}
