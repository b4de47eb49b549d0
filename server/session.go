package server

import (
	"context"
	"io"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"go.yaml.in/yaml/v3"

	"mantilla/api"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/model"
)

// cookie is the name of a signed-in browser's cookie.
const cookie = "mantilla"

// open are the calls that need nobody to be signed in, as the contract has
// them: by method, the pattern of their path.
var open = openCalls(api.Contract)

// openCalls reads the contract. It panics where that cannot be read: it is part
// of the program.
func openCalls(contract []byte) map[string][]*regexp.Regexp {
	var c struct {
		Paths map[string]map[string]yaml.Node `yaml:"paths"`
	}
	if err := yaml.Unmarshal(contract, &c); err != nil {
		panic(err)
	}
	out := map[string][]*regexp.Regexp{http.MethodGet: {regexp.MustCompile(`^/api/openapi\.yaml$`)}}
	for path, methods := range c.Paths {
		for method, node := range methods {
			var call struct {
				ID       string `yaml:"operationId"`
				Security *[]any `yaml:"security"`
			}
			if method == "parameters" || node.Decode(&call) != nil || call.Security == nil || len(*call.Security) > 0 {
				continue
			}
			pattern := regexp.MustCompile(`\\\{[^}]*\\\}`).ReplaceAllString(regexp.QuoteMeta("/api"+path), `[^/]+`)
			method = strings.ToUpper(method)
			out[method] = append(out[method], regexp.MustCompile("^"+pattern+"$"))
		}
	}
	return out
}

func isOpen(method, path string) bool {
	return slices.ContainsFunc(open[method], func(r *regexp.Regexp) bool { return r.MatchString(path) })
}

// signedIn finds out who calls, by token or cookie, and refuses strangers.
// Against calls that other sites make a browser send with its cookie, the
// whole handler is wrapped in [http.CrossOriginProtection].
func (s *service) signedIn(c *gin.Context) {
	if !strings.HasPrefix(c.Request.URL.Path, "/api/") || isOpen(c.Request.Method, c.Request.URL.Path) {
		return
	}
	access, err := s.library.WhoHas(c.Request.Context(), secret(c))
	if err != nil {
		s.refuse(c, err)
		return
	}
	c.Set(cookie, access)
	c.Set(signedBy, s.library)
}

// signedBy is the key of the library that found out who calls.
const signedBy = "signed by"

func secret(c *gin.Context) string {
	if token, ok := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer "); ok {
		return token
	}
	text, err := c.Request.Cookie(cookie)
	if err != nil {
		return ""
	}
	return text.Value
}

// as returns the library as whoever calls may use it.
func as(ctx context.Context) *library.Access {
	return ctx.(*gin.Context).MustGet(cookie).(*library.Access)
}

// cookieOf writes the cookie of a secret, or with none the one that ends it.
func cookieOf(ctx context.Context, secret string) *string {
	c := http.Cookie{Name: cookie, Value: secret, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: byTLS(ctx.(*gin.Context))}
	if secret == "" {
		c.MaxAge = -1
	}
	text := c.String()
	return &text
}

// byTLS tells whether a request came by TLS, to the service itself or to a proxy
// whose word is taken.
func byTLS(c *gin.Context) bool {
	if c.Request.TLS != nil {
		return true
	}
	proxied, _ := c.Get(byProxy)
	return proxied == true && strings.EqualFold(c.GetHeader("X-Forwarded-Proto"), "https")
}

// byProxy is the key under which a request knows that it came from a trusted
// proxy.
const byProxy = "by proxy"

func (s *service) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	secret, person, _, err := s.library.SignIn(ctx, access.Knock{Name: r.Body.Name, Password: r.Body.Password, Kind: "browser", Address: from(ctx)})
	if err != nil {
		return nil, err
	}
	return api.SignIn200JSONResponse{Body: who(s.library.As(person)), Headers: api.SignIn200ResponseHeaders{SetCookie: cookieOf(ctx, secret)}}, nil
}

func (s *service) MakeToken(ctx context.Context, r api.MakeTokenRequestObject) (api.MakeTokenResponseObject, error) {
	secret, person, ends, err := s.library.SignIn(ctx, access.Knock{Name: r.Body.Name, Password: r.Body.Password, Kind: "token", Label: value(r.Body.Label), Address: from(ctx)})
	if err != nil {
		return nil, err
	}
	return api.MakeToken201JSONResponse{Token: secret, Ends: ends, Who: who(s.library.As(person))}, nil
}

// from is the address of the machine that calls.
func from(ctx context.Context) string { return ctx.(*gin.Context).ClientIP() }

func (s *service) GetSession(ctx context.Context, _ api.GetSessionRequestObject) (api.GetSessionResponseObject, error) {
	return api.GetSession200JSONResponse(who(as(ctx))), nil
}

func who(a *library.Access) api.Who {
	p := a.Person()
	out := api.Who{Name: p.Name, Title: p.Title, Role: api.Role(p.Role), Units: given(p.Units), Groups: given(p.Groups), Rights: []api.WhoRights{}, Zone: a.Zone().String(), OwnZone: p.Zone != ""}
	for _, r := range a.Rights() {
		out.Rights = append(out.Rights, api.WhoRights(r))
	}
	return out
}

// given returns a list that is written as [] when it is empty.
func given(list []string) []string { return append([]string{}, list...) }

func (s *service) SignOut(ctx context.Context, _ api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	err := s.library.SignOut(ctx, secret(ctx.(*gin.Context)))
	return api.SignOut204Response{Headers: api.SignOut204ResponseHeaders{SetCookie: cookieOf(ctx, "")}}, err
}

func (s *service) SetZone(ctx context.Context, r api.SetZoneRequestObject) (api.SetZoneResponseObject, error) {
	a := as(ctx)
	if err := a.SetZone(ctx, r.Body.Zone); err != nil {
		return nil, err
	}
	now, err := s.library.AsPerson(ctx, a.Person().Name)
	if err != nil {
		return nil, err
	}
	return api.SetZone200JSONResponse(who(now)), nil
}

func (s *service) ChangePassword(ctx context.Context, r api.ChangePasswordRequestObject) (api.ChangePasswordResponseObject, error) {
	return api.ChangePassword204Response{}, as(ctx).ChangePassword(ctx, r.Body.Old, r.Body.Password)
}

func (s *service) ListPeople(ctx context.Context, _ api.ListPeopleRequestObject) (api.ListPeopleResponseObject, error) {
	people, err := as(ctx).People(ctx)
	if err != nil {
		return nil, err
	}
	out := api.ListPeople200JSONResponse{}
	for _, p := range people {
		out = append(out, api.Person{Name: p.Name, Title: p.Title, Role: api.Role(p.Role), Units: given(p.Units), Groups: given(p.Groups),
			Closed: p.Closed, Revision: p.Revision})
	}
	return out, nil
}

func (s *service) PutPerson(ctx context.Context, r api.PutPersonRequestObject) (api.PutPersonResponseObject, error) {
	revision, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	p := model.Person{Name: r.Person, Title: strings.TrimSpace(r.Body.Title), Role: model.Role(r.Body.Role), Units: r.Body.Units, Closed: r.Body.Closed, Revision: revision}
	return api.PutPerson204Response{}, as(ctx).PutPerson(ctx, p, value(r.Body.Password))
}

func (s *service) ListGroups(ctx context.Context, _ api.ListGroupsRequestObject) (api.ListGroupsResponseObject, error) {
	groups, err := as(ctx).Groups(ctx)
	out := api.ListGroups200JSONResponse{}
	for _, g := range groups {
		out = append(out, api.Group{Id: g.ID, Title: g.Title, Members: given(g.Members), Revision: g.Revision})
	}
	return out, err
}

func (s *service) PutGroup(ctx context.Context, r api.PutGroupRequestObject) (api.PutGroupResponseObject, error) {
	revision, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	return api.PutGroup204Response{}, as(ctx).PutGroup(ctx, model.Group{ID: r.Group, Title: r.Body.Title, Members: r.Body.Members, Revision: revision})
}

func (s *service) ListSources(ctx context.Context, _ api.ListSourcesRequestObject) (api.ListSourcesResponseObject, error) {
	sources, err := as(ctx).Catalog.Sources()
	out := api.ListSources200JSONResponse{}
	for _, c := range sources {
		out = append(out, api.Source{Id: c.ID, Title: c.Title, Kind: c.Kind, Text: c.Text})
	}
	return out, err
}

func (s *service) PutSource(ctx context.Context, r api.PutSourceRequestObject) (api.PutSourceResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &badRequest{"source", err}
	}
	return api.PutSource204Response{}, as(ctx).Catalog.PutSource(ctx, r.Source, text)
}

func (s *service) GetOpening(ctx context.Context, r api.GetOpeningRequestObject) (api.GetOpeningResponseObject, error) {
	to, err := as(ctx).Catalog.Opening(r.Report)
	out := api.GetOpening200JSONResponse{Groups: []string{}, People: []string{}}
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

func (s *service) PutOpening(ctx context.Context, r api.PutOpeningRequestObject) (api.PutOpeningResponseObject, error) {
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
	return api.PutOpening204Response{}, as(ctx).Catalog.Open(ctx, r.Report, to)
}
