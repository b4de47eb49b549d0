package server_test

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/librarytest"
	"mantilla/server"
)

// TestTheServiceLiesBelowAPath reaches the console, its files and calls below the path of the public
// address, whether or not the proxy takes the path away, and looks at where cookies and files belong.
func TestTheServiceLiesBelowAPath(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.OpenWith(t, demotest.Loaded(t, now.Time()), now,
		func(s *library.Settings) { s.Address = "https://house.example.org/reports" })
	page := `<link href="./mark.svg"><meta name="below" content="" /><script src="./assets/a.js"></script>`
	handler, err := server.Handler(l, server.Settings{Console: fstest.MapFS{"index.html": {Data: []byte(page)},
		"assets/a.js": {Data: []byte("1")}}, Local: true, Closing: make(chan struct{})}, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	web := httptest.NewServer(handler)
	t.Cleanup(web.Close)
	for path, want := range map[string]string{
		"/reports/":               `<script src="/reports/assets/a.js">`,
		"/reports/results/R-1":    `<meta name="below" content="/reports" />`,
		"/results/R-1":            `<link href="/reports/mark.svg">`, // where the proxy took it away
		"/reports":                `<script src="/reports/assets/a.js">`,
		"/reports/assets/a.js":    "1",
		"/reports/api/service":    `"name"`,
		"/reports/api/v1/service": `"name"`,
		"/api/service":            `"name"`,
	} {
		r, err := http.Get(web.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(r.Body)
		r.Body.Close()
		if err != nil || r.StatusCode != http.StatusOK || !strings.Contains(string(body), want) {
			t.Errorf("%s: %d %s, %v", path, r.StatusCode, body, err)
		}
	}
	r, err := http.Post(web.URL+"/reports/api/session", "application/json",
		strings.NewReader(`{"name": "rhea", "password": "`+demo.Password+`"}`))
	if err != nil {
		t.Fatal(err)
	}
	r.Body.Close()
	if cookies := r.Cookies(); len(cookies) != 1 || cookies[0].Path != "/reports/" {
		t.Errorf("the cookie belongs to %v", cookies)
	}
}
