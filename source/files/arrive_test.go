package files_test

import (
	"encoding/pem"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/source"
	"mantilla/source/files"
)

// TestTheNewestFileOfAFolderCounts drops files into a folder: one that is still written waits,
// one that was read is not read again, and one of another name is left alone.
func TestTheNewestFileOfAFolderCounts(t *testing.T) {
	at := source.Place{Dir: t.TempDir()}
	from := &source.FileFrom{Folder: "budgets", Files: "budget-*.csv"}
	dir := filepath.Join(at.Dir, source.Inbox, "budgets")
	if _, err := files.Arrived(t.Context(), from, at, ""); err == nil || !strings.Contains(err.Error(), "make it") {
		t.Errorf("without the folder: %v", err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		t.Fatal(err)
	}
	state := ""
	look := func(want string) {
		t.Helper()
		came, err := files.Arrived(t.Context(), from, at, state)
		got := ""
		if came != nil {
			got, state = came.Name+" "+string(came.Data), came.State
		}
		if err != nil || got != want {
			t.Errorf("came %q, %v, want %q", got, err, want)
		}
	}
	drop := func(name, text string, ago time.Duration) {
		t.Helper()
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(path, time.Time{}, time.Now().Add(-ago)); err != nil {
			t.Fatal(err)
		}
	}
	look("")
	drop("budget-1.csv", "one", 0)
	look("") // it may still be written
	drop("budget-1.csv", "one", time.Minute)
	look("budget-1.csv one")
	look("")
	drop("other.csv", "other", 10*time.Second)
	look("")
	drop("budget-2.csv", "two", 30*time.Second)
	look("budget-2.csv two")
	drop("budget-2.csv", "two, mended", 20*time.Second)
	look("budget-2.csv two, mended")
	if err := os.Remove(filepath.Join(dir, "budget-2.csv")); err != nil {
		t.Fatal(err)
	}
	look("budget-1.csv one")
}

// TestFilesAreFetched asks a server that knows what was read before, one that wants a token, one
// that sends elsewhere, and one that is not trusted.
func TestFilesAreFetched(t *testing.T) {
	asked := 0
	server := httptest.NewTLSServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked++
		switch {
		case r.URL.Path == "/moved":
			http.Redirect(w, r, "http://127.0.0.1/plain", http.StatusFound)
		case r.URL.Path == "/gone":
			http.NotFound(w, r)
		case r.Header.Get("Authorization") != "Bearer honey":
			w.WriteHeader(http.StatusUnauthorized)
		case r.Header.Get("If-None-Match") == `"v1"`:
			w.WriteHeader(http.StatusNotModified)
		default:
			w.Header().Set("ETag", `"v1"`)
			_, _ = w.Write([]byte("district,amount\n"))
		}
	}))
	defer server.Close()
	ca := filepath.Join(t.TempDir(), "ca.pem")
	text := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: server.Certificate().Raw})
	if err := os.WriteFile(ca, text, 0o600); err != nil {
		t.Fatal(err)
	}
	at := source.Place{Secrets: func(name string) (string, error) {
		return map[string]string{"right": "honey"}[name], nil
	}}
	from := source.FileFrom{Address: server.URL + "/exports/budget.csv?year=2027", Secret: "right", CA: ca}
	came, err := files.Arrived(t.Context(), &from, at, "")
	if err != nil || came.Name != "budget.csv" || string(came.Data) != "district,amount\n" || came.State != `"v1"` {
		t.Fatalf("%+v, %v", came, err)
	}
	if again, err := files.Arrived(t.Context(), &from, at, came.State); err != nil || again != nil || asked != 2 {
		t.Errorf("what is unchanged came again: %+v, %v", again, err)
	}
	for _, c := range []struct {
		change func(*source.FileFrom)
		want   string
	}{
		{func(f *source.FileFrom) { f.Secret = "wrong" }, "answers 401 Unauthorized"},
		{func(f *source.FileFrom) { f.Address = server.URL + "/gone" }, "answers 404 Not Found"},
		{func(f *source.FileFrom) { f.Address = server.URL + "/moved" }, "sent on to http://127.0.0.1/plain"},
		{func(f *source.FileFrom) { f.CA = "" }, "certificate signed by unknown authority"},
		{func(f *source.FileFrom) { f.CA = "/none.pem" }, "reading the certificates"},
	} {
		other := from
		c.change(&other)
		if came, err := files.Arrived(t.Context(), &other, at, ""); err == nil || came != nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("want %q, got %+v, %v", c.want, came, err)
		}
	}
}

func TestWhereFilesComeFromIsChecked(t *testing.T) {
	for from, want := range map[string]string{
		"{}":                                     "needs either a folder, an address, or a list",
		"{folder: a, address: 'https://x'}":      "needs either a folder, an address, or a list",
		"{folder: ../up}":                        "must lie within inbox",
		"{folder: a, every: 1h}":                 "looked into all the time",
		"{source: coop}":                         "needs the source and its list",
		"{source: coop, list: units, ca: x}":     "which are of addresses",
		"{source: coop, list: units, folder: x}": "needs either",
		"{source: coop, list: units, every: 2m}": "",
		"{folder: a, files: '['}":                "no pattern of names",
		"{address: 'http://x/y'}":                "it begins with https://",
		"{address: 'https://me:pass@x/y'}":       "has no password: use secret",
		"{address: 'https://x/y', every: 5s}":    "of at least 1m",
		"{address: 'https://x/y', files: a}":     "which is of folders",
		"{address: 'https://x/y', every: 30m}":   "",
		"{folder: budgets/new, files: 'b*.csv'}": "",
	} {
		_, err := source.ParseConfig([]byte("source: s\nkind: files\ntables:\n  t:\n    from: " + from +
			"\n    columns: [{name: a, type: text}]\n"))
		if want == "" && err != nil || want != "" && (err == nil || !strings.Contains(err.Error(), want)) {
			t.Errorf("%s is answered by %v", from, err)
		}
	}
}
