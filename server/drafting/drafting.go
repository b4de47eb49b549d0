// Package drafting answers calls about what is being written: tables of sources,
// drafts, what is found of them, versions, and notices.
package drafting

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/drafting"
	"mantilla/model"
	"mantilla/server/answer"
	"mantilla/server/catalog"
	"mantilla/server/reading"
)

// Drafting answers calls about what is being written.
type Drafting struct {
	*answer.Service
	Catalog catalog.Catalog
	Results reading.Results
}

// ListTables answers GET /sources/{source}/tables.
func (s Drafting) ListTables(ctx context.Context,
	r handlers.ListTablesRequestObject) (handlers.ListTablesResponseObject, error) {
	tables, err := answer.As(ctx).Drafting.Tables(ctx, r.Source, answer.Value(r.Params.Search))
	out := handlers.ListTables200JSONResponse{}
	for _, t := range tables {
		table := api.SourceTable{Name: t.Name, View: t.View, UsedBy: t.UsedBy, Columns: []api.SourceColumn{}}
		if t.Rows >= 0 {
			table.Rows = &t.Rows
		}
		for _, c := range t.Columns {
			table.Columns = append(table.Columns, api.SourceColumn{Name: c.Name, Type: c.Type, Key: c.Key,
				Required: c.Required, References: answer.Given(c.References), List: answer.Given(t.Lists[c.Name]),
				ReadBy: answer.Optional(t.ReadBy[c.Name])})
		}
		out = append(out, table)
	}
	return out, err
}

// SampleTable answers GET /sources/{source}/tables/{table}/rows.
func (s Drafting) SampleTable(ctx context.Context,
	r handlers.SampleTableRequestObject) (handlers.SampleTableResponseObject, error) {
	rows, err := answer.As(ctx).Drafting.Sample(ctx, r.Source, r.Table, answer.Or(r.Params.Limit, 20))
	return handlers.SampleTable200JSONResponse{Columns: answer.List(rows.Columns), Rows: answer.List(rows.Rows)}, err
}

// ListNames answers GET /definitions/names.
func (s Drafting) ListNames(ctx context.Context, _ handlers.ListNamesRequestObject) (handlers.ListNamesResponseObject,
	error) {
	n, err := answer.As(ctx).Drafting.Names()
	lists, reports := map[string][]string{}, map[string][]string{}
	for id, list := range n.Lists {
		lists[id] = answer.List(list)
	}
	for id, list := range n.Reports {
		reports[id] = answer.List(list)
	}
	return handlers.ListNames200JSONResponse{Shared: answer.List(n.Shared), Lists: lists, Reports: reports,
		Categories: answer.List(n.Categories), Terms: answer.List(n.Terms)}, err
}

// FindFaults answers POST /definitions/findings.
func (s Drafting) FindFaults(ctx context.Context,
	r handlers.FindFaultsRequestObject) (handlers.FindFaultsResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "definition", Err: err}
	}
	f, err := answer.As(ctx).Drafting.Find(ctx, text, answer.Or(r.Params.Source, true))
	if err != nil {
		return nil, err
	}
	out := handlers.FindFaults200JSONResponse{Faults: []api.Place{}, Warnings: answer.List(f.Warnings),
		Effects: effects(f.Effects)}
	for _, fault := range f.Faults {
		out.Faults = append(out.Faults, api.Place{Line: fault.Line, Column: fault.Column, Message: fault.Message})
	}
	if f.Differences != nil {
		changes := answer.List(f.Differences.Words)
		out.Changes = &changes
	}
	if f.Definition != nil {
		report, err := s.Catalog.Report(ctx, f.Definition)
		if err != nil {
			return nil, err
		}
		out.Report = &report
	}
	return out, nil
}

func effects(all []drafting.Effect) []api.Effect {
	out := []api.Effect{}
	for _, e := range all {
		out = append(out, api.Effect{Kind: api.EffectKind(e.Kind), Id: e.ID, Name: e.Name, Owner: answer.Given(e.Owner),
			Unfit: answer.List(e.Unfit)})
	}
	return out
}

// FindSharedEffects answers POST /shared/effects.
func (s Drafting) FindSharedEffects(ctx context.Context,
	r handlers.FindSharedEffectsRequestObject) (handlers.FindSharedEffectsResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "shared", Err: err}
	}
	all, err := answer.As(ctx).Drafting.SharedEffects(ctx, text)
	out := handlers.FindSharedEffects200JSONResponse{}
	for _, e := range all {
		one := effects([]drafting.Effect{e.Effect})[0]
		one.Report = answer.Given(e.Report)
		out = append(out, one)
	}
	return out, err
}

// ListDependents answers GET /reports/{report}/dependents.
func (s Drafting) ListDependents(ctx context.Context,
	r handlers.ListDependentsRequestObject) (handlers.ListDependentsResponseObject, error) {
	all, err := answer.As(ctx).Drafting.Dependents(ctx, r.Report)
	return handlers.ListDependents200JSONResponse(effects(all)), err
}

func draftID(number int64) string { return fmt.Sprintf("D-%d", number) }

func line(ctx context.Context, d model.Draft) api.DraftLine {
	who := answer.As(ctx)
	return api.DraftLine{Id: draftID(d.Number), Report: d.Report, TryAs: d.ReportID(), Title: d.Title, Owner: d.Owner,
		Writers: answer.List(d.Writers), State: api.DraftLineState(d.State), Note: d.Note, NotedBy: answer.Given(d.NotedBy),
		ChangedAt: d.ChangedAt, ChangedBy: d.ChangedBy, Mine: who.Drafting.Writes(&d)}
}

func draft(ctx context.Context, d model.Draft) api.Draft {
	return api.Draft{
		Line:     line(ctx, d),
		Text:     d.Text,
		Base:     d.Base,
		Testers:  answer.Opening(d.Testers),
		Revision: d.Revision,
	}
}

// ListDrafts answers GET /drafts.
func (s Drafting) ListDrafts(ctx context.Context,
	_ handlers.ListDraftsRequestObject) (handlers.ListDraftsResponseObject, error) {
	all, err := answer.As(ctx).Drafting.Drafts(ctx)
	out := handlers.ListDrafts200JSONResponse{}
	for _, d := range all {
		out = append(out, line(ctx, d))
	}
	return out, err
}

// BeginDraft answers POST /drafts.
func (s Drafting) BeginDraft(ctx context.Context,
	r handlers.BeginDraftRequestObject) (handlers.BeginDraftResponseObject, error) {
	b := r.Body
	d, err := answer.As(ctx).Drafting.Begin(ctx, drafting.Beginning{Report: answer.Value(b.Report),
		Title: strings.TrimSpace(answer.Value(b.Title)), Category: answer.Value(b.Category),
		Source: answer.Value(b.Source), Table: answer.Value(b.Table), Columns: answer.Value(b.Columns),
		Copy: answer.Value(b.Copy), View: answer.Value(b.View)})
	return handlers.BeginDraft201JSONResponse(draft(ctx, d)), err
}

// number reads a draft's id.
func number(id string) (int64, error) { return answer.Number("draft", "D-", id) }

// GetDraft answers GET /drafts/{draft}.
func (s Drafting) GetDraft(ctx context.Context, r handlers.GetDraftRequestObject) (handlers.GetDraftResponseObject,
	error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	d, err := answer.As(ctx).Drafting.Draft(ctx, n)
	return handlers.GetDraft200JSONResponse(draft(ctx, d)), err
}

// PutDraft answers PUT /drafts/{draft}.
func (s Drafting) PutDraft(ctx context.Context, r handlers.PutDraftRequestObject) (handlers.PutDraftResponseObject,
	error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	revision, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	change := drafting.Change{Text: r.Body.Text, Revision: revision, Testers: answer.Openings(r.Body.Testers)}
	if r.Body.Writers != nil {
		change.Writers = slices.Concat([]string{}, *r.Body.Writers)
	}
	d, err := answer.As(ctx).Drafting.PutDraft(ctx, n, change)
	return handlers.PutDraft200JSONResponse(draft(ctx, d)), err
}

// DeleteDraft answers DELETE /drafts/{draft}.
func (s Drafting) DeleteDraft(ctx context.Context,
	r handlers.DeleteDraftRequestObject) (handlers.DeleteDraftResponseObject, error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	return handlers.DeleteDraft204Response{}, answer.As(ctx).Drafting.DeleteDraft(ctx, n)
}

// HandInDraft answers POST /drafts/{draft}/hand-in.
func (s Drafting) HandInDraft(ctx context.Context,
	r handlers.HandInDraftRequestObject) (handlers.HandInDraftResponseObject, error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	d, err := answer.As(ctx).Drafting.HandIn(ctx, n, answer.Value(r.Body.Note))
	return handlers.HandInDraft200JSONResponse(draft(ctx, d)), err
}

// GiveBackDraft answers POST /drafts/{draft}/give-back.
func (s Drafting) GiveBackDraft(ctx context.Context,
	r handlers.GiveBackDraftRequestObject) (handlers.GiveBackDraftResponseObject, error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	d, err := answer.As(ctx).Drafting.GiveBack(ctx, n, answer.Value(r.Body.Note))
	return handlers.GiveBackDraft200JSONResponse(draft(ctx, d)), err
}

// TakeDraft answers POST /drafts/{draft}/take.
func (s Drafting) TakeDraft(ctx context.Context, r handlers.TakeDraftRequestObject) (handlers.TakeDraftResponseObject,
	error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	d, err := answer.As(ctx).Drafting.Take(ctx, n, drafting.Taking{Note: answer.Value(r.Body.Note),
		Open: answer.Openings(r.Body.Open), Over: answer.Value(r.Body.Over), Untried: answer.Value(r.Body.Untried)})
	if err != nil {
		return nil, err
	}
	body, err := s.Catalog.Report(ctx, d)
	return handlers.TakeDraft200JSONResponse(body), err
}

// PreviewDraft answers POST /drafts/{draft}/preview.
func (s Drafting) PreviewDraft(ctx context.Context,
	r handlers.PreviewDraftRequestObject) (handlers.PreviewDraftResponseObject, error) {
	n, err := number(r.Draft)
	if err != nil {
		return nil, err
	}
	p, err := answer.As(ctx).Drafting.Preview(ctx, n, answer.Value(r.Body.View), r.Body.Values)
	if err != nil {
		return nil, err
	}
	laid, err := s.Results.Laid(ctx, p.Result, p.Read, p.Sheet)
	out := handlers.PreviewDraft200JSONResponse{Sheet: laid, Sentence: p.Rows.Sentence, Cut: p.Rows.Cut,
		Statements: []api.Statement{}}
	for _, st := range p.Rows.Statements {
		out.Statements = append(out.Statements, answer.Statement(st))
	}
	return out, err
}
