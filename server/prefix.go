package server

import (
	"bytes"
	"net/http"
	"net/url"
	"strings"
)

// prefixOf is the path below which people reach the service at a proxy, such as /reports; "" for none.
func prefixOf(address string) string {
	at, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return strings.TrimRight(at.Path, "/")
}

// below answers below a path, whether or not the proxy takes it away on its way here.
func below(prefix string, handler http.Handler) http.Handler {
	if prefix == "" {
		return handler
	}
	stripped := http.StripPrefix(prefix, handler)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == prefix:
			http.Redirect(w, r, prefix+"/", http.StatusPermanentRedirect)
		case strings.HasPrefix(r.URL.Path, prefix+"/"):
			stripped.ServeHTTP(w, r)
		default:
			handler.ServeHTTP(w, r)
		}
	})
}

// placed is the console's page with its files, and where calls go, below a path.
func placed(page []byte, prefix string) []byte {
	page = bytes.ReplaceAll(page, []byte(`="./`), []byte(`="`+prefix+`/`))
	return bytes.ReplaceAll(page, []byte(`name="below" content=""`), []byte(`name="below" content="`+prefix+`"`))
}
