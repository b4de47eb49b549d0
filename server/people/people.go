// Package people answers calls about people, groups, sessions and openings.
package people

import (
	"mantilla/server/answer"

	"context"
	"io"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/model"
)

// People answers calls about people, groups, sessions and openings.
type People struct {
	*answer.Service
	away *away
}

// New makes what answers them.
func New(of *answer.Service) People { return People{of, &away{all: map[string]sent{}}} }

// SignIn answers POST /session: sign a browser in; the answer sets its cookie.
func (s People) SignIn(ctx context.Context, r handlers.SignInRequestObject) (handlers.SignInResponseObject, error) {
	acting.By(ctx, r.Body.Name)
	secret, person, _,
		err := s.Library.Door().SignIn(ctx,
		access.Knock{Name: r.Body.Name, Password: r.Body.Password, Code: answer.Value(r.Body.Code), Kind: "browser",
			Address: answer.CallOf(ctx).From})
	if err != nil {
		return nil, err
	}
	return handlers.SignIn200JSONResponse{
		Body:    s.whoIs(ctx, person),
		Headers: handlers.SignIn200ResponseHeaders{SetCookie: answer.CallOf(ctx).CookieOf(secret)},
	}, nil
}

// MakeToken answers POST /tokens: sign a command line in; the answer holds its token.
func (s People) MakeToken(ctx context.Context, r handlers.MakeTokenRequestObject) (handlers.MakeTokenResponseObject,
	error) {
	acting.By(ctx, r.Body.Name)
	secret, person, ends,
		err := s.Library.Door().SignIn(ctx,
		access.Knock{
			Name:     r.Body.Name,
			Password: r.Body.Password,
			Code:     answer.Value(r.Body.Code),
			Kind:     "token",
			Label:    answer.Value(r.Body.Label),
			Address:  answer.CallOf(ctx).From,
		})
	if err != nil {
		return nil, err
	}
	return handlers.MakeToken201JSONResponse{Token: secret, Ends: ends, Who: s.whoIs(ctx, person)}, nil
}

// NewToken answers POST /session/tokens.
func (s People) NewToken(ctx context.Context, r handlers.NewTokenRequestObject) (handlers.NewTokenResponseObject,
	error) {
	secret, ends, err := answer.As(ctx).MakeToken(ctx, access.NewToken{Person: answer.Value(r.Body.Person),
		Label: r.Body.Label, Days: r.Body.Days, As: model.Role(answer.Value(r.Body.As))})
	if err != nil {
		return nil, err
	}
	return handlers.NewToken201JSONResponse{Token: secret, Ends: ends}, nil
}

// GetSession answers GET /session: who is signed in, and what they may do.
func (s People) GetSession(ctx context.Context,
	_ handlers.GetSessionRequestObject) (handlers.GetSessionResponseObject, error) {
	return handlers.GetSession200JSONResponse(who(answer.As(ctx))), nil
}

// whoIs is somebody who has just come in.
func (s People) whoIs(ctx context.Context, person model.Person) api.Who {
	a := s.Library.As(person)
	a.Sits(answer.CallOf(ctx).Numbers)
	return who(a)
}

func who(a *library.Access) api.Who {
	p := a.Person()
	out := api.Who{
		Name:    p.Name,
		Title:   p.Title,
		Role:    api.Role(p.Role),
		Units:   answer.List(p.Units),
		Groups:  answer.List(p.Groups),
		Rights:  []api.WhoRights{},
		Zone:    a.Zone().String(),
		OwnZone: p.Zone != "",
		Ways: api.Ways{Opens: answer.Given(p.Ways.Opens), Density: answer.Given(p.Ways.Density),
			Scheme: answer.Given(p.Ways.Scheme), Week: answer.Given(p.Ways.Week),
			Numbers: answer.Given(p.Ways.Numbers), Days: answer.Given(p.Ways.Days)},
		Form:   api.WhoForm{Numbers: a.Form().Numbers, Days: a.Form().Days},
		Second: answer.Truth(p.Second), SecondWanted: answer.Truth(a.Wants()),
	}
	for _, r := range a.Rights() {
		out.Rights = append(out.Rights, api.WhoRights(r))
	}
	return out
}

// SignOut answers DELETE /session: make the cookie or token worthless.
func (s People) SignOut(ctx context.Context, _ handlers.SignOutRequestObject) (handlers.SignOutResponseObject,
	error) {
	err := s.Library.Door().SignOut(ctx, answer.CallOf(ctx).Secret)
	return handlers.SignOut204Response{Headers: handlers.SignOut204ResponseHeaders{SetCookie: answer.CallOf(ctx).CookieOf(
		"")}}, err
}

// SetZone answers PUT /session/zone: set the zone in which moments are said to oneself.
func (s People) SetZone(ctx context.Context, r handlers.SetZoneRequestObject) (handlers.SetZoneResponseObject,
	error) {
	a := answer.As(ctx)
	if err := a.SetZone(ctx, r.Body.Zone); err != nil {
		return nil, err
	}
	now, err := s.now(ctx)
	return handlers.SetZone200JSONResponse(now), err
}

// SetWays answers PUT /session/ways: set how one likes the console.
func (s People) SetWays(ctx context.Context, r handlers.SetWaysRequestObject) (handlers.SetWaysResponseObject,
	error) {
	b := r.Body
	err := answer.As(ctx).SetWays(ctx, model.Ways{Opens: answer.Value(b.Opens), Density: answer.Value(b.Density),
		Scheme: answer.Value(b.Scheme), Week: answer.Value(b.Week), Numbers: answer.Value(b.Numbers),
		Days: answer.Value(b.Days)})
	if err != nil {
		return nil, err
	}
	now, err := s.now(ctx)
	return handlers.SetWays200JSONResponse(now), err
}

// now is who asks, after something of them changed.
func (s People) now(ctx context.Context) (api.Who, error) {
	a, err := s.Library.AsPerson(ctx, answer.As(ctx).Person().Name)
	if err != nil {
		return api.Who{}, err
	}
	a.Sits(answer.CallOf(ctx).Numbers)
	return who(a), nil
}

// ChangePassword answers PUT /session/password: change one's own password, which signs one out everywhere.
func (s People) ChangePassword(ctx context.Context,
	r handlers.ChangePasswordRequestObject) (handlers.ChangePasswordResponseObject, error) {
	return handlers.ChangePassword204Response{}, answer.As(ctx).ChangePassword(ctx, r.Body.Old, r.Body.Password)
}

// ListPeople answers GET /people: all accounts.
func (s People) ListPeople(ctx context.Context,
	_ handlers.ListPeopleRequestObject) (handlers.ListPeopleResponseObject, error) {
	people, err := answer.As(ctx).People(ctx)
	if err != nil {
		return nil, err
	}
	out := handlers.ListPeople200JSONResponse{}
	for _, p := range people {
		out = append(out,
			api.Person{Name: p.Name, Title: p.Title, Role: api.Role(p.Role), Units: answer.List(p.Units),
				Groups: answer.List(p.Groups), Given: answer.Optional(p.Given), Withheld: answer.Optional(p.Withheld),
				Closed: p.Closed, Revision: p.Revision, Owner: answer.Given(p.Owner)})
	}
	return out, nil
}

// PutPerson answers PUT /people/{person}: make or change an account.
func (s People) PutPerson(ctx context.Context, r handlers.PutPersonRequestObject) (handlers.PutPersonResponseObject,
	error) {
	revision, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	p := model.Person{
		Name:     r.Person,
		Title:    strings.TrimSpace(r.Body.Title),
		Role:     model.Role(r.Body.Role),
		Units:    r.Body.Units,
		Given:    answer.Value(r.Body.Given),
		Withheld: answer.Value(r.Body.Withheld),
		Closed:   r.Body.Closed,
		Owner:    answer.Value(r.Body.Owner),
		Revision: revision,
	}
	return handlers.PutPerson204Response{}, answer.As(ctx).PutPerson(ctx, p, answer.Value(r.Body.Password))
}

// ListGroups answers GET /groups: all groups; their members for administrators only.
func (s People) ListGroups(ctx context.Context,
	_ handlers.ListGroupsRequestObject) (handlers.ListGroupsResponseObject, error) {
	groups, err := answer.As(ctx).Groups(ctx)
	out := handlers.ListGroups200JSONResponse{}
	for _, g := range groups {
		out = append(out, api.Group{Id: g.ID, Title: g.Title, Members: answer.List(g.Members), Revision: g.Revision})
	}
	return out, err
}

// PutGroup answers PUT /groups/{group}: make or change a group of people.
func (s People) PutGroup(ctx context.Context, r handlers.PutGroupRequestObject) (handlers.PutGroupResponseObject,
	error) {
	revision, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	return handlers.PutGroup204Response{},
		answer.As(ctx).PutGroup(ctx,
			model.Group{ID: r.Group, Title: r.Body.Title, Members: r.Body.Members, Revision: revision})
}

// SayPurpose answers PUT /reports/{report}/purpose.
func (s People) SayPurpose(ctx context.Context, r handlers.SayPurposeRequestObject) (handlers.SayPurposeResponseObject,
	error) {
	return handlers.SayPurpose204Response{}, answer.As(ctx).SayPurpose(ctx, r.Report, r.Body.Purpose)
}

// ListSources answers GET /sources: the sources that rows come from, as they are declared.
func (s People) ListSources(ctx context.Context,
	_ handlers.ListSourcesRequestObject) (handlers.ListSourcesResponseObject, error) {
	sources, err := answer.As(ctx).Catalog.Sources(ctx)
	out := handlers.ListSources200JSONResponse{}
	for _, c := range sources {
		s := api.Source{Id: c.ID, Title: c.Title, Kind: c.Kind, Text: c.Text, SilentSince: answer.Moment(c.Since)}
		if c.Fault != nil {
			s.Fault = answer.Given(c.Fault.Error())
		}
		out = append(out, s)
	}
	return out, err
}

// PutSource answers PUT /sources/{source}.
func (s People) PutSource(ctx context.Context, r handlers.PutSourceRequestObject) (handlers.PutSourceResponseObject,
	error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "source", Err: err}
	}
	return handlers.PutSource204Response{}, answer.As(ctx).Catalog.PutSource(ctx, r.Source, text)
}

// TestSource answers POST /sources/{source}/test.
func (s People) TestSource(ctx context.Context, r handlers.TestSourceRequestObject) (handlers.TestSourceResponseObject,
	error) {
	var text []byte
	var err error
	if r.Body != nil {
		if text, err = io.ReadAll(r.Body); err != nil {
			return nil, &answer.BadRequest{Field: "source", Err: err}
		}
	}
	found, err := answer.As(ctx).Catalog.Examine(ctx, r.Source, text)
	out := handlers.TestSource200JSONResponse{}
	for _, f := range found {
		out = append(out, api.Finding{What: f.What, Says: f.Says, Good: f.Good,
			Milliseconds: float32(f.Took.Microseconds()) / 1000})
	}
	return out, err
}

// GetOpening answers GET /reports/{report}/opening: to whom a report is open.
func (s People) GetOpening(ctx context.Context,
	r handlers.GetOpeningRequestObject) (handlers.GetOpeningResponseObject, error) {
	a := answer.As(ctx).Catalog
	to, err := a.Opening(r.Report)
	if err != nil {
		return nil, err
	}
	w, err := a.Wish(ctx, r.Report)
	now := answer.Opening(to)
	out := handlers.GetOpening200JSONResponse{Everyone: now.Everyone, Groups: now.Groups, People: now.People}
	if w != nil {
		out.Wish = &api.OpeningWish{To: answer.Opening(w.To), By: w.By, At: w.At}
	}
	return out, err
}

// PutOpening answers PUT /reports/{report}/opening: say to whom a report is open from now on.
func (s People) PutOpening(ctx context.Context,
	r handlers.PutOpeningRequestObject) (handlers.PutOpeningResponseObject, error) {
	waits, err := answer.As(ctx).Catalog.Open(ctx, r.Report, answer.Openings(r.Body))
	if waits {
		return handlers.PutOpening202Response{}, err
	}
	return handlers.PutOpening204Response{}, err
}
