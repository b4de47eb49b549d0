package server

import (
	"net"
	"net/netip"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
)

// policy says what the console's pages may load: what comes from the service
// itself. Styles stand in the pages too, as the components write them.
const policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; " +
	"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// guarded sets the headers that keep browsers from guessing, framing, telling
// others and keeping what is private.
func guarded(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=(), payment=(), usb=()")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	if byTLS(c) {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

// trusting marks requests that come from a proxy whose word is taken.
func trusting(proxies []string) gin.HandlerFunc {
	var networks []netip.Prefix
	for _, text := range proxies { // they were read before
		if one, err := netip.ParseAddr(text); err == nil {
			networks = append(networks, netip.PrefixFrom(one, one.BitLen()))
		} else if many, err := netip.ParsePrefix(text); err == nil {
			networks = append(networks, many)
		}
	}
	return func(c *gin.Context) {
		host, _, err := net.SplitHostPort(c.Request.RemoteAddr)
		if err != nil {
			return
		}
		at, err := netip.ParseAddr(host)
		if err == nil && slices.ContainsFunc(networks, func(n netip.Prefix) bool { return n.Contains(at.Unmap()) }) {
			c.Set(byProxy, true)
		}
	}
}
