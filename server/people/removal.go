package people

import (
	"mantilla/server/answer"

	"context"

	"mantilla/api"
	"mantilla/api/handlers"
)

// ListSessions answers GET /sessions: the browsers and command lines that are signed in.
func (s People) ListSessions(ctx context.Context,
	r handlers.ListSessionsRequestObject) (handlers.ListSessionsResponseObject, error) {
	all, err := answer.As(ctx).Sessions(ctx, answer.Value(r.Params.Person), answer.CallOf(ctx).Secret)
	out := handlers.ListSessions200JSONResponse{}
	for _, x := range all {
		one := api.Session{Id: x.ID, Kind: api.SessionKind(x.Kind), Label: x.Label, MadeAt: x.Made, EndsAt: x.Ends,
			LastAt: answer.Moment(x.Last), Present: x.Present}
		if as := api.Role(x.As); as != "" {
			one.As = &as
		}
		out = append(out, one)
	}
	return out, err
}

// EndSession answers DELETE /sessions/{session}: sign a browser or command line out.
func (s People) EndSession(ctx context.Context,
	r handlers.EndSessionRequestObject) (handlers.EndSessionResponseObject, error) {
	return handlers.EndSession204Response{}, answer.As(ctx).EndSession(ctx, answer.Value(r.Params.Person), r.Session)
}

// DeletePerson answers DELETE /people/{person}.
func (s People) DeletePerson(ctx context.Context,
	r handlers.DeletePersonRequestObject) (handlers.DeletePersonResponseObject, error) {
	return handlers.DeletePerson204Response{}, answer.As(ctx).DeletePerson(ctx, r.Person)
}

// DeleteGroup answers DELETE /groups/{group}: delete a group; what was open to it or shared with it no longer is.
func (s People) DeleteGroup(ctx context.Context,
	r handlers.DeleteGroupRequestObject) (handlers.DeleteGroupResponseObject, error) {
	return handlers.DeleteGroup204Response{}, answer.As(ctx).DeleteGroup(ctx, r.Group)
}

// GetDataOf answers GET /people/{person}/data: what is kept of a person.
func (s People) GetDataOf(ctx context.Context, r handlers.GetDataOfRequestObject) (handlers.GetDataOfResponseObject,
	error) {
	data, err := answer.As(ctx).DataOf(ctx, r.Person)
	return handlers.GetDataOf200JSONResponse(data), err
}

// ErasePerson answers POST /people/{person}/erasure: take a person out.
func (s People) ErasePerson(ctx context.Context,
	r handlers.ErasePersonRequestObject) (handlers.ErasePersonResponseObject, error) {
	alias, err := answer.As(ctx).Erase(ctx, r.Person)
	return handlers.ErasePerson200JSONResponse{Alias: alias}, err
}
