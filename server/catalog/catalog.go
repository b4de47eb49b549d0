// Package catalog answers calls about sources, reports and their forms.
package catalog

import (
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/server/answer"
	"mantilla/server/shelf"

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

// Catalog answers calls about sources, reports and their forms.
type Catalog struct{ *answer.Service }

// GetService answers GET /service: what this service is, which day it has, and the named ranges of days.
func (s Catalog) GetService(context.Context, handlers.GetServiceRequestObject) (handlers.GetServiceResponseObject,
	error) {
	settings := s.Library.Settings()
	out := api.Service{Name: settings.Name, Version: s.Version, Zone: settings.Zone.String(),
		Today: openapi.Date{Time: s.Library.Calendar().Today.Time()}, Presets: presets(s.Library.Calendar().Presets())}
	if s.Provider != nil {
		out.Provider = answer.Given(s.Provider.Label())
	}
	out.Passwords = answer.Truth(s.Local)
	out.Passkeys = answer.Given(s.Library.Door().PasskeysAt())
	return handlers.GetService200JSONResponse(out), nil
}

// GetCatalog answers GET /catalog: the reports that meet a search, and all categories with counts.
func (s Catalog) GetCatalog(ctx context.Context,
	r handlers.GetCatalogRequestObject) (handlers.GetCatalogResponseObject, error) {
	entries, categories,
		err := answer.As(ctx).Catalog.Catalog(ctx, answer.Value(r.Params.Search), answer.Value(r.Params.Category))
	if err != nil {
		return nil, err
	}
	out := api.Catalog{Categories: []api.Category{}, Reports: []api.CatalogLine{}}
	out.Resources = []api.Resource{}
	if search := answer.Value(r.Params.Search); search != "" && answer.Value(r.Params.Category) == "" {
		for _, found := range answer.As(ctx).Shelf.List("", search) {
			out.Resources = append(out.Resources, shelf.Resource(found))
		}
	}
	if out.Recent, err = answer.As(ctx).Care.Recent(ctx); err != nil {
		return nil, err
	}
	if out.Popular, err = answer.As(ctx).Care.Popular(ctx); err != nil {
		return nil, err
	}
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
			Broken:   answer.Given(e.Broken),
			Found:    answer.Given(e.Found),

			Favourite: marked(e.Marked),
			Closed:    marked(e.Closed),
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

// GetReport answers GET /reports/{report}: A report with its parameters and views.
func (s Catalog) GetReport(ctx context.Context, r handlers.GetReportRequestObject) (handlers.GetReportResponseObject,
	error) {
	d, err := answer.As(ctx).Catalog.Report(r.Report)
	if err != nil {
		return nil, err
	}
	tag := answer.Quoted(d.Version)
	if answer.CallOf(ctx).Has(tag) {
		return answer.NotModified(tag), nil
	}
	body, err := s.Report(ctx, d)
	return handlers.GetReport200JSONResponse{Body: body, Headers: handlers.GetReport200ResponseHeaders{ETag: &tag}}, err
}

// Report is a definition as the contract has it.
func (s Catalog) Report(ctx context.Context, d *report.Definition) (api.Report, error) {
	out := api.Report{Id: d.ID, Title: d.Title, Category: d.Category, Depth: d.Depth, About: d.About, Guide: d.Guide,
		Source:  d.Source,
		Version: d.Version, Versions: []api.Version{}, Companions: []api.Companion{}, Parameters: []api.Parameter{},
		Views: []api.View{}}
	if successor, gone := answer.As(ctx).Catalog.Retired(d.ID); gone {
		out.Retired, out.Successor = &gone, answer.Given(successor)
	}
	versions, err := answer.As(ctx).Catalog.Versions(ctx, d.ID)
	for _, v := range versions {
		out.Versions = append(out.Versions, Version(v))
	}
	for _, id := range d.Companions {
		if c, err := answer.As(ctx).Catalog.Report(id); err == nil { // one that is not in the catalog yet is not offered
			out.Companions = append(out.Companions, api.Companion{Id: c.ID, Title: c.Title, Depth: c.Depth})
		}
	}
	for _, p := range d.Parameters {
		out.Parameters = append(out.Parameters, parameter(p))
	}
	if slices.Contains(answer.As(ctx).Rights(), "write") && err == nil {
		var warnings []string
		if warnings, err = answer.As(ctx).Catalog.Warnings(ctx, d); len(warnings) > 0 {
			out.Warnings = &warnings
		}
	}
	for _, v := range d.Views {
		out.Views = append(out.Views, api.View{Id: v.ID, Title: v.Title, Dataset: v.Of})
	}
	return out, err
}

// Version is a version of a report as the contract has it.
func Version(v model.Version) api.Version {
	out := api.Version{Number: v.Number, Version: v.Version, At: v.At, By: v.By, Note: v.Note}
	if v.Back > 0 {
		out.Back = &v.Back
	}
	return out
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
			Kind:    answer.Filled(e.Kind),
			Parent:  answer.Filled(e.Parent),
			Detail:  answer.Filled(e.Detail),
			Current: e.Current,
			Out:     marked(e.Out),
		}
	}
	return out
}

// GetDefinition answers GET /reports/{report}/definition: the definition as its author wrote it.
func (s Catalog) GetDefinition(ctx context.Context,
	r handlers.GetDefinitionRequestObject) (handlers.GetDefinitionResponseObject, error) {
	d, err := answer.As(ctx).Catalog.Report(r.Report)
	if err != nil {
		return nil, err
	}
	tag := answer.Quoted(d.Version)
	return handlers.GetDefinition200ApplicationyamlResponse{Body: strings.NewReader(d.Text),
		ContentLength: int64(len(d.Text)),
		Headers:       handlers.GetDefinition200ResponseHeaders{ETag: &tag}}, nil
}

// CheckDefinition answers POST /definitions/check: check a definition without taking it into the catalog.
func (s Catalog) CheckDefinition(ctx context.Context,
	r handlers.CheckDefinitionRequestObject) (handlers.CheckDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "definition", Err: err}
	}
	d, err := answer.As(ctx).Catalog.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	body, err := s.Report(ctx, d)
	return handlers.CheckDefinition200JSONResponse(body), err
}

// PutDefinition answers PUT /reports/{report}/definition.
func (s Catalog) PutDefinition(ctx context.Context,
	r handlers.PutDefinitionRequestObject) (handlers.PutDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "definition", Err: err}
	}
	d, err := answer.As(ctx).Catalog.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	if d.ID != r.Report {
		return nil, &answer.BadRequest{
			Field: "report",
			Err:   errors.New("the definition is of the report " + d.ID + ", not " + r.Report),
		}
	}
	was := strings.Trim(answer.Value(r.Params.IfMatch), `"`)
	if d, err = answer.As(ctx).Drafting.PutReport(ctx, text, catalog.Put{Was: was, Note: answer.Value(r.Params.Note)},
		answer.Value(r.Params.Untried)); err != nil {
		return nil, err
	}
	body, err := s.Report(ctx, d)
	tag := answer.Quoted(d.Version)
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

// GetEntries answers GET /reports/{report}/parameters/{parameter}/entries.
func (s Catalog) GetEntries(ctx context.Context,
	r handlers.GetEntriesRequestObject) (handlers.GetEntriesResponseObject, error) {
	w := lookup.Wish{Search: answer.Value(r.Params.Search), Codes: answer.Value(r.Params.Code), Limit: 50}
	if r.Params.Limit != nil {
		w.Limit = min(max(*r.Params.Limit, 1), 1000)
	}
	given := map[string]string{}
	for _, pair := range answer.Value(r.Params.Given) {
		name, text, ok := strings.Cut(pair, "=")
		if !ok {
			return nil, &answer.BadRequest{Field: "given", Err: fmt.Errorf("%q is not a value; write it as NAME=VALUE", pair)}
		}
		given[name] = text
	}
	list, err := answer.As(ctx).Asking.Entries(ctx, r.Report, r.Parameter, w, given)
	return handlers.GetEntries200JSONResponse(entries(list)), err
}

// GetForm answers GET /reports/{report}/form: what the form begins with for this person, and its lists.
func (s Catalog) GetForm(ctx context.Context, r handlers.GetFormRequestObject) (handlers.GetFormResponseObject,
	error) {
	f, err := answer.As(ctx).Asking.Form(ctx, r.Report)
	if err != nil {
		return nil, err
	}
	answer.As(ctx).Care.Visited(ctx, r.Report, model.VisitForm)
	out := handlers.GetForm200JSONResponse{
		Defaults: f.Defaults,
		From:     f.From,
		Lists:    map[string][]api.Entry{},
		Periods:  map[string][]api.Preset{},
		Refused:  answer.Filled(f.Refused),
	}
	out.FilesOf = answer.Given(f.FilesOf)
	if f.Fault != nil {
		out.SourceFault, out.SourceSilentSince = answer.Given(f.Fault.Error()), answer.Moment(f.Silent)
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

// ResolveValues answers POST /reports/{report}/resolve.
func (s Catalog) ResolveValues(ctx context.Context,
	r handlers.ResolveValuesRequestObject) (handlers.ResolveValuesResponseObject, error) {
	criteria, err := answer.OptionalNumber("criteria", "C-", r.Body.Criteria)
	if err != nil {
		return nil, err
	}
	res, err := answer.As(ctx).Asking.Resolve(ctx, r.Report, r.Body.Values, asking.With{Criteria: criteria})
	if err != nil {
		return nil, err
	}
	out := handlers.ResolveValues200JSONResponse{
		Sentence: res.Sentence,
		Notes:    answer.List(res.Notes),
		Facts:    answer.Facts(res.Facts),
		Faults:   answer.Faults(res.Faults),
	}
	if res.Kept != nil {
		line := answer.ResultLine(*res.Kept)
		out.Kept = &line
	}
	return out, nil
}

// GetShared answers GET /shared: the parameters that are declared once for the whole catalog.
func (s Catalog) GetShared(ctx context.Context, _ handlers.GetSharedRequestObject) (handlers.GetSharedResponseObject,
	error) {
	text, err := answer.As(ctx).Catalog.Shared()
	return handlers.GetShared200ApplicationyamlResponse{Body: strings.NewReader(text), ContentLength: int64(len(text))},
		err
}

// PutShared answers PUT /shared: change the shared parameters; refused when a report would no longer be right.
func (s Catalog) PutShared(ctx context.Context, r handlers.PutSharedRequestObject) (handlers.PutSharedResponseObject,
	error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "shared", Err: err}
	}
	return handlers.PutShared204Response{}, answer.As(ctx).Drafting.PutShared(ctx, text)
}
