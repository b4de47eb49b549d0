package server

import (
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"

	"mantilla/server/answer"
)

// policy says what the console's pages may load: what comes from the service
// itself. Styles stand in the pages too, as the components write them.
const policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; " +
	"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// headed sets the headers that keep browsers from guessing, framing, telling
// others and keeping what is private.
func headed(w http.ResponseWriter, r *http.Request) error {
	h := w.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=(), payment=(), usb=()")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	if answer.CallOf(r.Context()).ByTLS {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	if strings.HasPrefix(r.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
	return nil
}

// networkList are the networks of proxies whose word is taken.
type networkList []netip.Prefix

// networks reads addresses and networks, which were checked before.
func networks(proxies []string) (all networkList) {
	for _, text := range proxies {
		if one, err := netip.ParseAddr(text); err == nil {
			all = append(all, netip.PrefixFrom(one, one.BitLen()))
		} else if many, err := netip.ParsePrefix(text); err == nil {
			all = append(all, many)
		}
	}
	return all
}

// have tells whether an address and port lie in one of the networks.
func (n networkList) have(remote string) bool {
	host, _, err := net.SplitHostPort(remote)
	if err != nil {
		return false
	}
	at, err := netip.ParseAddr(host)
	return err == nil && slices.ContainsFunc(n, func(p netip.Prefix) bool { return p.Contains(at.Unmap()) })
}
