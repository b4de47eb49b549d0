// Package meaning answers calls about the glossary and where figures come from.
package meaning

import (
	"context"
	"slices"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/shown"
	"mantilla/library/meaning"
	"mantilla/model"
	"mantilla/server/answer"
)

// Meaning answers calls about the glossary and where figures come from.
type Meaning struct{ *answer.Service }

func term(t model.Term, by []meaning.Column) api.Term {
	out := api.Term{Id: t.ID, Name: t.Name, Also: answer.List(t.Also), Meaning: t.Meaning, Owner: answer.Given(t.Owner),
		Revision: t.Revision, ChangedAt: t.ChangedAt, ChangedBy: t.ChangedBy, Columns: []api.TermColumn{}}
	for _, c := range by {
		out.Columns = append(out.Columns,
			api.TermColumn{Report: c.Report, Dataset: c.Dataset, Column: c.ID, Label: c.Label})
	}
	return out
}

// ListTerms answers GET /glossary.
func (s Meaning) ListTerms(ctx context.Context, r handlers.ListTermsRequestObject) (handlers.ListTermsResponseObject,
	error) {
	out := handlers.ListTerms200JSONResponse{}
	for _, t := range answer.As(ctx).Meaning.Glossary(answer.Value(r.Params.Search)) {
		out = append(out, term(t.Term, t.By))
	}
	return out, nil
}

// PutTerm answers PUT /glossary/{term}.
func (s Meaning) PutTerm(ctx context.Context, r handlers.PutTermRequestObject) (handlers.PutTermResponseObject, error) {
	revision, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	t, err := answer.As(ctx).Meaning.PutTerm(ctx,
		model.Term{ID: r.Term, Name: r.Body.Name, Also: answer.Value(r.Body.Also),
			Meaning: r.Body.Meaning, Owner: answer.Value(r.Body.Owner), Revision: revision})
	return handlers.PutTerm200JSONResponse(term(t, nil)), err
}

// DeleteTerm answers DELETE /glossary/{term}.
func (s Meaning) DeleteTerm(ctx context.Context,
	r handlers.DeleteTermRequestObject) (handlers.DeleteTermResponseObject, error) {
	return handlers.DeleteTerm204Response{}, answer.As(ctx).Meaning.DeleteTerm(ctx, r.Term)
}

// ExplainReport answers GET /reports/{report}/columns.
func (s Meaning) ExplainReport(ctx context.Context,
	r handlers.ExplainReportRequestObject) (handlers.ExplainReportResponseObject, error) {
	o, err := answer.As(ctx).Meaning.OfReport(ctx, r.Report)
	return handlers.ExplainReport200JSONResponse(origin(o)), err
}

// ExplainResult answers GET /results/{result}/columns.
func (s Meaning) ExplainResult(ctx context.Context,
	r handlers.ExplainResultRequestObject) (handlers.ExplainResultResponseObject, error) {
	number, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	o, err := answer.As(ctx).Meaning.OfResult(ctx, number)
	return handlers.ExplainResult200JSONResponse(origin(o)), err
}

func origin(o meaning.Origin) api.Origin {
	out := api.Origin{Columns: []api.ColumnOrigin{}, Statements: []api.Statement{}, Unknown: answer.Given(o.Unknown)}
	for _, c := range o.Columns {
		column := api.ColumnOrigin{Dataset: c.Dataset, Id: c.ID, Heading: shown.Heading(*c.Column),
			Kind: c.Kind.String(), About: c.About, Formula: answer.Given(c.Formula), MadeOf: answer.List(c.MadeOf),
			Sql: answer.Given(c.SQL), Tables: answer.List(c.Tables), Personal: answer.Given(c.Personal.Told())}
		if t := c.Term; t != nil {
			column.Term = &api.OriginTerm{Id: t.ID, Name: t.Name, Also: answer.List(t.Also), Meaning: t.Meaning,
				Owner: answer.Given(t.Owner)}
		}
		out.Columns = append(out.Columns, column)
		if st, ok := o.Statements[c.Dataset]; ok && !slices.ContainsFunc(out.Statements,
			func(told api.Statement) bool { return told.Dataset == c.Dataset }) {
			out.Statements = append(out.Statements, answer.Statement(st))
		}
	}
	return out
}
