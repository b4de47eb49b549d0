// Package server answers HTTP: it maps the contract to calls of the library,
// streams progress, and serves the console's files.
package server

import (
	"io/fs"
	"net/http"
	"slices"
	"strings"
	"time"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/identity"
	"mantilla/model"
	"mantilla/server/answer"
	"mantilla/server/asking"
	"mantilla/server/audit"
	"mantilla/server/backup"
	"mantilla/server/capture"
	"mantilla/server/care"
	"mantilla/server/catalog"
	"mantilla/server/controls"
	"mantilla/server/desk"
	"mantilla/server/drafting"
	"mantilla/server/entering"
	"mantilla/server/files"
	"mantilla/server/guide"
	"mantilla/server/health"
	"mantilla/server/history"
	"mantilla/server/keeping"
	"mantilla/server/meaning"
	"mantilla/server/moving"
	"mantilla/server/needs"
	"mantilla/server/people"
	"mantilla/server/reading"
	"mantilla/server/reconciling"
	"mantilla/server/secrets"
	"mantilla/server/sending"
	"mantilla/server/shelf"
	"mantilla/server/standing"
	"mantilla/server/trash"
)

// service implements the generated server interface: the handlers of all rooms.
type service struct {
	*answer.Service
	people.People
	catalog.Catalog
	asking.Asking
	capture.Runs
	reading.Results
	controls.Controls
	desk.Desk
	needs.Needs
	sending.Sending
	drafting.Drafting
	moving.Moving
	meaning.Meaning
	care.Care
	shelf.Shelf
	keeping.Keeping
	reconciling.Reconciling
	history.History
	entering.Entering
	trash.Trash
	secrets.Secrets
	backup.Backup
	guide.Guide
	audit.Audit
	standing.Standing
	files.Files
	health.Health

	rules   *rules // of the contract
	observe func(operation string, status int, took time.Duration)
	paces   *paces
}

// newService gives every room's handlers what they are made with.
func newService(of *answer.Service, rules *rules) *service {
	reports, results := catalog.Catalog{Service: of}, reading.Results{Service: of}
	return &service{of, people.New(of), reports, asking.Asking{Service: of}, capture.Runs{Service: of},
		results, controls.Controls{Service: of}, desk.Desk{Service: of}, needs.Needs{Service: of},
		sending.Sending{Service: of},
		drafting.Drafting{Service: of, Catalog: reports, Results: results}, moving.Moving{Service: of},
		meaning.Meaning{Service: of}, care.Care{Service: of}, shelf.Shelf{Service: of}, keeping.Keeping{Service: of},
		reconciling.Reconciling{Service: of}, history.History{Service: of},
		entering.Entering{Service: of}, trash.Trash{Service: of}, secrets.Secrets{Service: of}, backup.Backup{Service: of},
		guide.Guide{Service: of},
		audit.Audit{Service: of}, standing.Standing{Service: of},
		files.Files{Service: of},
		health.Health{Service: of},
		rules, func(string, int, time.Duration) {}, nil}
}

var _ handlers.StrictServerInterface = (*service)(nil)

// Bounds of the bodies of requests; whole files are sent as what they are.
const (
	maxBody = 4 << 20
	maxFile = 64 << 20
)

// mostOf bounds the body of a request.
func mostOf(r *http.Request) int64 {
	if strings.HasPrefix(r.Header.Get("Content-Type"), "application/octet-stream") {
		return maxFile
	}
	return maxBody
}

// Settings are what the handler is made with beside the library.
type Settings struct {
	Console        fs.FS  // the built console
	Version        string // of the program
	TrustedProxies []string
	Closing        <-chan struct{}    // closed when open streams should end
	Provider       *identity.Provider // nil for none
	Local          bool               // people sign in by passwords too
	Rate           float64            // requests a second that a person or a machine may go on making; 0 for any
	// Observe is told of every request that was answered; nil for nobody.
	Observe func(operation string, status int, took time.Duration)
}

// refuseSite answers a call that another site made a browser send.
func refuseSite(w http.ResponseWriter, _ *http.Request) {
	p := api.Problem{Type: "forbidden", Title: "You may not do this", Status: http.StatusForbidden, Fields: []api.Fault{},
		Detail: "the call came from a page of another site; use the console, or a token"}
	write(w, p)
}

// bounded keeps bodies from being read beyond their bound.
func bounded(w http.ResponseWriter, r *http.Request) error {
	r.Body = http.MaxBytesReader(w, r.Body, mostOf(r))
	return nil
}

// console serves the console's files; every path that is a place within the
// console is its page, which its own router reads. Any other path is not there.
func console(files fs.FS, prefix string) func(w http.ResponseWriter, r *http.Request) error {
	server := http.FileServerFS(files)
	return func(w http.ResponseWriter, r *http.Request) error {
		path := strings.TrimPrefix(r.URL.Path, "/")
		if r.Method != http.MethodGet && r.Method != http.MethodHead || strings.HasPrefix(path, "api/") {
			return &model.Missing{What: "call", Name: r.Method + " " + r.URL.Path}
		}
		if info, err := fs.Stat(files, path); path != "" && err == nil && !info.IsDir() {
			if strings.HasPrefix(path, "assets/") {
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			server.ServeHTTP(w, r)
			return nil
		}
		page, err := fs.ReadFile(files, "index.html")
		place, _, _ := strings.Cut(path, "/")
		known := slices.Contains(places, place)
		switch {
		case err != nil:
			http.Error(w, "The console was not built into this service; run make build.", http.StatusNotFound)
			return nil
		case !known && !strings.Contains(r.Header.Get("Accept"), "text/html"):
			http.Error(w, "There is nothing at this address. The console begins at /.", http.StatusNotFound)
			return nil
		}
		w.Header().Set("Cache-Control", "no-cache")
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		if !known {
			w.WriteHeader(http.StatusNotFound) // the console says so, and leads on
		}
		_, err = w.Write(placed(page, prefix))
		return err
	}
}

// places are the first parts of the console's addresses.
var places = []string{"", "catalog", "reports", "open", "runs", "results", "controls", "timetable", "sending", "office",
	"account"}
