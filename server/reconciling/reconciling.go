// Package reconciling answers calls about statements and what is reconciled with them.
package reconciling

import (
	"bytes"
	"context"
	"io"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/reconcile"
	"mantilla/library/reconciling"
	"mantilla/model"
	"mantilla/server/answer"
	"mantilla/server/capture"
)

// Reconciling answers calls about statements and what is reconciled with them.
type Reconciling struct{ *answer.Service }

const statementPrefix = "S-"

// ListStatements answers GET /reports/{report}/statements.
func (s Reconciling) ListStatements(ctx context.Context,
	r handlers.ListStatementsRequestObject) (handlers.ListStatementsResponseObject, error) {
	declared, kept, err := answer.As(ctx).Reconciling.Statements(ctx, r.Report)
	if err != nil {
		return nil, err
	}
	out := handlers.ListStatements200JSONResponse{Kept: []api.StatementFile{}}
	out.Declared = make([]struct {
		Id    string `json:"id"`
		Title string `json:"title"`
	}, len(declared))
	for i, d := range declared {
		out.Declared[i].Id, out.Declared[i].Title = d.ID, d.Title
	}
	for _, k := range kept {
		out.Kept = append(out.Kept, statement(k))
	}
	return out, nil
}

func statement(s model.Statement) api.StatementFile {
	return api.StatementFile{Id: answer.StatementID(s.Number), Report: s.Report, As: s.Declared, Name: s.Name,
		Digest: s.Digest,
		Lines:  s.Lines, First: s.First, Until: s.Until, Total: s.Total, ReadAt: s.At, ReadBy: s.By}
}

// AddStatement answers POST /reports/{report}/statements.
func (s Reconciling) AddStatement(ctx context.Context,
	r handlers.AddStatementRequestObject) (handlers.AddStatementResponseObject, error) {
	data, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "file", Err: err}
	}
	kept, err := answer.As(ctx).Reconciling.AddStatement(ctx, r.Report, answer.Value(r.Params.As), r.Params.Name, data)
	if err != nil {
		return nil, err
	}
	return handlers.AddStatement201JSONResponse(statement(kept)), nil
}

// DeleteStatement answers DELETE /statements/{statement}.
func (s Reconciling) DeleteStatement(ctx context.Context,
	r handlers.DeleteStatementRequestObject) (handlers.DeleteStatementResponseObject, error) {
	number, err := answer.Number("statement", statementPrefix, r.Statement)
	if err != nil {
		return nil, err
	}
	return handlers.DeleteStatement204Response{}, answer.As(ctx).Reconciling.DeleteStatement(ctx, number)
}

// FetchStatement answers GET /statements/{statement}/file.
func (s Reconciling) FetchStatement(ctx context.Context,
	r handlers.FetchStatementRequestObject) (handlers.FetchStatementResponseObject, error) {
	number, err := answer.Number("statement", statementPrefix, r.Statement)
	if err != nil {
		return nil, err
	}
	kept, data, err := answer.As(ctx).Reconciling.Statement(ctx, number)
	if err != nil {
		return nil, err
	}
	return handlers.FetchStatement200ApplicationoctetStreamResponse{Body: bytes.NewReader(data),
		ContentLength: int64(len(data)), Headers: handlers.FetchStatement200ResponseHeaders{
			ContentDisposition: answer.Attachment(kept.Name), ContentSecurityPolicy: answer.Fenced()}}, nil
}

// Reconcile answers POST /reconciliations.
func (s Reconciling) Reconcile(ctx context.Context,
	r handlers.ReconcileRequestObject) (handlers.ReconcileResponseObject, error) {
	c := reconciling.Reconciliation{Until: answer.Value(r.Body.Until)}
	var err error
	if c.Result, err = answer.Number("result", "R-", r.Body.Result); err != nil {
		return nil, err
	}
	if c.Statement, err = answer.Number("statement", statementPrefix, r.Body.Statement); err != nil {
		return nil, err
	}
	if c.Earlier, err = answer.OptionalNumber("earlier", "R-", r.Body.Earlier); err != nil {
		return nil, err
	}
	if r.Body.Chosen != nil {
		for _, choice := range *r.Body.Chosen {
			c.Chosen = append(c.Chosen, reconcile.Choice{Ours: choice.Ours, Theirs: choice.Lines})
		}
	}
	run, err := answer.As(ctx).Reconciling.Reconcile(ctx, c)
	if err != nil {
		return nil, err
	}
	return handlers.Reconcile201JSONResponse(capture.Out(run, s.Library.Settings().Now())), nil
}

// GetReconciliation answers GET /results/{result}/reconciliation.
func (s Reconciling) GetReconciliation(ctx context.Context,
	r handlers.GetReconciliationRequestObject) (handlers.GetReconciliationResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	o, err := answer.As(ctx).Reconciling.OpenItems(ctx, number)
	if err != nil {
		return nil, err
	}
	out := handlers.GetReconciliation200JSONResponse{Result: answer.ResultID(o.Result), More: o.More,
		Statement: answer.StatementID(o.Against.Statement), Name: o.Against.Name, Until: o.Against.Until,
		Chosen: []api.MatchChoice{}, Ours: items(o.Ours), Lines: items(o.Lines)}
	if o.Earlier > 0 {
		earlier := answer.ResultID(o.Earlier)
		out.Earlier = &earlier
	}
	for _, c := range o.Against.Chosen {
		out.Chosen = append(out.Chosen, api.MatchChoice{Ours: answer.List(c.Ours), Lines: answer.List(c.Theirs)})
	}
	return out, nil
}

func items(of []reconciling.Item) []api.OpenItem {
	out := make([]api.OpenItem, len(of))
	for i, it := range of {
		out[i] = api.OpenItem{Number: it.Number, Became: it.Class, Amount: it.Amount, Day: answer.Given(it.Day),
			Reference: answer.Given(it.Reference), Text: answer.Given(it.Text), Since: answer.Given(it.Since)}
		if it.Match > 0 {
			out[i].Match = &it.Match
		}
	}
	return out
}
