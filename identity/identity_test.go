package identity_test

import (
	"errors"
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"mantilla/demo/provider"
	"mantilla/identity"
)

func started(t *testing.T) *provider.Provider {
	t.Helper()
	there, err := provider.Start("127.0.0.1:0", "honey", []provider.Person{
		{Name: "nell", Title: "Nell Briarwood", Groups: []string{"field"}, Units: []string{"UF-HOL"}}, {Name: "ola"}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { there.Close() })
	return there
}

func asking(there *provider.Provider) *identity.Provider {
	return identity.New(identity.Settings{Issuer: there.Issuer, Client: there.Client, Name: "preferred_username",
		Title: "name", Groups: "groups", Units: "units"})
}

const back = "http://127.0.0.1:8480/back"

// signed signs somebody in at the provider, and returns the code and the state that they come back with.
func signed(t *testing.T, address, name string) (code, state string) {
	t.Helper()
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := client.PostForm(address, url.Values{"name": {name}, "password": {"honey"}})
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	to, err := r.Location()
	if err != nil {
		said, _ := io.ReadAll(r.Body)
		t.Fatalf("%v: %s", err, said)
	}
	if !strings.HasPrefix(to.String(), back+"?") {
		t.Errorf("they are sent back to %s", to)
	}
	return to.Query().Get("code"), to.Query().Get("state")
}

// TestWhoComesBack is known by what the provider proves of them, once.
func TestWhoComesBack(t *testing.T) {
	p := asking(started(t))
	address, begun, err := p.Begin(t.Context(), back, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	code, state := signed(t, address, "nell")
	if state != begun.State {
		t.Errorf("the state is %q, not %q", state, begun.State)
	}
	who, err := p.Finish(t.Context(), begun, code)
	if err != nil || who.Name != "nell" || who.Title != "Nell Briarwood" || who.Groups[0] != "field" || who.Units[0] !=
		"UF-HOL" || !strings.HasSuffix(who.Subject, "#subject-of-nell") {
		t.Errorf("it is %+v, %v", who, err)
	}
	if _, err := p.Finish(t.Context(), begun, code); !errors.Is(err, identity.ErrDenied) {
		t.Errorf("the code counts twice: %v", err)
	}
	address, begun, err = p.Begin(t.Context(), back, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	code, _ = signed(t, address, "ola")
	if who, err := p.Finish(t.Context(), begun, code); err != nil || who.Title != "ola" || who.Groups == nil ||
		len(who.Units) != 0 {
		t.Errorf("of whom little is known is %+v, %v", who, err)
	}
}

// TestACodeIsOfOneSignIn: one that somebody else brings, as who caught it would, is worth nothing.
func TestACodeIsOfOneSignIn(t *testing.T) {
	p := asking(started(t))
	address, _, err := p.Begin(t.Context(), back, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	code, _ := signed(t, address, "nell")
	_, other, err := p.Begin(t.Context(), back, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	if who, err := p.Finish(t.Context(), other, code); !errors.Is(err, identity.ErrDenied) {
		t.Errorf("it lets in %+v, %v", who, err)
	}
}

// TestAProviderThatIsAway is asked again when it is back, and leaving it needs it.
func TestAProviderThatIsAway(t *testing.T) {
	there := started(t)
	p := asking(there)
	there.Close()
	if _, _, err := p.Begin(t.Context(), back, time.Now()); !errors.Is(err, identity.ErrSilent) {
		t.Errorf("it is %v", err)
	}
	if to := p.Leave(t.Context(), back); to != "" {
		t.Errorf("it is left at %s", to)
	}
	if to := asking(started(t)).Leave(t.Context(), back); !strings.Contains(to, "/leave?client_id=mantilla&post_logout") {
		t.Errorf("it is left at %s", to)
	}
	if identity.New(identity.Settings{}) != nil {
		t.Error("without an issuer there is a provider")
	}
}
