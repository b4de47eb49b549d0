package people

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"mantilla/api/handlers"
	"mantilla/identity"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/model"
	"mantilla/server/answer"
)

// away are those who were sent to the provider, by the states that they come back with.
type away struct {
	mu  sync.Mutex
	all map[string]sent
}

type sent struct {
	identity.Begun
	to string // place of the console
}

// How long somebody may stay away, and how many may be.
const (
	longestAway = 10 * time.Minute
	mostAway    = 10_000
)

func (a *away) add(s sent, now time.Time) {
	a.mu.Lock()
	defer a.mu.Unlock()
	for state, other := range a.all {
		if now.Sub(other.At) > longestAway || len(a.all) >= mostAway {
			delete(a.all, state)
		}
	}
	a.all[s.State] = s
}

// take returns whom a state is of, once.
func (a *away) take(state string, now time.Time) (s sent, ok bool) {
	a.mu.Lock()
	defer a.mu.Unlock()
	s, ok = a.all[state]
	delete(a.all, state)
	return s, ok && now.Sub(s.At) <= longestAway
}

// awayCookie binds a sign-in to the browser that began it, so that nobody is signed in by another's link.
const awayCookie = "mantilla-away"

func (s People) cookie(ctx context.Context, state string) string {
	c := http.Cookie{Name: awayCookie, Value: state, Path: s.Below + "/api/session/provider", HttpOnly: true,
		SameSite: http.SameSiteLaxMode, Secure: answer.CallOf(ctx).ByTLS, MaxAge: int(longestAway.Seconds())}
	if state == "" {
		c.MaxAge = -1
	}
	return c.String()
}

// own is the address of this service, as people reach it.
func (s People) own() string { return s.Library.Settings().Address }

// place is a place of the console, and nothing else.
func place(to string) string {
	at, err := url.Parse(to)
	if err != nil || at.Host != "" || at.Scheme != "" || !strings.HasPrefix(at.Path, "/") || strings.HasPrefix(to, "//") ||
		strings.ContainsAny(to, "\\\r\n") || strings.HasPrefix(at.Path, "/api/") {
		return "/"
	}
	return at.RequestURI()
}

// BeginSignIn answers GET /session/provider.
func (s People) BeginSignIn(ctx context.Context,
	r handlers.BeginSignInRequestObject) (handlers.BeginSignInResponseObject, error) {
	if s.Provider == nil {
		return nil, model.NoSuch("provider", "", nil)
	}
	address, b, err := s.Provider.Begin(ctx, s.own()+"/api/session/provider/back", time.Now())
	if err != nil {
		s.Log.ErrorContext(ctx, "nobody can be sent to the provider", "error", err)
		to := s.Below + "/?refused=" + reason(err)
		return handlers.BeginSignIn303Response{Headers: handlers.BeginSignIn303ResponseHeaders{Location: &to}}, nil
	}
	s.away.add(sent{b, place(answer.Value(r.Params.To))}, b.At)
	cookie := s.cookie(ctx, b.State)
	return handlers.BeginSignIn303Response{Headers: handlers.BeginSignIn303ResponseHeaders{Location: &address,
		SetCookie: &cookie}}, nil
}

// errAway says that somebody came back who was not away, or not from here.
var errAway = errors.New("the sign-in was not begun by this browser, or too long ago")

// reason is why somebody is not let in, as the console knows it.
func reason(err error) string {
	var stranger *access.Stranger
	switch {
	case errors.As(err, &stranger):
		return stranger.Reason
	case errors.Is(err, identity.ErrSilent):
		return "silent"
	case errors.Is(err, errAway):
		return "away"
	}
	return "denied"
}

// FinishSignIn answers GET /session/provider/back.
func (s People) FinishSignIn(ctx context.Context,
	r handlers.FinishSignInRequestObject) (handlers.FinishSignInResponseObject, error) {
	if s.Provider == nil {
		return nil, model.NoSuch("provider", "", nil)
	}
	secret, to, err := s.cameBack(ctx, r.Params.Code, answer.Value(r.Params.State))
	cookie := answer.CallOf(ctx).CookieOf(secret)
	if err != nil {
		s.Log.WarnContext(ctx, "signing in by the provider failed", "error", err, "said", answer.Value(r.Params.Error))
		acting.Refuses(ctx, err.Error())
		ended := s.cookie(ctx, "")
		to, cookie = "/?refused="+reason(err), &ended
	}
	to = s.Below + to
	return handlers.FinishSignIn303Response{Headers: handlers.FinishSignIn303ResponseHeaders{Location: &to,
		SetCookie: cookie}}, nil
}

// cameBack signs in who came back with a code.
func (s People) cameBack(ctx context.Context, code *string, state string) (secret, to string, err error) {
	of, ok := s.away.take(state, time.Now())
	if bound := answer.CallOf(ctx).Away; !ok || bound == "" || bound != state {
		return "", "", errAway
	}
	if code == nil {
		return "", "", identity.ErrDenied
	}
	who, err := s.Provider.Finish(ctx, of.Begun, *code)
	if err != nil {
		return "", "", err
	}
	secret, _, _, err = s.Library.Door().SignInAs(ctx, access.Introduced{Subject: who.Subject, Name: who.Name,
		Title: who.Title, Groups: who.Groups, Units: who.Units})
	return secret, of.to, err
}

// LeaveProvider answers GET /session/leave.
func (s People) LeaveProvider(ctx context.Context,
	_ handlers.LeaveProviderRequestObject) (handlers.LeaveProviderResponseObject, error) {
	to := ""
	if s.Provider != nil {
		to = s.Provider.Leave(ctx, s.own()+"/")
	}
	if to == "" {
		to = s.Below + "/"
	}
	return handlers.LeaveProvider303Response{Headers: handlers.LeaveProvider303ResponseHeaders{Location: &to}}, nil
}
