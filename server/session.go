package server

import (
	"context"
	"io"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/model"
)

func (s *service) SignIn(ctx context.Context, r handlers.SignInRequestObject) (handlers.SignInResponseObject, error) {
	secret, person, _,
		err := s.library.SignIn(ctx,
		access.Knock{Name: r.Body.Name, Password: r.Body.Password, Kind: "browser", Address: of(ctx).from})
	if err != nil {
		return nil, err
	}
	return handlers.SignIn200JSONResponse{
		Body:    who(s.library.As(person)),
		Headers: handlers.SignIn200ResponseHeaders{SetCookie: of(ctx).cookieOf(secret)},
	}, nil
}

func (s *service) MakeToken(ctx context.Context, r handlers.MakeTokenRequestObject) (handlers.MakeTokenResponseObject,
	error) {
	secret, person, ends,
		err := s.library.SignIn(ctx,
		access.Knock{
			Name:     r.Body.Name,
			Password: r.Body.Password,
			Kind:     "token",
			Label:    value(r.Body.Label),
			Address:  of(ctx).from,
		})
	if err != nil {
		return nil, err
	}
	return handlers.MakeToken201JSONResponse{Token: secret, Ends: ends, Who: who(s.library.As(person))}, nil
}

func (s *service) GetSession(ctx context.Context,
	_ handlers.GetSessionRequestObject) (handlers.GetSessionResponseObject, error) {
	return handlers.GetSession200JSONResponse(who(as(ctx))), nil
}

func who(a *library.Access) api.Who {
	p := a.Person()
	out := api.Who{
		Name:    p.Name,
		Title:   p.Title,
		Role:    api.Role(p.Role),
		Units:   given(p.Units),
		Groups:  given(p.Groups),
		Rights:  []api.WhoRights{},
		Zone:    a.Zone().String(),
		OwnZone: p.Zone != "",
	}
	for _, r := range a.Rights() {
		out.Rights = append(out.Rights, api.WhoRights(r))
	}
	return out
}

// given returns a list that is written as [] when it is empty.
func given(list []string) []string { return append([]string{}, list...) }

func (s *service) SignOut(ctx context.Context, _ handlers.SignOutRequestObject) (handlers.SignOutResponseObject,
	error) {
	err := s.library.SignOut(ctx, of(ctx).secret)
	return handlers.SignOut204Response{Headers: handlers.SignOut204ResponseHeaders{SetCookie: of(ctx).cookieOf("")}}, err
}

func (s *service) SetZone(ctx context.Context, r handlers.SetZoneRequestObject) (handlers.SetZoneResponseObject,
	error) {
	a := as(ctx)
	if err := a.SetZone(ctx, r.Body.Zone); err != nil {
		return nil, err
	}
	now, err := s.library.AsPerson(ctx, a.Person().Name)
	if err != nil {
		return nil, err
	}
	return handlers.SetZone200JSONResponse(who(now)), nil
}

func (s *service) ChangePassword(ctx context.Context,
	r handlers.ChangePasswordRequestObject) (handlers.ChangePasswordResponseObject, error) {
	return handlers.ChangePassword204Response{}, as(ctx).ChangePassword(ctx, r.Body.Old, r.Body.Password)
}

func (s *service) ListPeople(ctx context.Context,
	_ handlers.ListPeopleRequestObject) (handlers.ListPeopleResponseObject, error) {
	people, err := as(ctx).People(ctx)
	if err != nil {
		return nil, err
	}
	out := handlers.ListPeople200JSONResponse{}
	for _, p := range people {
		out = append(out,
			api.Person{Name: p.Name, Title: p.Title, Role: api.Role(p.Role), Units: given(p.Units), Groups: given(p.Groups),
				Closed: p.Closed, Revision: p.Revision})
	}
	return out, nil
}

func (s *service) PutPerson(ctx context.Context, r handlers.PutPersonRequestObject) (handlers.PutPersonResponseObject,
	error) {
	revision, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	p := model.Person{
		Name:     r.Person,
		Title:    strings.TrimSpace(r.Body.Title),
		Role:     model.Role(r.Body.Role),
		Units:    r.Body.Units,
		Closed:   r.Body.Closed,
		Revision: revision,
	}
	return handlers.PutPerson204Response{}, as(ctx).PutPerson(ctx, p, value(r.Body.Password))
}

func (s *service) ListGroups(ctx context.Context,
	_ handlers.ListGroupsRequestObject) (handlers.ListGroupsResponseObject, error) {
	groups, err := as(ctx).Groups(ctx)
	out := handlers.ListGroups200JSONResponse{}
	for _, g := range groups {
		out = append(out, api.Group{Id: g.ID, Title: g.Title, Members: given(g.Members), Revision: g.Revision})
	}
	return out, err
}

func (s *service) PutGroup(ctx context.Context, r handlers.PutGroupRequestObject) (handlers.PutGroupResponseObject,
	error) {
	revision, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	return handlers.PutGroup204Response{},
		as(ctx).PutGroup(ctx, model.Group{ID: r.Group, Title: r.Body.Title, Members: r.Body.Members, Revision: revision})
}

func (s *service) ListSources(ctx context.Context,
	_ handlers.ListSourcesRequestObject) (handlers.ListSourcesResponseObject, error) {
	sources, err := as(ctx).Catalog.Sources()
	out := handlers.ListSources200JSONResponse{}
	for _, c := range sources {
		out = append(out, api.Source{Id: c.ID, Title: c.Title, Kind: c.Kind, Text: c.Text})
	}
	return out, err
}

func (s *service) PutSource(ctx context.Context, r handlers.PutSourceRequestObject) (handlers.PutSourceResponseObject,
	error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"source", err}
	}
	return handlers.PutSource204Response{}, as(ctx).Catalog.PutSource(ctx, r.Source, text)
}

func (s *service) GetOpening(ctx context.Context,
	r handlers.GetOpeningRequestObject) (handlers.GetOpeningResponseObject, error) {
	to, err := as(ctx).Catalog.Opening(r.Report)
	out := handlers.GetOpening200JSONResponse{Groups: []string{}, People: []string{}}
	for _, o := range to {
		switch o.Kind {
		case "everyone":
			out.Everyone = true
		case "group":
			out.Groups = append(out.Groups, o.Name)
		case "person":
			out.People = append(out.People, o.Name)
		}
	}
	return out, err
}

func (s *service) PutOpening(ctx context.Context,
	r handlers.PutOpeningRequestObject) (handlers.PutOpeningResponseObject, error) {
	var to []model.Opening
	if r.Body.Everyone {
		to = append(to, model.Opening{Kind: "everyone"})
	}
	for _, g := range r.Body.Groups {
		to = append(to, model.Opening{Kind: "group", Name: g})
	}
	for _, p := range r.Body.People {
		to = append(to, model.Opening{Kind: "person", Name: p})
	}
	return handlers.PutOpening204Response{}, as(ctx).Catalog.Open(ctx, r.Report, to)
}
