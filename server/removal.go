package server

import (
	"context"
	"fmt"
	"time"

	"github.com/gin-gonic/gin"

	"mantilla/api"
	"mantilla/library/asking"
)

func (s *service) ListSessions(ctx context.Context, r api.ListSessionsRequestObject) (api.ListSessionsResponseObject, error) {
	all, err := as(ctx).Sessions(ctx, value(r.Params.Person), secret(ctx.(*gin.Context)))
	out := api.ListSessions200JSONResponse{}
	for _, x := range all {
		out = append(out, api.Session{Id: x.ID, Kind: api.SessionKind(x.Kind), Label: x.Label, MadeAt: x.Made, EndsAt: x.Ends, Present: x.Present})
	}
	return out, err
}

func (s *service) EndSession(ctx context.Context, r api.EndSessionRequestObject) (api.EndSessionResponseObject, error) {
	return api.EndSession204Response{}, as(ctx).EndSession(ctx, value(r.Params.Person), r.Session)
}

func (s *service) DeletePerson(ctx context.Context, r api.DeletePersonRequestObject) (api.DeletePersonResponseObject, error) {
	return api.DeletePerson204Response{}, as(ctx).DeletePerson(ctx, r.Person)
}

func (s *service) DeleteGroup(ctx context.Context, r api.DeleteGroupRequestObject) (api.DeleteGroupResponseObject, error) {
	return api.DeleteGroup204Response{}, as(ctx).DeleteGroup(ctx, r.Group)
}

func (s *service) DeleteSource(ctx context.Context, r api.DeleteSourceRequestObject) (api.DeleteSourceResponseObject, error) {
	return api.DeleteSource204Response{}, as(ctx).Catalog.DeleteSource(ctx, r.Source)
}

func (s *service) DeleteReport(ctx context.Context, r api.DeleteReportRequestObject) (api.DeleteReportResponseObject, error) {
	return api.DeleteReport204Response{}, as(ctx).Catalog.DeleteReport(ctx, r.Report)
}

func lookedTill(m asking.Mark, zone *time.Location) api.Mark {
	return api.Mark{Id: fmt.Sprintf("M-%d", m.Number), Whose: m.Of, Parameter: m.Parameter, Label: m.Label, At: m.At,
		Says: m.At.In(zone).Format("2 January 2006 15:04 MST"), Run: runID(m.Run), Sentence: m.Sentence}
}

func (s *service) ListMarks(ctx context.Context, r api.ListMarksRequestObject) (api.ListMarksResponseObject, error) {
	all, err := as(ctx).Asking.Marks(ctx, r.Report)
	out := api.ListMarks200JSONResponse{}
	for _, m := range all {
		out = append(out, lookedTill(m, as(ctx).Zone()))
	}
	return out, err
}

func (s *service) SetMark(ctx context.Context, r api.SetMarkRequestObject) (api.SetMarkResponseObject, error) {
	n, err := number("mark", "M-", r.Mark)
	if err != nil {
		return nil, err
	}
	m, err := as(ctx).Asking.SetMark(ctx, n, r.Body.At)
	return api.SetMark200JSONResponse(lookedTill(m, as(ctx).Zone())), err
}

func (s *service) DeleteMark(ctx context.Context, r api.DeleteMarkRequestObject) (api.DeleteMarkResponseObject, error) {
	n, err := number("mark", "M-", r.Mark)
	if err != nil {
		return nil, err
	}
	return api.DeleteMark204Response{}, as(ctx).Asking.DeleteMark(ctx, n)
}

func (s *service) ListAddressChanges(ctx context.Context, r api.ListAddressChangesRequestObject) (api.ListAddressChangesResponseObject, error) {
	all, err := as(ctx).Sending.AddressHistory(ctx, r.Nickname)
	out := api.ListAddressChanges200JSONResponse{}
	for _, c := range all {
		e := api.AddressEvent{At: c.At, By: c.By, What: api.AddressEventWhat(c.What)}
		if c.What == "put" {
			entry := address(c.Entry)
			e.Entry = &entry
		}
		out = append(out, e)
	}
	return out, err
}
