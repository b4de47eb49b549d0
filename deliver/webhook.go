package deliver

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"syscall"
	"time"
)

// Caller calls addresses on the web. Addresses inside, such as the machine's own
// and those of private networks, are refused after the name was resolved, since
// whoever may name an address to call could otherwise look around inside.
type Caller struct {
	// Allowed are the hosts, as host or host:port, that may be called; these
	// may lie inside. None allows all that lie outside.
	Allowed []string
}

// ErrNotCalled says that an address may not be called.
var ErrNotCalled = errors.New("may not be called: it lies inside, or is none of those that an administrator allows " +
	"with --web-hosts")

// Check tells whether an address may be called, as far as its text tells.
func (c Caller) Check(address string) error {
	request, err := http.NewRequest(http.MethodPost, address, nil)
	switch {
	case err != nil || request.URL.Host == "" || request.URL.Scheme != "https" && request.URL.Scheme != "http":
		return fmt.Errorf("%q is not an address such as https://example.org/reports", address)
	case request.URL.User != nil:
		return errors.New("an address that is called holds no password; the service signs its calls")
	case len(c.Allowed) > 0 && !c.named(request.URL.Host):
		return fmt.Errorf("the address %s %w", address, ErrNotCalled)
	}
	if ip, err := netip.ParseAddr(request.URL.Hostname()); err == nil && inside(ip) && !c.named(request.URL.Host) {
		return fmt.Errorf("the address %s %w", address, ErrNotCalled)
	}
	return nil
}

func (c Caller) named(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	return slices.ContainsFunc(c.Allowed,
		func(a string) bool { return strings.EqualFold(a, host) || strings.EqualFold(a, name) })
}

// Call sends a JSON text to an address on the web. The headers tell an id,
// which is the same whenever the call is repeated, and a signature: the
// HMAC-SHA256 (RFC 2104), with the secret, of the id, a point and the text, in
// hex. Redirections are not followed. Final tells that the address refused it and
// asking again would not help.
func (c Caller) Call(ctx context.Context, address, secret, id string, text []byte) (final bool, err error) {
	if err := c.Check(address); err != nil {
		return true, err
	}
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, address, bytes.NewReader(text))
	if err != nil {
		return true, fmt.Errorf("the address %s: %w", address, err)
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Mantilla-Delivery", id)
	request.Header.Set("Mantilla-Signature", "sha256="+Signature(secret, id, text))
	answer, err := c.client(c.named(request.URL.Host)).Do(request)
	if err != nil {
		return errors.Is(err, ErrNotCalled), fmt.Errorf("the address %s: %w", address, err)
	}
	defer answer.Body.Close()
	if answer.StatusCode < 300 {
		return false, nil
	}
	if answer.StatusCode < 400 {
		return true, fmt.Errorf("the address %s answered %s; redirections are not followed, so name the address it leads to",
			address, answer.Status)
	}
	final = answer.StatusCode < 500 && answer.StatusCode != http.StatusRequestTimeout &&
		answer.StatusCode != http.StatusTooManyRequests
	return final, fmt.Errorf("the address %s answered %s", address, answer.Status)
}

// client makes one call by one connection; unless the host is named as allowed,
// it connects to nothing inside.
func (c Caller) client(named bool) *http.Client {
	dialer := net.Dialer{Timeout: 10 * time.Second}
	if !named {
		dialer.Control = func(_, address string, _ syscall.RawConn) error {
			end, err := netip.ParseAddrPort(address)
			if err != nil || inside(end.Addr()) {
				return ErrNotCalled
			}
			return nil
		}
	}
	return &http.Client{
		Transport: &http.Transport{
			DialContext:         dialer.DialContext,
			DisableKeepAlives:   true,
			TLSHandshakeTimeout: 10 * time.Second,
			ForceAttemptHTTP2:   true,
		},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}
}

// shared are networks of providers (RFC 6598), benchmarks (RFC 2544), the old
// path to IPv6 (RFC 7526) and addresses that stand for others (RFC 6052).
var shared = []netip.Prefix{netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("192.0.0.0/24"), netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("64:ff9b::/96")}

// inside tells whether an address is no public one.
func inside(ip netip.Addr) bool {
	ip = ip.Unmap()
	return !ip.IsGlobalUnicast() || ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast() ||
		slices.ContainsFunc(shared, func(p netip.Prefix) bool { return p.Contains(ip) })
}

// Signature signs a text under an id.
func Signature(secret, id string, text []byte) string {
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write([]byte(id + "."))
	mac.Write(text)
	return hex.EncodeToString(mac.Sum(nil))
}
