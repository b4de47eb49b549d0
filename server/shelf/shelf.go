// Package shelf answers calls about documents and links.
package shelf

import (
	"bytes"
	"context"
	"io"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/model"
	"mantilla/server/answer"
)

// Shelf answers calls about documents and links.
type Shelf struct{ *answer.Service }

// Resource is a document or link as the contract has it.
func Resource(r model.Resource) api.Resource {
	out := api.Resource{Id: r.ID, Title: r.Title, About: r.About, Category: r.Category, Report: answer.Given(r.Report),
		Address: answer.Given(r.Address), Revision: r.Revision}
	if r.Latest.Number > 0 {
		latest := version(r.Latest)
		out.Latest = &latest
	}
	return out
}

func version(v model.ResourceVersion) api.ResourceVersion {
	return api.ResourceVersion{Number: v.Number, Name: v.Name, Type: v.Type, Bytes: v.Bytes, Sha256: v.SHA256, At: v.At,
		By: v.By, Note: v.Note}
}

// ListResources answers GET /resources.
func (s Shelf) ListResources(ctx context.Context,
	r handlers.ListResourcesRequestObject) (handlers.ListResourcesResponseObject, error) {
	out := handlers.ListResources200JSONResponse{}
	for _, one := range answer.As(ctx).Shelf.List(answer.Value(r.Params.Report), answer.Value(r.Params.Search)) {
		out = append(out, Resource(one))
	}
	return out, nil
}

// GetResource answers GET /resources/{resource}.
func (s Shelf) GetResource(ctx context.Context,
	r handlers.GetResourceRequestObject) (handlers.GetResourceResponseObject, error) {
	one, versions, open, err := answer.As(ctx).Shelf.Resource(ctx, r.Resource)
	out := handlers.GetResource200JSONResponse{Resource: Resource(one), Versions: []api.ResourceVersion{},
		Open: answer.Opening(open)}
	for _, v := range versions {
		out.Versions = append(out.Versions, version(v))
	}
	return out, err
}

// PutResource answers PUT /resources/{resource}.
func (s Shelf) PutResource(ctx context.Context,
	r handlers.PutResourceRequestObject) (handlers.PutResourceResponseObject, error) {
	revision, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	one, err := answer.As(ctx).Shelf.Put(ctx, model.Resource{ID: r.Resource, Title: r.Body.Title,
		About: answer.Value(r.Body.About), Category: r.Body.Category, Report: answer.Value(r.Body.Report),
		Address: answer.Value(r.Body.Address), Revision: revision}, answer.Openings(r.Body.Open))
	return handlers.PutResource200JSONResponse(Resource(one)), err
}

// DeleteResource answers DELETE /resources/{resource}.
func (s Shelf) DeleteResource(ctx context.Context,
	r handlers.DeleteResourceRequestObject) (handlers.DeleteResourceResponseObject, error) {
	return handlers.DeleteResource204Response{}, answer.As(ctx).Shelf.Delete(ctx, r.Resource)
}

// AddResourceVersion answers POST /resources/{resource}/versions.
func (s Shelf) AddResourceVersion(ctx context.Context,
	r handlers.AddResourceVersionRequestObject) (handlers.AddResourceVersionResponseObject, error) {
	data, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "file", Err: err}
	}
	v, err := answer.As(ctx).Shelf.AddVersion(ctx, r.Resource, r.Params.Name, answer.Value(r.Params.Note), data)
	return handlers.AddResourceVersion201JSONResponse(version(v)), err
}

// FetchResource answers GET /resources/{resource}/file.
func (s Shelf) FetchResource(ctx context.Context,
	r handlers.FetchResourceRequestObject) (handlers.FetchResourceResponseObject, error) {
	v, data, err := answer.As(ctx).Shelf.File(ctx, r.Resource, answer.Value(r.Params.Version))
	if err != nil {
		return nil, err
	}
	return handlers.FetchResource200AsteriskResponse{Body: bytes.NewReader(data), ContentType: v.Type,
		ContentLength: v.Bytes, Headers: handlers.FetchResource200ResponseHeaders{
			ContentDisposition: answer.Attachment(v.Name), ContentSecurityPolicy: answer.Fenced()}}, nil
}
