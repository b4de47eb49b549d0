package server

import (
	"net/http"
	"strings"

	"mantilla/server/answer"
)

// signedIn finds out who calls, by token or cookie, and refuses strangers where
// the contract wants somebody. Against calls that other sites make a browser send
// with its cookie, the whole handler is wrapped in [http.CrossOriginProtection].
func (s *service) signedIn(_ http.ResponseWriter, r *http.Request) (err error) {
	if !strings.HasPrefix(r.URL.Path, "/api/") || s.rules.open(r) {
		return nil
	}
	c := answer.CallOf(r.Context())
	if c.Who, err = s.Library.WhoHas(r.Context(), c.Secret); err != nil {
		return err
	}
	c.Who.Sits(c.Numbers)
	return nil
}
