// Package care answers calls about who looks after reports and who asks for them.
package care

import (
	"context"

	openapi "github.com/oapi-codegen/runtime/types"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/period"
	"mantilla/model"
	"mantilla/server/answer"
)

// Care answers calls about who looks after reports and who asks for them.
type Care struct{ *answer.Service }

func (s Care) care(c model.Care) api.Care {
	out := api.Care{Report: c.Report, Owner: answer.Given(c.Owner), Listed: c.Listed,
		Due: c.Due(s.Library.Calendar().Today)}
	if c.Review {
		out.ReviewOn = &openapi.Date{Time: c.ReviewOn.Time()}
	}
	if c.Every > 0 {
		out.EveryMonths = &c.Every
	}
	return out
}

// ListCares answers GET /cares.
func (s Care) ListCares(ctx context.Context, _ handlers.ListCaresRequestObject) (handlers.ListCaresResponseObject,
	error) {
	all, err := answer.As(ctx).Care.Cares()
	out := handlers.ListCares200JSONResponse{}
	for _, c := range all {
		out = append(out, s.care(c))
	}
	return out, err
}

// GetCare answers GET /reports/{report}/care.
func (s Care) GetCare(ctx context.Context, r handlers.GetCareRequestObject) (handlers.GetCareResponseObject, error) {
	c, err := answer.As(ctx).Care.Care(r.Report)
	return handlers.GetCare200JSONResponse(s.care(c)), err
}

// PutCare answers PUT /reports/{report}/care.
func (s Care) PutCare(ctx context.Context, r handlers.PutCareRequestObject) (handlers.PutCareResponseObject, error) {
	c := model.Care{Report: r.Report, Owner: answer.Value(r.Body.Owner), Every: answer.Value(r.Body.EveryMonths),
		Listed: r.Body.Listed}
	if r.Body.ReviewOn != nil {
		day, err := period.ParseDay(r.Body.ReviewOn.Format("2006-01-02"))
		if err != nil {
			return nil, &answer.BadRequest{Field: "reviewOn", Err: err}
		}
		c.Review, c.ReviewOn = true, day
	}
	c, err := answer.As(ctx).Care.PutCare(ctx, c)
	return handlers.PutCare200JSONResponse(s.care(c)), err
}

// ReviewReport answers POST /reports/{report}/reviewed.
func (s Care) ReviewReport(ctx context.Context,
	r handlers.ReviewReportRequestObject) (handlers.ReviewReportResponseObject, error) {
	c, err := answer.As(ctx).Care.Reviewed(ctx, r.Report)
	return handlers.ReviewReport200JSONResponse(s.care(c)), err
}

// AskForReport answers POST /reports/{report}/requests.
func (s Care) AskForReport(ctx context.Context,
	r handlers.AskForReportRequestObject) (handlers.AskForReportResponseObject, error) {
	return handlers.AskForReport204Response{}, answer.As(ctx).Care.Ask(ctx, r.Report, answer.Value(r.Body.Says))
}

func request(r model.Request) api.Request {
	return api.Request{Number: r.Number, Report: r.Report, Person: r.Person, At: r.At, Says: r.Says,
		State: api.RequestState(r.State), Answer: r.Answer, AnsweredBy: answer.Given(r.AnsweredBy),
		AnsweredAt: answer.Moment(r.AnsweredAt)}
}

// ListRequests answers GET /requests.
func (s Care) ListRequests(ctx context.Context,
	_ handlers.ListRequestsRequestObject) (handlers.ListRequestsResponseObject, error) {
	all, err := answer.As(ctx).Care.Requests(ctx)
	out := handlers.ListRequests200JSONResponse{}
	for _, r := range all {
		out = append(out, request(r))
	}
	return out, err
}

// AnswerRequest answers PUT /requests/{number}.
func (s Care) AnswerRequest(ctx context.Context,
	r handlers.AnswerRequestRequestObject) (handlers.AnswerRequestResponseObject, error) {
	done, err := answer.As(ctx).Care.Answer(ctx, r.Number, r.Body.Grant, answer.Value(r.Body.Answer))
	return handlers.AnswerRequest200JSONResponse(request(done)), err
}

// HandOver answers POST /people/{person}/hand-over.
func (s Care) HandOver(ctx context.Context, r handlers.HandOverRequestObject) (handlers.HandOverResponseObject, error) {
	moved, err := answer.As(ctx).Care.HandOver(ctx, r.Person, r.Body.To)
	return handlers.HandOver200JSONResponse(answer.List(moved)), err
}
