package server

import (
	"context"
	"fmt"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/asking"
)

func (s *service) ListSessions(ctx context.Context,
	r handlers.ListSessionsRequestObject) (handlers.ListSessionsResponseObject, error) {
	all, err := as(ctx).Sessions(ctx, value(r.Params.Person), of(ctx).secret)
	out := handlers.ListSessions200JSONResponse{}
	for _, x := range all {
		out = append(out,
			api.Session{
				Id:      x.ID,
				Kind:    api.SessionKind(x.Kind),
				Label:   x.Label,
				MadeAt:  x.Made,
				EndsAt:  x.Ends,
				Present: x.Present,
			})
	}
	return out, err
}

func (s *service) EndSession(ctx context.Context,
	r handlers.EndSessionRequestObject) (handlers.EndSessionResponseObject, error) {
	return handlers.EndSession204Response{}, as(ctx).EndSession(ctx, value(r.Params.Person), r.Session)
}

func (s *service) DeletePerson(ctx context.Context,
	r handlers.DeletePersonRequestObject) (handlers.DeletePersonResponseObject, error) {
	return handlers.DeletePerson204Response{}, as(ctx).DeletePerson(ctx, r.Person)
}

func (s *service) DeleteGroup(ctx context.Context,
	r handlers.DeleteGroupRequestObject) (handlers.DeleteGroupResponseObject, error) {
	return handlers.DeleteGroup204Response{}, as(ctx).DeleteGroup(ctx, r.Group)
}

func (s *service) DeleteSource(ctx context.Context,
	r handlers.DeleteSourceRequestObject) (handlers.DeleteSourceResponseObject, error) {
	return handlers.DeleteSource204Response{}, as(ctx).Catalog.DeleteSource(ctx, r.Source)
}

func (s *service) DeleteReport(ctx context.Context,
	r handlers.DeleteReportRequestObject) (handlers.DeleteReportResponseObject, error) {
	return handlers.DeleteReport204Response{}, as(ctx).Catalog.DeleteReport(ctx, r.Report)
}

func lookedTill(m asking.Mark, zone *time.Location) api.Mark {
	return api.Mark{Id: fmt.Sprintf("M-%d", m.Number), Whose: m.Of, Parameter: m.Parameter, Label: m.Label, At: m.At,
		Says: m.At.In(zone).Format("2 January 2006 15:04 MST"), Run: runID(m.Run), Sentence: m.Sentence}
}

func (s *service) ListMarks(ctx context.Context, r handlers.ListMarksRequestObject) (handlers.ListMarksResponseObject,
	error) {
	all, err := as(ctx).Asking.Marks(ctx, r.Report)
	out := handlers.ListMarks200JSONResponse{}
	for _, m := range all {
		out = append(out, lookedTill(m, as(ctx).Zone()))
	}
	return out, err
}

func (s *service) SetMark(ctx context.Context, r handlers.SetMarkRequestObject) (handlers.SetMarkResponseObject,
	error) {
	n, err := number("mark", "M-", r.Mark)
	if err != nil {
		return nil, err
	}
	m, err := as(ctx).Asking.SetMark(ctx, n, r.Body.At)
	return handlers.SetMark200JSONResponse(lookedTill(m, as(ctx).Zone())), err
}

func (s *service) DeleteMark(ctx context.Context,
	r handlers.DeleteMarkRequestObject) (handlers.DeleteMarkResponseObject, error) {
	n, err := number("mark", "M-", r.Mark)
	if err != nil {
		return nil, err
	}
	return handlers.DeleteMark204Response{}, as(ctx).Asking.DeleteMark(ctx, n)
}

func (s *service) ListAddressChanges(ctx context.Context,
	r handlers.ListAddressChangesRequestObject) (handlers.ListAddressChangesResponseObject, error) {
	all, err := as(ctx).Sending.AddressHistory(ctx, r.Nickname)
	out := handlers.ListAddressChanges200JSONResponse{}
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
