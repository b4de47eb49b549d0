package drafting

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/model"
	"mantilla/server/answer"
)

// RetireReport answers PUT /reports/{report}/retirement.
func (s Drafting) RetireReport(ctx context.Context,
	r handlers.RetireReportRequestObject) (handlers.RetireReportResponseObject, error) {
	return handlers.RetireReport204Response{},
		answer.As(ctx).Drafting.Retire(ctx, r.Report, answer.Value(r.Body.Successor))
}

// ReinstateReport answers DELETE /reports/{report}/retirement.
func (s Drafting) ReinstateReport(ctx context.Context,
	r handlers.ReinstateReportRequestObject) (handlers.ReinstateReportResponseObject, error) {
	return handlers.ReinstateReport204Response{}, answer.As(ctx).Catalog.Reinstate(ctx, r.Report)
}

// WriteFeedback answers POST /reports/{report}/feedback.
func (s Drafting) WriteFeedback(ctx context.Context,
	r handlers.WriteFeedbackRequestObject) (handlers.WriteFeedbackResponseObject, error) {
	result, err := answer.OptionalNumber("result", "R-", r.Body.Result)
	if err != nil {
		return nil, err
	}
	return handlers.WriteFeedback204Response{}, answer.As(ctx).Drafting.Write(ctx, r.Report, result, r.Body.Says)
}

func feedback(f model.Feedback) api.Feedback {
	out := api.Feedback{Number: f.Number, Report: f.Report, Person: f.Person, At: f.At, Says: f.Says,
		State: api.FeedbackState(f.State), Answer: f.Answer, AnsweredBy: answer.Given(f.AnsweredBy),
		AnsweredAt: answer.Moment(f.AnsweredAt)}
	if f.Result > 0 {
		id := answer.ResultID(f.Result)
		out.Result = &id
	}
	return out
}

// ListFeedback answers GET /feedback.
func (s Drafting) ListFeedback(ctx context.Context,
	_ handlers.ListFeedbackRequestObject) (handlers.ListFeedbackResponseObject, error) {
	all, err := answer.As(ctx).Drafting.Feedback(ctx)
	out := handlers.ListFeedback200JSONResponse{}
	for _, f := range all {
		out = append(out, feedback(f))
	}
	return out, err
}

// AnswerFeedback answers PUT /feedback/{number}.
func (s Drafting) AnswerFeedback(ctx context.Context,
	r handlers.AnswerFeedbackRequestObject) (handlers.AnswerFeedbackResponseObject, error) {
	f, err := answer.As(ctx).Drafting.Answer(ctx, r.Number, string(r.Body.State), r.Body.Answer)
	return handlers.AnswerFeedback200JSONResponse(feedback(f)), err
}
