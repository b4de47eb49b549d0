// Package identity asks an OpenID Connect provider who somebody is: by a code that the browser
// brings back, with a proof key (RFC 7636), as OpenID Connect Core 1.0 has it.
package identity

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"mantilla/model"
)

// Settings say who is asked, and which claims say what.
type Settings struct {
	Issuer string // address of the provider; "" for none
	Client string // id that this service has there
	Secret string // "" for a client that has none
	Label  string // what people call the provider
	Scopes []string

	Name, Title, Groups, Units string // claims; groups and units are left alone where these are ""
}

// Provider is one that is asked. It is safe for several goroutines.
type Provider struct {
	settings Settings

	mu    sync.Mutex
	found *oidc.Provider // nil until it answered
}

// New makes a provider, which is not asked yet; nil where there is none.
func New(s Settings) *Provider {
	if s.Issuer == "" {
		return nil
	}
	return &Provider{settings: s}
}

// Label is what people call it.
func (p *Provider) Label() string { return p.settings.Label }

// Begun is a sign-in that somebody was sent away for. It is told to nobody.
type Begun struct {
	State, nonce, verifier string
	Back                   string // the address that they come back to
	At                     time.Time
}

// What keeps somebody from being known.
var (
	ErrSilent = errors.New("the provider does not answer")
	ErrDenied = errors.New("the provider did not sign them in")
)

// longestAsk is how long the provider may take.
const longestAsk = 10 * time.Second

// ask finds the provider's own addresses and keys, once.
func (p *Provider) ask(ctx context.Context) (*oidc.Provider, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.found != nil {
		return p.found, nil
	}
	// Keys are fetched again later, when the call that asked first is over.
	asking := oidc.ClientContext(context.WithoutCancel(ctx), &http.Client{Timeout: longestAsk})
	found, err := oidc.NewProvider(asking, p.settings.Issuer)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSilent, err)
	}
	p.found = found
	return found, nil
}

func (p *Provider) client(found *oidc.Provider, back string) *oauth2.Config {
	return &oauth2.Config{ClientID: p.settings.Client, ClientSecret: p.settings.Secret, Endpoint: found.Endpoint(),
		RedirectURL: back, Scopes: append([]string{oidc.ScopeOpenID, "profile"}, p.settings.Scopes...)}
}

// Begin returns the address to which somebody goes to be signed in, from where they come back to
// another.
func (p *Provider) Begin(ctx context.Context, back string, now time.Time) (address string, b Begun, err error) {
	ctx, cancel := context.WithTimeout(ctx, longestAsk)
	defer cancel()
	found, err := p.ask(ctx)
	if err != nil {
		return "", b, err
	}
	b = Begun{State: model.NewSecret(), nonce: model.NewSecret(), verifier: oauth2.GenerateVerifier(), Back: back, At: now}
	address = p.client(found, back).AuthCodeURL(b.State, oidc.Nonce(b.nonce), oauth2.S256ChallengeOption(b.verifier))
	return address, b, nil
}

// Claims are who somebody is for the provider.
type Claims struct {
	Subject     string // issuer and subject, which nobody else ever has
	Name, Title string
	Groups      []string // nil where these are not asked for
	Units       []string
}

// Finish asks who came back with a code.
func (p *Provider) Finish(ctx context.Context, b Begun, code string) (c Claims, err error) {
	ctx, cancel := context.WithTimeout(ctx, longestAsk)
	defer cancel()
	found, err := p.ask(ctx)
	if err != nil {
		return c, err
	}
	tokens, err := p.client(found, b.Back).Exchange(ctx, code, oauth2.VerifierOption(b.verifier))
	if err != nil {
		return c, fmt.Errorf("%w: %w", ErrDenied, err)
	}
	raw, _ := tokens.Extra("id_token").(string)
	proof, err := found.Verifier(&oidc.Config{ClientID: p.settings.Client}).Verify(ctx, raw)
	if err != nil {
		return c, fmt.Errorf("%w: what it says of them is not proven: %w", ErrDenied, err)
	}
	if proof.Nonce != b.nonce {
		return c, fmt.Errorf("%w: what it says is of another sign-in", ErrDenied)
	}
	claims := map[string]any{}
	if err := proof.Claims(&claims); err != nil {
		return c, fmt.Errorf("reading what the provider says: %w", err)
	}
	if info, err := found.UserInfo(ctx, oauth2.StaticTokenSource(tokens)); err == nil && info.Subject == proof.Subject {
		if err := info.Claims(&claims); err != nil {
			return c, fmt.Errorf("reading what the provider says: %w", err)
		}
	}
	return p.read(proof, claims)
}

// read takes from the claims what the settings name.
func (p *Provider) read(proof *oidc.IDToken, claims map[string]any) (c Claims, err error) {
	s := p.settings
	text := func(claim string) string { said, _ := claims[claim].(string); return strings.TrimSpace(said) }
	c = Claims{Subject: proof.Issuer + "#" + proof.Subject, Name: strings.ToLower(text(s.Name)), Title: text(s.Title)}
	if c.Name == "" {
		return c, fmt.Errorf("%w: it does not say what they are called (%s)", ErrDenied, s.Name)
	}
	if c.Title == "" {
		c.Title = c.Name
	}
	for claim, into := range map[string]*[]string{s.Groups: &c.Groups, s.Units: &c.Units} {
		if claim == "" {
			continue
		}
		*into = []string{}
		switch said := claims[claim].(type) {
		case string:
			*into = strings.Fields(said)
		case []any:
			for _, one := range said {
				if text, ok := one.(string); ok {
					*into = append(*into, text)
				}
			}
		}
	}
	return c, nil
}

// Leave is the address at which somebody leaves the provider too, from where they come back to
// another; "" where it has none.
func (p *Provider) Leave(ctx context.Context, back string) string {
	ctx, cancel := context.WithTimeout(ctx, longestAsk)
	defer cancel()
	found, err := p.ask(ctx)
	if err != nil {
		return ""
	}
	var about struct {
		End string `json:"end_session_endpoint"`
	}
	if err := found.Claims(&about); err != nil || about.End == "" {
		return ""
	}
	at, err := url.Parse(about.End)
	if err != nil {
		return ""
	}
	q := at.Query()
	q.Set("client_id", p.settings.Client)
	q.Set("post_logout_redirect_uri", back)
	at.RawQuery = q.Encode()
	return at.String()
}
