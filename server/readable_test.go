package server_test

import (
	"net/http"
	"strings"
	"testing"

	"mantilla/demo/demotest"
)

// TestTheContractIsReadable at /api/, every call of it, and calls may name the version of their paths.
func TestTheContractIsReadable(t *testing.T) {
	s := demotest.Start(t)
	page := ask(t, "GET", s.URL+"/api/", "", nil)
	if page.status != http.StatusOK || !strings.HasPrefix(page.headers.Get("Content-Type"), "text/html") {
		t.Fatalf("it is answered %d, %v", page.status, page.headers)
	}
	for id := range calls {
		if !strings.Contains(page.body, `id="`+id+`"`) {
			t.Errorf("%s is not told", id)
		}
	}
	if !strings.Contains(page.body, "GET /api/v1/results/{result}/views/{view}") ||
		!strings.Contains(page.body, "application/pdf") && !strings.Contains(page.body, "octet-stream") {
		t.Error("a call is told without its path, or what it answers")
	}
	plain, same := ask(t, "GET", s.URL+"/api/service", "", nil), ask(t, "GET", s.URL+"/api/v1/service", "", nil)
	if same.status != http.StatusOK || same.body != plain.body {
		t.Errorf("by the version it is %d %s", same.status, same.body)
	}
	if other := ask(t, "GET", s.URL+"/api/v2/service", "", nil); other.status != http.StatusNotFound &&
		other.status != http.StatusUnauthorized {
		t.Errorf("a version that there is not: %d", other.status)
	}
	if closed := ask(t, "GET", s.URL+"/api/v1/catalog", "", nil); closed.status != http.StatusUnauthorized {
		t.Errorf("without a session: %d", closed.status)
	}
}
