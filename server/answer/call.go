package answer

import (
	"context"
	"net/http"
	"net/url"
	"strings"

	"mantilla/library"
)

// Call is what handlers know of a request beside what the contract has of it.
type Call struct {
	Library *library.Library
	Who     *library.Access // who calls; nil for nobody
	Secret  string          // that they showed
	From    string          // address of the machine
	ByTLS   bool            // to the service itself, or to a proxy whose word is taken
	URL     *url.URL
	Below   string // path below which people reach the service
	Known   string // tags of answers that the caller has
	Numbers string // how they are written where the caller sits

	Away      string // state of the sign-in that this browser was sent away for
	Operation string // of the contract, once it is known
}

// CommandLine is what the command line calls itself with.
const CommandLine = "mantilla"

// CallKey is under what a context has its call.
type CallKey struct{}

// CallOf returns the call that a context belongs to.
func CallOf(ctx context.Context) *Call { return ctx.Value(CallKey{}).(*Call) }

// As returns the library as whoever calls may use it.
func As(ctx context.Context) *library.Access { return CallOf(ctx).Who }

// Still tells whether whoever called is still signed in.
func (c *Call) Still(ctx context.Context) bool {
	_, err := c.Library.WhoHas(ctx, c.Secret)
	return err == nil
}

// Has tells whether the caller has the answer with a tag already.
func (c *Call) Has(tag string) bool {
	for known := range strings.SplitSeq(c.Known, ",") {
		if strings.TrimPrefix(strings.TrimSpace(known), "W/") == tag {
			return true
		}
	}
	return false
}

// Cookie is the name of a signed-in browser's cookie.
const Cookie = "mantilla"

// SecretIn is the secret that a request shows, as a token or a cookie.
func SecretIn(r *http.Request) string {
	if token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
		return token
	}
	text, err := r.Cookie(Cookie)
	if err != nil {
		return ""
	}
	return text.Value
}

// CookieOf writes the cookie of a secret, or with none the one that ends it.
func (c *Call) CookieOf(secret string) *string {
	set := http.Cookie{
		Name:     Cookie,
		Value:    secret,
		Path:     c.Below + "/",
		HttpOnly: true,
		SameSite: http.SameSiteStrictMode,
		Secure:   c.ByTLS,
	}
	if secret == "" {
		set.MaxAge = -1
	}
	text := set.String()
	return &text
}
