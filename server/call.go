package server

import (
	"context"
	"net/http"
	"net/url"
	"strings"

	"mantilla/library"
)

// call is what handlers know of a request beside what the contract has of it.
type call struct {
	library *library.Library
	who     *library.Access // who calls; nil for nobody
	secret  string          // that they showed
	from    string          // address of the machine
	byTLS   bool            // to the service itself, or to a proxy whose word is taken
	url     *url.URL
	known   string // tags of answers that the caller has
}

type callKey struct{}

// of returns the call that a context belongs to.
func of(ctx context.Context) *call { return ctx.Value(callKey{}).(*call) }

// as returns the library as whoever calls may use it.
func as(ctx context.Context) *library.Access { return of(ctx).who }

// still tells whether whoever called is still signed in.
func (c *call) still(ctx context.Context) bool {
	_, err := c.library.WhoHas(ctx, c.secret)
	return err == nil
}

// has tells whether the caller has the answer with a tag already.
func (c *call) has(tag string) bool {
	for known := range strings.SplitSeq(c.known, ",") {
		if strings.TrimPrefix(strings.TrimSpace(known), "W/") == tag {
			return true
		}
	}
	return false
}

// cookie is the name of a signed-in browser's cookie.
const cookie = "mantilla"

// secretIn is the secret that a request shows, as a token or a cookie.
func secretIn(r *http.Request) string {
	if token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
		return token
	}
	text, err := r.Cookie(cookie)
	if err != nil {
		return ""
	}
	return text.Value
}

// cookieOf writes the cookie of a secret, or with none the one that ends it.
func (c *call) cookieOf(secret string) *string {
	set := http.Cookie{
		Name:     cookie,
		Value:    secret,
		Path:     "/",
		HttpOnly: true,
		SameSite: http.SameSiteStrictMode,
		Secure:   c.byTLS,
	}
	if secret == "" {
		set.MaxAge = -1
	}
	text := set.String()
	return &text
}

// signedIn finds out who calls, by token or cookie, and refuses strangers where
// the contract wants somebody. Against calls that other sites make a browser send
// with its cookie, the whole handler is wrapped in [http.CrossOriginProtection].
func (s *service) signedIn(_ http.ResponseWriter, r *http.Request) (err error) {
	if !strings.HasPrefix(r.URL.Path, "/api/") || s.rules.open(r) {
		return nil
	}
	c := of(r.Context())
	if c.who, err = s.library.WhoHas(r.Context(), c.secret); err != nil {
		return err
	}
	return nil
}
