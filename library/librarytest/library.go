// Package librarytest opens libraries for tests: on the demo's data, with a clock
// that the test moves and a mail server beside.
package librarytest

import (
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"
	"testing"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/store"
)

// On is a library over records that are open, with another currency.
func On(t *testing.T, records *store.Store, dir string, now *Clock, currency string) *library.Library {
	t.Helper()
	l, err := library.Open(t.Context(), records, library.Settings{
		Organisation: model.Organisation{Zone: Berlin, Currency: currency, Now: now.Time},
		Limits:       capture.Limits{Rows: 1_000_000, Time: 10 * time.Minute, Workers: 1},
		Sending:      sending.Settings{MailLimit: 10 << 20},
		DataDir:      dir,
	}, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// Open makes a library on the demo's catalog with a clock that the test moves.
func Open(t *testing.T, dir string, now *Clock) *library.Library {
	t.Helper()
	return OpenWith(t, dir, now, func(*library.Settings) {})
}

// OpenWith makes a library with further settings.
func OpenWith(t *testing.T, dir string, now *Clock, change func(*library.Settings)) *library.Library {
	t.Helper()
	records, err := store.Open(t.Context(), dir, 32<<20)
	if err != nil {
		t.Fatal(err)
	}
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	settings := library.Settings{
		Organisation: model.Organisation{Zone: zone, Currency: "EUR", Now: now.Time},
		Limits:       capture.Limits{Rows: 1_000_000, Time: 10 * time.Minute, Workers: 1},
		Sending:      sending.Settings{MailLimit: 10 << 20, Folder: filepath.Join(dir, "outgoing")},
		DataDir:      dir,
	}
	change(&settings)
	l, err := library.Open(t.Context(), records, settings, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := errors.Join(l.Close(), records.Close()); err != nil {
			t.Error(err)
		}
	})
	return l
}

// WithPeople is the demo's library with its people.
func WithPeople(t *testing.T, now *Clock) *library.Library {
	t.Helper()
	return Open(t, demotest.Loaded(t, now.Time()), now)
}

// Exec changes the records behind the service's back.
func Exec(t *testing.T, dir, text string, args ...any) {
	t.Helper()
	if err := TryExec(dir, text, args...); err != nil {
		t.Fatal(text, err)
	}
}

// TryExec tries to change them.
func TryExec(dir, text string, args ...any) error {
	c, err := sqlite3.Open(dir + "/" + store.RecordsFile)
	if err != nil {
		return err
	}
	defer c.Close()
	if err := c.BusyTimeout(10 * time.Second); err != nil {
		return err
	}
	stmt, _, err := c.Prepare(text)
	if err != nil {
		return err
	}
	defer stmt.Close()
	for i, a := range args {
		if err := stmt.BindText(i+1, fmt.Sprint(a)); err != nil {
			return err
		}
	}
	return stmt.Exec()
}
