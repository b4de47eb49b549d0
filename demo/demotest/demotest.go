// Package demotest starts the whole service on the demo data for tests, on an
// address of its own and with its own records.
package demotest

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"testing"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/console"
	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/demo"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/server"
	"mantilla/store"
)

// Service is a running service.
type Service struct {
	URL     string
	Dir     string // its data directory
	Source  string // path of the cooperative's database
	Library *library.Library
	Token   string                      // of the administrator
	Client  *client.ClientWithResponses // calls as the administrator
}

// Start starts a service that ends with the test.
func Start(t testing.TB) *Service {
	t.Helper()
	return start(t, Loaded(t, noon), false)
}

// StartNamed starts one that knows at what address people reach it.
func StartNamed(t testing.TB) *Service {
	t.Helper()
	return start(t, Loaded(t, noon), true)
}

// StartAfterAYear starts a service after a year in which it kept the stages of training each month.
func StartAfterAYear(t testing.TB) *Service {
	t.Helper()
	return start(t, afterAYear(t, noon), false)
}

// noon is when the services of the tests begin.
var noon = demo.Today.Time().Add(12 * time.Hour)

// clock goes on from a moment.
func clock(from time.Time) func() time.Time {
	begun := time.Now()
	return func() time.Time { return from.Add(time.Since(begun)) }
}

// openLibrary opens the records of a data directory, with a mailbox where there is one.
func openLibrary(ctx context.Context, dir, address string, now func() time.Time, box *mailbox.Box,
	log *slog.Logger) (l *library.Library, end func() error, err error) {
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		return nil, nil, err
	}
	records, err := store.Open(ctx, dir, 64<<20)
	if err != nil {
		return nil, nil, err
	}
	settings := library.Settings{
		Organisation: model.Organisation{Name: "Brackenfell Honey Cooperative", Zone: zone, Currency: "EUR", Now: now,
			Address: address},
		Limits:  capture.Limits{Rows: 1_000_000, Time: time.Minute, Workers: 2},
		DataDir: dir,
	}
	if box != nil {
		settings.Sending = sending.Settings{
			Mail:      deliver.Server{Address: box.Address(), From: "Reports <reports@brackenfell.example>", TLS: "none"},
			MailLimit: 10 << 20,
			Folder:    filepath.Join(dir, "outgoing"),
			Mailbox:   box,
		}
	}
	if l, err = library.Open(ctx, records, settings, log); err != nil {
		return nil, nil, errors.Join(err, records.Close())
	}
	return l, func() error { return errors.Join(l.Close(), records.Close()) }, nil
}

func start(t testing.TB, dir string, named bool) *Service {
	t.Helper()
	s := &Service{Dir: dir, Source: filepath.Join(dir, demo.SourceFile)}
	now, log := clock(noon), slog.New(slog.DiscardHandler)
	box, err := mailbox.Open(filepath.Join(s.Dir, "mailbox"), "127.0.0.1:0", now)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { box.Close() })
	web, address := httptest.NewUnstartedServer(nil), ""
	if named {
		address = "http://" + web.Listener.Addr().String()
	}
	var end func() error
	s.Library, end, err = openLibrary(context.Background(), dir, address, now, box, log)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := end(); err != nil {
			t.Errorf("closing the service: %v", err)
		}
	})
	closing := make(chan struct{})
	handler, err := server.Handler(s.Library, server.Settings{Console: console.Files(), Version: "test", Closing: closing},
		log)
	if err != nil {
		t.Fatal(err)
	}
	web.Config.Handler = handler
	web.Start()
	t.Cleanup(web.Close)
	t.Cleanup(func() { close(closing) })
	s.URL = web.URL
	s.Token, s.Client = s.As(t, "adda")
	return s
}

// As signs a person of the demo in, and returns the token and a client that
// calls with it.
func (s *Service) As(t testing.TB, name string) (token string, caller *client.ClientWithResponses) {
	t.Helper()
	token, _, _, err := s.Library.Door().SignIn(context.Background(),
		access.Knock{Name: name, Password: demo.Password, Kind: "token", Label: "test"})
	if err == nil { // or nobody could read what it asks that for
		var a *library.Access
		if a, err = s.Library.AsPerson(context.Background(), name); err == nil && a.Opens("pay-checklist") {
			err = a.SayPurpose(context.Background(), "pay-checklist", "tests of its figures")
		}
	}
	if err == nil {
		caller, err = client.NewClientWithResponses(s.URL+"/api", client.WithRequestEditorFn(Bearer(token)))
	}
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	return token, caller
}

// Bearer adds a token to a request.
func Bearer(token string) client.RequestEditorFn {
	return func(_ context.Context, r *http.Request) error {
		r.Header.Set("Authorization", "Bearer "+token)
		return nil
	}
}

// Exec changes the source.
func (s *Service) Exec(t testing.TB, sql string) {
	t.Helper()
	c, err := sqlite3.Open(s.Source)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	if err := c.BusyTimeout(10 * time.Second); err != nil { // the service may be looking at it
		t.Fatal(err)
	}
	if err := c.Exec(sql); err != nil {
		t.Fatal(err)
	}
}

// Ask computes figures straight from the source: the first row of a query.
func (s *Service) Ask(t testing.TB, sql string) (row []string) {
	t.Helper()
	c, err := sqlite3.Open(s.Source)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	stmt, _, err := c.Prepare(sql)
	if err != nil {
		t.Fatal(err)
	}
	defer stmt.Close()
	if !stmt.Step() {
		t.Fatalf("no row: %v", stmt.Err())
	}
	for i := range stmt.ColumnCount() {
		row = append(row, stmt.ColumnText(i))
	}
	return row
}

// Run runs a report to its end and returns the run.
func (s *Service) Run(t testing.TB, report string, values api.Values) api.Run {
	t.Helper()
	ctx := context.Background()
	if values == nil {
		values = api.Values{}
	}
	asked, err := s.Client.StartRunWithResponse(ctx, nil, api.Ask{Report: report, Values: values})
	if err != nil || asked.JSON201 == nil {
		t.Fatalf("%s was not started: %v %s", report, err, asked.Body)
	}
	for begun := time.Now(); ; time.Sleep(10 * time.Millisecond) {
		r, err := s.Client.GetRunWithResponse(ctx, asked.JSON201.Id)
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%s: %v %s", report, err, r.Body)
		}
		switch r.JSON200.State {
		case api.StateDone, api.StateFailed, api.StateStopped:
			return *r.JSON200
		}
		if time.Since(begun) > 30*time.Second {
			t.Fatalf("%s is still %s", report, r.JSON200.State)
		}
	}
}

// Result runs a report that must end well and returns its result's id.
func (s *Service) Result(t testing.TB, report string, values api.Values) string {
	t.Helper()
	run := s.Run(t, report, values)
	if run.Result == nil {
		t.Fatalf("%s ended as %s: %s", report, run.State, reason(run))
	}
	return *run.Result
}

func reason(run api.Run) string {
	if run.Reason == nil {
		return "no reason"
	}
	return *run.Reason
}

// Sheet reads a page of a view with plain cells.
func (s *Service) Sheet(t testing.TB, result, view string, params api.ReadViewParams) api.Sheet {
	t.Helper()
	plain := true
	params.Plain = &plain
	r, err := s.Client.ReadViewWithResponse(context.Background(), result, view, &params)
	if err != nil || r.JSON200 == nil {
		t.Fatalf("view %s of %s: %v %s", view, result, err, r.Body)
	}
	return *r.JSON200
}

// Draft begins a change of a report as the service and returns the draft's id.
func (s *Service) Draft(t testing.TB, report string) string {
	t.Helper()
	r, err := s.Client.BeginDraftWithResponse(t.Context(), api.Beginning{Copy: &report})
	if err != nil || r.JSON201 == nil {
		t.Fatalf("beginning a draft: %v %s", err, r.Body)
	}
	return r.JSON201.Line.Id
}
