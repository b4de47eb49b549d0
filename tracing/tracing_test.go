package tracing_test

import (
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"mantilla/tracing"
)

// TestSpansReachTheCollector has a collector take what is sent: names and facts of the parts, what they
// belong to, that one failed, and nothing of why.
func TestSpansReachTheCollector(t *testing.T) {
	var mu sync.Mutex
	var got strings.Builder
	collector := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		mu.Lock()
		defer mu.Unlock()
		got.WriteString(r.URL.Path + " " + string(body))
	}))
	t.Cleanup(collector.Close)
	end, err := tracing.To(t.Context(), collector.URL, "1.2.3")
	if err != nil {
		t.Fatal(err)
	}
	r := httptest.NewRequest(http.MethodGet, "/x", nil)
	r.Header.Set("Traceparent", "00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01")
	ctx, request := tracing.Answering(r)
	request.Called("readView")
	_, part := tracing.Begin(ctx, "dataset lots", "mantilla.rows", int64(411))
	part.End(errors.New("no keeper Orla"))
	request.End(nil)
	end()
	mu.Lock()
	defer mu.Unlock()
	text := got.String()
	for _, want := range []string{"/v1/traces ", "readView", "dataset lots", "mantilla.rows", "1.2.3",
		"\x0a\xf7\x65\x19\x16\xcd\x43\xdd\x84\x48\xeb\x21\x1c\x80\x31\x9c", "failed; the log says why"} {
		if !strings.Contains(text, want) {
			t.Errorf("%q was not sent", want)
		}
	}
	if strings.Contains(text, "Orla") {
		t.Error("what failed says a value")
	}
	if _, err := tracing.To(t.Context(), "", "1"); err != nil {
		t.Errorf("to nowhere: %v", err)
	}
}
