// Package provider is a stand-in for an OpenID Connect provider: the people of the demo sign in
// there with a password of their own, and it says who they are, in which groups, and which units
// they see. It keeps nothing.
package provider

import (
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/go-jose/go-jose/v4"
	"github.com/go-jose/go-jose/v4/jwt"
)

// Person is somebody who can sign in.
type Person struct {
	Name, Title   string
	Groups, Units []string
}

// Provider is the stand-in. Its one client is a public one, with a proof key.
type Provider struct {
	Issuer   string
	Client   string
	password string
	people   map[string]Person
	key      *rsa.PrivateKey
	server   *http.Server

	mu    sync.Mutex
	codes map[string]asked // that were given out and not taken
	by    map[string]Person
}

// asked is a sign-in for which a code was given out.
type asked struct {
	person                 Person
	nonce, challenge, back string
}

// Start starts it at an address; all people have one password.
func Start(address, password string, people []Person) (*Provider, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("the stand-in provider: %w", err)
	}
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	if err != nil {
		return nil, errors.Join(err, l.Close())
	}
	p := &Provider{Issuer: "http://" + l.Addr().String(), Client: "mantilla", password: password, key: key,
		people: map[string]Person{}, codes: map[string]asked{}, by: map[string]Person{}}
	for _, one := range people {
		p.people[one.Name] = one
	}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /.well-known/openid-configuration", p.about)
	mux.HandleFunc("GET /keys", p.keys)
	mux.HandleFunc("GET /sign-in", p.ask)
	mux.HandleFunc("POST /sign-in", p.take)
	mux.HandleFunc("POST /token", p.token)
	mux.HandleFunc("GET /who", p.who)
	mux.HandleFunc("GET /leave", p.leave)
	p.server = &http.Server{Handler: mux, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = p.server.Serve(l) }() // it ends when it is closed
	return p, nil
}

// Close ends it.
func (p *Provider) Close() error { return p.server.Close() }

func tell(w http.ResponseWriter, what any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(what) // whoever asked may have gone
}

func (p *Provider) about(w http.ResponseWriter, _ *http.Request) {
	tell(w, map[string]any{"issuer": p.Issuer, "authorization_endpoint": p.Issuer + "/sign-in",
		"token_endpoint": p.Issuer + "/token", "jwks_uri": p.Issuer + "/keys", "userinfo_endpoint": p.Issuer + "/who",
		"end_session_endpoint": p.Issuer + "/leave", "response_types_supported": []string{"code"},
		"subject_types_supported": []string{"public"}, "id_token_signing_alg_values_supported": []string{"RS256"},
		"code_challenge_methods_supported": []string{"S256"}})
}

func (p *Provider) keys(w http.ResponseWriter, _ *http.Request) {
	tell(w, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{Key: p.key.Public(), KeyID: "own", Algorithm: "RS256",
		Use: "sig"}}})
}

var page = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8">
<title>Sign in at the stand-in provider</title>
<body style="font-family: sans-serif; max-width: 26rem; margin: 4rem auto">
<main><h1>Stand-in provider</h1><p>It stands for the sign-in of an organisation. Everybody of the demo is here, with
the password of the demo.</p>{{with .Wrong}}<p role="alert">{{.}}</p>{{end}}
<form method="post"><p><label>Name <input name="name" autocomplete="username" autofocus></label></p>
<p><label>Password <input name="password" type="password" autocomplete="current-password"></label></p>
<button>Sign in</button></form></main></body></html>`))

// ask shows the form.
func (p *Provider) ask(w http.ResponseWriter, r *http.Request) {
	if err := p.fits(r.URL.Query()); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	_ = page.Execute(w, map[string]string{"Wrong": ""})
}

// fits says what of a question is not as it should be.
func (p *Provider) fits(q url.Values) error {
	switch {
	case q.Get("client_id") != p.Client:
		return fmt.Errorf("the client %q is not known", q.Get("client_id"))
	case q.Get("response_type") != "code":
		return errors.New("only codes are given")
	case q.Get("code_challenge_method") != "S256" || q.Get("code_challenge") == "":
		return errors.New("a proof key is wanted, by S256")
	case q.Get("redirect_uri") == "":
		return errors.New("it is not said where to go back to")
	}
	return nil
}

// take checks who signs in, and sends them back with a code.
func (p *Provider) take(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	if err := p.fits(q); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	person, ok := p.people[r.FormValue("name")]
	if !ok || r.FormValue("password") != p.password {
		w.WriteHeader(http.StatusUnauthorized)
		_ = page.Execute(w, map[string]string{"Wrong": "The name or the password is not right."})
		return
	}
	code := rand.Text()
	p.mu.Lock()
	p.codes[code] = asked{person, q.Get("nonce"), q.Get("code_challenge"), q.Get("redirect_uri")}
	p.mu.Unlock()
	back, err := url.Parse(q.Get("redirect_uri"))
	if err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	back.RawQuery = url.Values{"code": {code}, "state": {q.Get("state")}}.Encode()
	http.Redirect(w, r, back.String(), http.StatusSeeOther)
}

// token gives for a code what says who came with it.
func (p *Provider) token(w http.ResponseWriter, r *http.Request) {
	p.mu.Lock()
	of, ok := p.codes[r.FormValue("code")]
	delete(p.codes, r.FormValue("code"))
	p.mu.Unlock()
	proof := sha256.Sum256([]byte(r.FormValue("code_verifier")))
	if !ok || of.back != r.FormValue("redirect_uri") ||
		base64.RawURLEncoding.EncodeToString(proof[:]) != of.challenge {
		w.WriteHeader(http.StatusBadRequest)
		tell(w, map[string]string{"error": "invalid_grant"})
		return
	}
	signer, err := jose.NewSigner(jose.SigningKey{Algorithm: jose.RS256, Key: jose.JSONWebKey{Key: p.key, KeyID: "own"}},
		nil)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	now := time.Now() // tokens are of the day that clients have
	said, err := jwt.Signed(signer).Claims(jwt.Claims{Issuer: p.Issuer, Subject: "subject-of-" + of.person.Name,
		Audience: jwt.Audience{p.Client}, IssuedAt: jwt.NewNumericDate(now), Expiry: jwt.NewNumericDate(now.Add(time.Hour))}).
		Claims(map[string]any{"nonce": of.nonce}).Serialize()
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	access := rand.Text()
	p.mu.Lock()
	p.by[access] = of.person
	p.mu.Unlock()
	tell(w, map[string]any{"access_token": access, "token_type": "Bearer", "expires_in": 3600, "id_token": said})
}

// who says more of whom a token is of.
func (p *Provider) who(w http.ResponseWriter, r *http.Request) {
	const bearer = "Bearer "
	text := r.Header.Get("Authorization")
	p.mu.Lock()
	person, ok := p.by[text[min(len(bearer), len(text)):]]
	p.mu.Unlock()
	if !ok {
		w.WriteHeader(http.StatusUnauthorized)
		return
	}
	tell(w, map[string]any{"sub": "subject-of-" + person.Name, "preferred_username": person.Name, "name": person.Title,
		"groups": person.Groups, "units": person.Units})
}

// leave sends back who left.
func (p *Provider) leave(w http.ResponseWriter, r *http.Request) {
	http.Redirect(w, r, r.URL.Query().Get("post_logout_redirect_uri"), http.StatusSeeOther)
}
