package server_test

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"mantilla/console"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/server"
)

// answered is what a call got.
type answered struct {
	status  int
	headers http.Header
	body    string
}

// ask makes a call with headers, and follows no redirection.
func ask(t *testing.T, method, address, body string, headers map[string]string) answered {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), method, address, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for name, value := range headers {
		r.Header.Set(name, value)
	}
	got, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error {
		return http.ErrUseLastResponse
	}}).Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer got.Body.Close()
	text, err := io.ReadAll(got.Body)
	if err != nil {
		t.Fatal(err)
	}
	return answered{got.StatusCode, got.Header, string(text)}
}

// TestHeadersGuardEveryAnswer looks at pages, calls that are private, faults and
// what is not there.
func TestHeadersGuardEveryAnswer(t *testing.T) {
	s := demotest.Start(t)
	signed := map[string]string{"Authorization": "Bearer " + s.Token}
	for path, want := range map[string]struct {
		status int
		store  string
	}{
		"/": {200, ""}, "/reports/intake-lots": {200, ""}, "/api/catalog": {200, "no-store"},
		"/api/service": {200, "no-store"}, "/api/results/R-999999": {404, "no-store"},
		"/api/nothing": {404, "no-store"}, "/healthz": {404, ""}, "/assets/none.js": {404, ""}, "/favicon.png": {404, ""},
		"/.env": {404, ""},
	} {
		got := ask(t, "GET", s.URL+path, "", signed)
		if got.status != want.status {
			t.Errorf("%s: %d", path, got.status)
		}
		for name, value := range map[string]string{"Content-Security-Policy": "frame-ancestors 'none'",
			"X-Content-Type-Options": "nosniff", "Referrer-Policy": "same-origin", "Permissions-Policy": "camera=()"} {
			if !strings.Contains(got.headers.Get(name), value) {
				t.Errorf("%s: %s is %q", path, name, got.headers.Get(name))
			}
		}
		if want.store != "" && got.headers.Get("Cache-Control") != want.store {
			t.Errorf("%s is kept: %q", path, got.headers.Get("Cache-Control"))
		}
		if got.headers.Get("Strict-Transport-Security") != "" {
			t.Errorf("%s asks for TLS, which there is not", path)
		}
	}
}

// TestOnlyTrustedProxiesSpeakForOthers signs in through a proxy that speaks TLS to
// the browser: one that is trusted, and one that only says so.
func TestOnlyTrustedProxiesSpeakForOthers(t *testing.T) {
	s := demotest.Start(t)
	by := map[string]string{"X-Forwarded-Proto": "https", "X-Forwarded-For": "203.0.113.7"}
	body := `{"name": "runa", "password": "` + demo.Password + `"}`
	for _, c := range []struct {
		trusted []string
		headers map[string]string
		secure  bool
	}{
		{nil, by, false}, {[]string{"10.0.0.0/8"}, by, false}, {[]string{"127.0.0.1"}, by, true},
		{[]string{"127.0.0.0/8", "::1"}, by, true}, {[]string{"127.0.0.1"}, nil, false},
	} {
		handler, err := server.Handler(s.Library,
			server.Settings{Console: console.Files(), Version: "test", Closing: make(chan struct{}), TrustedProxies: c.trusted},
			slog.New(slog.DiscardHandler))
		if err != nil {
			t.Fatal(err)
		}
		web := httptest.NewServer(handler)
		got := ask(t, "POST", web.URL+"/api/session", body, c.headers)
		cookie := got.headers.Get("Set-Cookie")
		if got.status != http.StatusOK || !strings.Contains(cookie, "HttpOnly") ||
			!strings.Contains(cookie, "SameSite=Strict") {
			t.Fatalf("%+v: %d %s %q", c, got.status, got.body, cookie)
		}
		if strings.Contains(cookie, "Secure") != c.secure ||
			(got.headers.Get("Strict-Transport-Security") != "") != c.secure {
			t.Errorf("trusting %v with %v: cookie %q, TLS asked for %q", c.trusted, c.headers, cookie,
				got.headers.Get("Strict-Transport-Security"))
		}
		web.Close()
	}
	if _, err := server.Handler(s.Library,
		server.Settings{Console: console.Files(), Closing: make(chan struct{}), TrustedProxies: []string{"the proxy"}},
		slog.New(slog.DiscardHandler)); err == nil || !strings.Contains(err.Error(), "trusted-proxies") {
		t.Errorf("a proxy that is no address: %v", err)
	}
}

// TestCalendarProgramsReadTheFeed subscribes as a calendar program does, which signs
// in nowhere, until the address is replaced.
func TestCalendarProgramsReadTheFeed(t *testing.T) {
	s := demotest.Start(t)
	_, runa := s.As(t, "runa")
	feed := func() string {
		r, err := runa.NewFeedWithResponse(t.Context())
		if err != nil || r.JSON201 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		return s.URL + r.JSON201.Path
	}
	first := feed()
	got := ask(t, "GET", first, "", nil)
	if got.status != http.StatusOK || !strings.HasPrefix(got.headers.Get("Content-Type"), "text/calendar") ||
		!strings.HasPrefix(got.body, "BEGIN:VCALENDAR\r\n") || !strings.Contains(got.body, "BEGIN:VEVENT") {
		t.Fatalf("%d %v %.300s", got.status, got.headers, got.body)
	}
	second := feed()
	if got := ask(t, "GET", first, "", nil); got.status != http.StatusNotFound {
		t.Errorf("the earlier address: %d %.100s", got.status, got.body)
	}
	if got := ask(t, "GET", second, "", nil); got.status != http.StatusOK {
		t.Errorf("the later address: %d %.100s", got.status, got.body)
	}
	for _, wrong := range []string{second + "x", s.URL + "/api/timetable/feed/", s.URL + "/api/timetable/feed/%00",
		s.URL + "/api/timetable/feed/" + strings.Repeat("a", 10_000)} {
		if got := ask(t, "GET", wrong, "", nil); got.status < 400 || got.status >= 500 ||
			strings.Contains(got.body, "VCALENDAR") {
			t.Errorf("%.80s: %d %.100s", wrong, got.status, got.body)
		}
	}
}
