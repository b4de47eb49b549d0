package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	openapi "github.com/oapi-codegen/runtime/types"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/library/asking"
	"mantilla/source/lookup"
)

func (s *service) GetService(context.Context, handlers.GetServiceRequestObject) (handlers.GetServiceResponseObject,
	error) {
	settings := s.library.Settings()
	out := api.Service{Name: settings.Name, Version: s.version, Zone: settings.Zone.String(),
		Today: openapi.Date{Time: s.library.Calendar().Today.Time()}, Presets: presets(s.library.Presets())}
	return handlers.GetService200JSONResponse(out), nil
}

func (s *service) GetCatalog(ctx context.Context,
	r handlers.GetCatalogRequestObject) (handlers.GetCatalogResponseObject, error) {
	entries, categories, err := as(ctx).Catalog.Catalog(ctx, value(r.Params.Search), value(r.Params.Category))
	if err != nil {
		return nil, err
	}
	out := api.Catalog{Categories: []api.Category{}, Reports: []api.CatalogLine{}}
	for _, c := range categories {
		out.Categories = append(out.Categories, api.Category{Name: c.Name, Count: c.Count})
	}
	for _, e := range entries {
		line := api.CatalogLine{
			Id:       e.ID,
			Title:    e.Title,
			Category: e.Category,
			Depth:    e.Depth,
			About:    e.About,
			Broken:   given1(e.Broken),
		}
		if e.Used != nil {
			seconds := e.Used.Duration.Seconds()
			line.LastRun, line.LastSeconds = &e.Used.At, &seconds
			if e.Used.Rows >= 0 {
				line.LastRows = &e.Used.Rows
			}
		}
		out.Reports = append(out.Reports, line)
	}
	return handlers.GetCatalog200JSONResponse(out), nil
}

func (s *service) GetReport(ctx context.Context, r handlers.GetReportRequestObject) (handlers.GetReportResponseObject,
	error) {
	d, err := as(ctx).Catalog.Report(r.Report)
	if err != nil {
		return nil, err
	}
	tag := quoted(d.Version)
	if of(ctx).has(tag) {
		return notModified(tag), nil
	}
	body, err := s.report(ctx, d)
	return handlers.GetReport200JSONResponse{Body: body, Headers: handlers.GetReport200ResponseHeaders{ETag: &tag}}, err
}

func (s *service) report(ctx context.Context, d *report.Definition) (api.Report, error) {
	out := api.Report{Id: d.ID, Title: d.Title, Category: d.Category, Depth: d.Depth, About: d.About, Guide: d.Guide,
		Source:  d.Source,
		Version: d.Version, Versions: []api.Version{}, Companions: []api.Companion{}, Parameters: []api.Parameter{},
		Views: []api.View{}}
	versions, err := as(ctx).Catalog.Versions(ctx, d.ID)
	for _, v := range versions {
		out.Versions = append(out.Versions, api.Version{Version: v.Version, At: v.At})
	}
	for _, id := range d.Companions {
		if c, err := as(ctx).Catalog.Report(id); err == nil { // one that is not in the catalog yet is not offered
			out.Companions = append(out.Companions, api.Companion{Id: c.ID, Title: c.Title, Depth: c.Depth})
		}
	}
	for _, p := range d.Parameters {
		out.Parameters = append(out.Parameters, parameter(p))
	}
	if slices.Contains(as(ctx).Rights(), "write") && err == nil {
		var warnings []string
		if warnings, err = as(ctx).Catalog.Warnings(ctx, d); len(warnings) > 0 {
			out.Warnings = &warnings
		}
	}
	for _, v := range d.Views {
		out.Views = append(out.Views, api.View{Id: v.ID, Title: v.Title, Dataset: v.Of})
	}
	return out, err
}

func parameter(p param.Parameter) api.Parameter {
	return api.Parameter{Id: p.ID, Label: p.Label, Type: api.ParameterType(p.Type), Help: p.Help, Group: p.Group,
		Many: p.Many, Required: p.Required,
		Locked: p.Locked, Hidden: p.Hidden, Default: p.Default, All: p.All, Min: p.Min, Max: p.Max, Longest: p.Longest,
		Measure: p.Measure,
		Scale:   int(p.Scale), Options: entries(p.Options), Tree: p.Type == param.Unit,
		Time: p.Timed || p.Type == param.Ranges, Compare: p.Compare,
		NarrowedBy: append([]string{}, slices.Sorted(maps.Values(p.By))...)}
}

func entries(list []param.Entry) []api.Entry {
	out := make([]api.Entry, len(list))
	for i, e := range list {
		out[i] = api.Entry{
			Code:    e.Code,
			Label:   e.Label,
			Kind:    filled(e.Kind),
			Parent:  filled(e.Parent),
			Detail:  filled(e.Detail),
			Current: e.Current,
			Out:     marked(e.Out),
		}
	}
	return out
}

func (s *service) GetDefinition(ctx context.Context,
	r handlers.GetDefinitionRequestObject) (handlers.GetDefinitionResponseObject, error) {
	d, err := as(ctx).Catalog.Report(r.Report)
	if err != nil {
		return nil, err
	}
	tag := quoted(d.Version)
	return handlers.GetDefinition200ApplicationyamlResponse{Body: strings.NewReader(d.Text),
		ContentLength: int64(len(d.Text)),
		Headers:       handlers.GetDefinition200ResponseHeaders{ETag: &tag}}, nil
}

func (s *service) CheckDefinition(ctx context.Context,
	r handlers.CheckDefinitionRequestObject) (handlers.CheckDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"definition", err}
	}
	d, err := as(ctx).Catalog.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	body, err := s.report(ctx, d)
	return handlers.CheckDefinition200JSONResponse(body), err
}

func (s *service) PutDefinition(ctx context.Context,
	r handlers.PutDefinitionRequestObject) (handlers.PutDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"definition", err}
	}
	d, err := as(ctx).Catalog.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	if d.ID != r.Report {
		return nil, &badRequest{"report", errors.New("the definition is of the report " + d.ID + ", not " + r.Report)}
	}
	was := strings.Trim(value(r.Params.IfMatch), `"`)
	if d, err = as(ctx).Catalog.PutReport(ctx, text, was); err != nil {
		return nil, err
	}
	body, err := s.report(ctx, d)
	tag := quoted(d.Version)
	return handlers.PutDefinition200JSONResponse{
		Body:    body,
		Headers: handlers.PutDefinition200ResponseHeaders{ETag: &tag},
	}, err
}

// marked is left out where it does not hold.
func marked(holds bool) *bool {
	if !holds {
		return nil
	}
	return &holds
}

func (s *service) GetEntries(ctx context.Context,
	r handlers.GetEntriesRequestObject) (handlers.GetEntriesResponseObject, error) {
	w := lookup.Wish{Search: value(r.Params.Search), Codes: value(r.Params.Code), Limit: 50}
	if r.Params.Limit != nil {
		w.Limit = min(max(*r.Params.Limit, 1), 1000)
	}
	given := map[string]string{}
	for _, pair := range value(r.Params.Given) {
		name, text, ok := strings.Cut(pair, "=")
		if !ok {
			return nil, &badRequest{"given", fmt.Errorf("%q is not a value; write it as NAME=VALUE", pair)}
		}
		given[name] = text
	}
	list, err := as(ctx).Asking.Entries(ctx, r.Report, r.Parameter, w, given)
	return handlers.GetEntries200JSONResponse(entries(list)), err
}

func (s *service) GetForm(ctx context.Context, r handlers.GetFormRequestObject) (handlers.GetFormResponseObject,
	error) {
	f, err := as(ctx).Asking.Form(ctx, r.Report)
	if err != nil {
		return nil, err
	}
	out := handlers.GetForm200JSONResponse{
		Defaults: f.Defaults,
		From:     f.From,
		Lists:    map[string][]api.Entry{},
		Periods:  map[string][]api.Preset{},
		Refused:  filled(f.Refused),
	}
	for id, list := range f.Lists {
		out.Lists[id] = entries(list)
	}
	for id, periods := range f.Periods {
		out.Periods[id] = presets(periods)
	}
	return out, nil
}

func presets(named []period.Named) []api.Preset {
	out := make([]api.Preset, len(named))
	for i, p := range named {
		out[i] = api.Preset{Name: p.Name, First: p.Range.First.String(), Last: p.Range.Last.String(), Says: p.Range.Long()}
	}
	return out
}

func (s *service) ResolveValues(ctx context.Context,
	r handlers.ResolveValuesRequestObject) (handlers.ResolveValuesResponseObject, error) {
	criteria, err := optionalNumber("criteria", "C-", r.Body.Criteria)
	if err != nil {
		return nil, err
	}
	res, err := as(ctx).Asking.Resolve(ctx, r.Report, r.Body.Values, asking.With{Criteria: criteria})
	if err != nil {
		return nil, err
	}
	out := handlers.ResolveValues200JSONResponse{
		Sentence: res.Sentence,
		Notes:    given(res.Notes),
		Facts:    facts(res.Facts),
		Faults:   valueFaults(res.Faults),
	}
	if res.Kept != nil {
		line := resultLine(*res.Kept)
		out.Kept = &line
	}
	return out, nil
}

func (s *service) GetShared(ctx context.Context, _ handlers.GetSharedRequestObject) (handlers.GetSharedResponseObject,
	error) {
	text, err := as(ctx).Catalog.Shared()
	return handlers.GetShared200ApplicationyamlResponse{Body: strings.NewReader(text), ContentLength: int64(len(text))},
		err
}

func (s *service) PutShared(ctx context.Context, r handlers.PutSharedRequestObject) (handlers.PutSharedResponseObject,
	error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"shared", err}
	}
	return handlers.PutShared204Response{}, as(ctx).Catalog.PutShared(ctx, text)
}
