package server

import (
	"context"
	"errors"
	"io"
	"strings"

	openapi "github.com/oapi-codegen/runtime/types"

	"mantilla/api"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/source"
)

func (s *service) GetService(context.Context, api.GetServiceRequestObject) (api.GetServiceResponseObject, error) {
	settings := s.library.Settings()
	out := api.Service{Name: settings.Name, Version: s.version, Zone: settings.Zone.String(),
		Today: openapi.Date{Time: s.library.Calendar().Today.Time()}}
	for _, p := range s.library.Presets() {
		out.Presets = append(out.Presets, api.Preset{Name: p.Name, First: p.Range.First.String(), Last: p.Range.Last.String(), Says: p.Range.Long()})
	}
	return api.GetService200JSONResponse(out), nil
}

func (s *service) GetCatalog(ctx context.Context, r api.GetCatalogRequestObject) (api.GetCatalogResponseObject, error) {
	entries, categories, err := s.library.Catalog(ctx, value(r.Params.Search), value(r.Params.Category))
	if err != nil {
		return nil, err
	}
	out := api.Catalog{Categories: []api.Category{}, Reports: []api.CatalogLine{}}
	for _, c := range categories {
		out.Categories = append(out.Categories, api.Category{Name: c.Name, Count: c.Count})
	}
	for _, e := range entries {
		line := api.CatalogLine{Id: e.ID, Title: e.Title, Category: e.Category, Depth: e.Depth, About: e.About}
		if e.Used != nil {
			seconds := e.Used.Duration.Seconds()
			line.LastRun, line.LastRows, line.LastSeconds = &e.Used.At, &e.Used.Rows, &seconds
		}
		out.Reports = append(out.Reports, line)
	}
	return api.GetCatalog200JSONResponse(out), nil
}

func (s *service) GetReport(ctx context.Context, r api.GetReportRequestObject) (api.GetReportResponseObject, error) {
	d, err := s.library.Report(r.Report)
	if err != nil {
		return nil, err
	}
	tag := quoted(d.Version)
	if unchanged(ctx, tag) {
		return notModified(tag), nil
	}
	body, err := s.report(ctx, d)
	return api.GetReport200JSONResponse{Body: body, Headers: api.GetReport200ResponseHeaders{ETag: &tag}}, err
}

func (s *service) report(ctx context.Context, d *report.Definition) (api.Report, error) {
	out := api.Report{Id: d.ID, Title: d.Title, Category: d.Category, Depth: d.Depth, About: d.About, Guide: d.Guide, Source: d.Source,
		Version: d.Version, Versions: []api.Version{}, Companions: []api.Companion{}, Parameters: []api.Parameter{}, Views: []api.View{}}
	versions, err := s.library.Versions(ctx, d.ID)
	for _, v := range versions {
		out.Versions = append(out.Versions, api.Version{Version: v.Version, At: v.At})
	}
	for _, id := range d.Companions {
		if c, err := s.library.Report(id); err == nil { // one that is not in the catalog yet is not offered
			out.Companions = append(out.Companions, api.Companion{Id: c.ID, Title: c.Title, Depth: c.Depth})
		}
	}
	for _, p := range d.Parameters {
		out.Parameters = append(out.Parameters, api.Parameter{Id: p.ID, Label: p.Label, Type: api.ParameterType(p.Type), Help: p.Help, Many: p.Many,
			Required: p.Required, Default: p.Default, All: p.All, Min: p.Min, Max: p.Max, Longest: p.Longest, Measure: p.Measure,
			Scale: int(p.Scale), Options: entries(p.Options), Tree: p.Type == param.Unit})
	}
	for _, v := range d.Views {
		out.Views = append(out.Views, api.View{Id: v.ID, Title: v.Title, Dataset: v.Of})
	}
	return out, err
}

func entries(list []param.Entry) []api.Entry {
	out := make([]api.Entry, len(list))
	for i, e := range list {
		out[i] = api.Entry{Code: e.Code, Label: e.Label, Kind: filled(e.Kind), Parent: filled(e.Parent), Detail: filled(e.Detail), Current: e.Current}
	}
	return out
}

func (s *service) GetDefinition(_ context.Context, r api.GetDefinitionRequestObject) (api.GetDefinitionResponseObject, error) {
	d, err := s.library.Report(r.Report)
	if err != nil {
		return nil, err
	}
	tag := quoted(d.Version)
	return api.GetDefinition200ApplicationyamlResponse{Body: strings.NewReader(d.Text), ContentLength: int64(len(d.Text)),
		Headers: api.GetDefinition200ResponseHeaders{ETag: &tag}}, nil
}

func (s *service) CheckDefinition(ctx context.Context, r api.CheckDefinitionRequestObject) (api.CheckDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"definition", err}
	}
	d, err := s.library.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	body, err := s.report(ctx, d)
	return api.CheckDefinition200JSONResponse(body), err
}

func (s *service) PutDefinition(ctx context.Context, r api.PutDefinitionRequestObject) (api.PutDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"definition", err}
	}
	d, err := s.library.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	if d.ID != r.Report {
		return nil, &badRequest{"report", errors.New("the definition is of the report " + d.ID + ", not " + r.Report)}
	}
	was := strings.Trim(value(r.Params.IfMatch), `"`)
	if d, err = s.library.PutReport(ctx, text, was); err != nil {
		return nil, err
	}
	body, err := s.report(ctx, d)
	tag := quoted(d.Version)
	return api.PutDefinition200JSONResponse{Body: body, Headers: api.PutDefinition200ResponseHeaders{ETag: &tag}}, err
}

func (s *service) GetEntries(ctx context.Context, r api.GetEntriesRequestObject) (api.GetEntriesResponseObject, error) {
	w := source.Wish{Search: value(r.Params.Search), Codes: value(r.Params.Code), Limit: 50}
	if r.Params.Limit != nil {
		w.Limit = min(max(*r.Params.Limit, 1), 1000)
	}
	list, err := s.library.Entries(ctx, r.Report, r.Parameter, w)
	return api.GetEntries200JSONResponse(entries(list)), err
}

func (s *service) ResolveValues(ctx context.Context, r api.ResolveValuesRequestObject) (api.ResolveValuesResponseObject, error) {
	res, err := s.library.Resolve(ctx, r.Report, r.Body.Values)
	if err != nil {
		return nil, err
	}
	return api.ResolveValues200JSONResponse{Sentence: res.Sentence, Facts: facts(res.Facts), Faults: valueFaults(res.Faults)}, nil
}
