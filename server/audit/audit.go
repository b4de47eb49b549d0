// Package audit answers calls about who did what.
package audit

import (
	"context"
	"errors"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/audit"
	"mantilla/model"
	"mantilla/server/answer"
)

// Audit answers calls about who did what.
type Audit struct{ *answer.Service }

// ListAudit answers GET /audit.
func (s Audit) ListAudit(ctx context.Context, r handlers.ListAuditRequestObject) (handlers.ListAuditResponseObject,
	error) {
	p := r.Params
	of := answer.As(ctx).Audit
	lines, err := of.Search(ctx, model.AuditSearch{Before: answer.Value(p.Before), Person: answer.Value(p.Person),
		Kind: answer.Value(p.Kind), ID: answer.Value(p.Id), Act: answer.Value(p.Act), Face: string(answer.Value(p.Face)),
		Outcome: string(answer.Value(p.Outcome)), Text: answer.Value(p.Text), Since: answer.Value(p.Since),
		Until: answer.Value(p.Until), Limit: answer.Limit(p.Limit)})
	out := handlers.ListAudit200JSONResponse{}
	for _, l := range lines {
		out = append(out, api.AuditLine{Number: l.Number, At: l.At, Person: answer.Given(l.Person),
			Face: api.AuditLineFace(l.Face), Address: answer.Given(l.Address), Request: answer.Given(l.Request), Act: l.Act,
			Says: of.Says(l.Act), Kind: answer.Given(l.Kind), Id: answer.Given(l.ID), Part: answer.Given(l.Part),
			Before: answer.Given(l.Before), After: answer.Given(l.After), Outcome: api.AuditLineOutcome(l.Outcome),
			Why: answer.Given(l.Why), Digest: l.Digest})
	}
	return out, err
}

// CheckAudit answers GET /audit/check.
func (s Audit) CheckAudit(ctx context.Context, _ handlers.CheckAuditRequestObject) (handlers.CheckAuditResponseObject,
	error) {
	c, err := answer.As(ctx).Audit.Check(ctx)
	out := handlers.CheckAudit200JSONResponse{Whole: err == nil, Lines: c.Lines, Erased: c.Erased, First: c.First,
		Last:   c.Last,
		Digest: c.Digest}
	var broken *audit.Broken
	if errors.As(err, &broken) {
		out.Fault, err = answer.Given(broken.Error()), nil
	}
	return out, err
}

// ExportAudit answers GET /audit/file.
func (s Audit) ExportAudit(ctx context.Context,
	r handlers.ExportAuditRequestObject) (handlers.ExportAuditResponseObject, error) {
	lines, err := answer.As(ctx).Audit.Export(ctx, answer.Value(r.Params.Behind))
	if err != nil {
		return nil, err
	}
	return handlers.ExportAudit200ApplicationxNdjsonResponse{Body: lines,
		Headers: handlers.ExportAudit200ResponseHeaders{ContentDisposition: answer.Attachment("audit.jsonl")}}, nil
}

// ListReaders answers GET /results/{result}/readers.
func (s Audit) ListReaders(ctx context.Context,
	r handlers.ListReadersRequestObject) (handlers.ListReadersResponseObject, error) {
	n, err := answer.Number("result", "R-", r.Result)
	if err != nil {
		return nil, err
	}
	of := answer.As(ctx).Audit
	all, err := of.Readers(ctx, answer.ResultID(n))
	if err == nil && len(all) == 0 {
		_, err = answer.As(ctx).Reading.Result(ctx, n) // there may be no such
	}
	out := handlers.ListReaders200JSONResponse{}
	for _, x := range all {
		out = append(out, api.Reading{Person: answer.Given(x.Person), Face: api.ReadingFace(x.Face), Act: x.Act,
			Says: of.Says(x.Act), Times: x.Times, First: x.First, Last: x.Last})
	}
	return out, err
}
