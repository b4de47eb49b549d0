package files_test

import (
	"encoding/pem"
	"errors"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/catalog"
	"mantilla/library/librarytest"
	"mantilla/model"
	"mantilla/source"
)

// TestFilesComeByThemselves drops files into a watched folder: a good one is taken while nobody
// asks, a bad one is told and leaves the table as it was, and a mended one is taken.
func TestFilesComeByThemselves(t *testing.T) {
	dir := t.TempDir()
	l := librarytest.OpenWith(t, dir, librarytest.At(morning), func(*library.Settings) {})
	lila, aron := l.AsService(), l.AsService()
	ctx, inbox := t.Context(), filepath.Join(dir, source.Inbox, "budgets")
	if err := os.MkdirAll(inbox, 0o700); err != nil {
		t.Fatal(err)
	}
	drop := func(name, text string, ago time.Duration) {
		t.Helper()
		path := filepath.Join(inbox, name)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(path, time.Time{}, time.Now().Add(-ago)); err != nil {
			t.Fatal(err)
		}
	}
	text := strings.Replace(declared, "    groups: [field]\n", "    from: {folder: budgets, files: '*.csv'}\n", 1)
	if err := lila.Catalog.PutSource(ctx, "budgets", []byte(text)); err != nil {
		t.Fatal(err)
	}
	if _, err := aron.Catalog.PutReport(ctx, []byte(budgets), catalog.Put{}); err != nil {
		t.Fatal(err)
	}
	drop("one.csv", "district,amount\nHollin,5.00\nMarr,7.25\n", time.Minute)
	for begun := time.Now(); ; time.Sleep(50 * time.Millisecond) {
		_, versions, err := lila.Files.Versions(ctx, "budgets")
		if err != nil || time.Since(begun) > 20*time.Second {
			t.Fatalf("nothing came: %v", err)
		}
		if len(versions) == 1 && versions[0].Person == "" && versions[0].Rows == 2 && versions[0].Name == "one.csv" {
			break
		}
	}
	if got := rows(t, lila); got != 2 {
		t.Errorf("the report has %d rows", got)
	}
	drop("two.csv", "district,amount\nHollin,five\n", 30*time.Second)
	looked, err := lila.Files.LookNow(ctx, "budgets", "budget")
	if want := `two.csv was not taken; lines that do not fit: 1; line 2, amount: "five" is no number`; err != nil ||
		!strings.HasPrefix(looked.Fault, want) {
		t.Errorf("%+v, %v", looked, err)
	}
	problems, err := lila.Health.Problems(ctx, 0)
	told := false
	for _, p := range problems {
		told = told || p.Report == "budgets" && p.Kind == "no file" && strings.Contains(p.Says, "two.csv was not taken")
	}
	if err != nil || !told {
		t.Errorf("the health does not tell: %+v, %v", problems, err)
	}
	if got := rows(t, lila); got != 2 {
		t.Errorf("a file that was refused leaves %d rows", got)
	}
	drop("two.csv", "district,amount\nHollin,5\n", 20*time.Second)
	if looked, err = lila.Files.LookNow(ctx, "budgets", "budget"); err != nil || looked.Fault != "" {
		t.Errorf("%+v, %v", looked, err)
	}
	if got := rows(t, lila); got != 1 {
		t.Errorf("the mended file gives %d rows", got)
	}
	// A folder that is gone for a while is told for that while.
	if err := os.Rename(inbox, inbox+".away"); err != nil {
		t.Fatal(err)
	}
	if looked, err = lila.Files.LookNow(ctx, "budgets", "budget"); err != nil || !strings.Contains(looked.Fault,
		"there is no folder") {
		t.Errorf("%+v, %v", looked, err)
	}
	if err := os.Rename(inbox+".away", inbox); err != nil {
		t.Fatal(err)
	}
	if looked, err = lila.Files.LookNow(ctx, "budgets", "budget"); err != nil || looked.Fault != "" {
		t.Errorf("%+v, %v", looked, err)
	}
	// The same again is not taken twice; a table without a folder is not looked at.
	drop("three.csv", "district,amount\nHollin,5\n", 10*time.Second)
	if _, err := lila.Files.LookNow(ctx, "budgets", "budget"); err != nil {
		t.Error(err)
	}
	if _, versions, err := lila.Files.Versions(ctx, "budgets"); err != nil || len(versions) != 2 {
		t.Errorf("%d files, %v", len(versions), err)
	}
	if _, err := lila.Files.LookNow(ctx, "budgets", "other"); err == nil || !strings.Contains(err.Error(),
		"people bring them") {
		t.Errorf("%v", err)
	}
}

// TestWhoKeepsTheCatalogIsToldOfFiles tells once of each file that is not taken, and once it is
// mended, whoever looks.
func TestWhoKeepsTheCatalogIsToldOfFiles(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	ctx, lila := t.Context(), librarytest.SignIn(t, l, "lila")
	inbox := filepath.Join(l.Settings().DataDir, source.Inbox, "budgets")
	if err := os.MkdirAll(inbox, 0o700); err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(declared, "    groups: [field]\n", "    from: {folder: budgets, files: '*.csv'}\n", 1)
	if err := lila.Catalog.PutSource(ctx, "budgets", []byte(text)); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name, text string
		looks      int
		says       []string // what is new, the newest first
	}{
		{"", "", 2, nil}, // nothing came yet
		{"one.csv", "district,amount\nHollin,five\n", 3,
			[]string{"The file of “budget” for Budgets is missing: one.csv was not"}},
		{"two.csv", "district,amount\nHollin,six\n", 2,
			[]string{"The file of “budget” for Budgets is missing: two.csv was not"}},
		{"three.csv", "district,amount\nHollin,7.00\n", 2, []string{"The file of “budget” for Budgets is taken again."}},
	} {
		if c.name != "" {
			path := filepath.Join(inbox, c.name)
			if err := os.WriteFile(path, []byte(c.text), 0o600); err != nil {
				t.Fatal(err)
			}
			left := time.Now().Add(-time.Minute + time.Duration(len(c.name))*time.Second)
			if err := os.Chtimes(path, time.Time{}, left); err != nil {
				t.Fatal(err)
			}
		}
		before, err := lila.Notices.List(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for range c.looks {
			if _, err := lila.Files.LookNow(ctx, "budgets", "budget"); err != nil {
				t.Fatal(err)
			}
		}
		after, err := lila.Notices.List(ctx)
		if err != nil || len(after) != len(before)+len(c.says) {
			t.Fatalf("%s: %d notices after %d, %v", c.name, len(after), len(before), err)
		}
		for i, says := range c.says {
			if !strings.HasPrefix(after[i].Says, says) || after[i].Place != "/office?desk=sources" {
				t.Errorf("%s: told is %q at %s", c.name, after[i].Says, after[i].Place)
			}
		}
	}
	if told, err := librarytest.SignIn(t, l, "runa").Notices.List(ctx); err != nil || len(told) != 0 {
		t.Errorf("others are told %v, %v", told, err)
	}
}

const joined = `source: budgets
title: Budgets
kind: files
units: units
tables:
  budget: {columns: [{name: district, type: text, key: true}, {name: amount, type: decimal, scale: 2}]}
  unit:
    from: {source: coop, list: units}
    columns: [{name: code, type: text, key: true}, {name: label, type: text}, {name: parent, type: text},
      {name: kind, type: text}]
lists:
  units: {from: unit, code: code, label: label, parent: parent, kind: kind}
`

// TestFilesAreJoinedWithListsOfOtherSources makes a table of the units of another source, so that a
// report on a file names districts and is cut to what a person may see.
func TestFilesAreJoinedWithListsOfOtherSources(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	ctx, lila, dora := t.Context(), librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "dora")
	if err := lila.Catalog.PutSource(ctx, "budgets", []byte(joined)); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Files.Take(ctx, "budgets", "budget", "budget.csv",
		[]byte("district,amount\nUF-HOL,5.00\nUF-MAR,7.25\n")); err != nil {
		t.Fatal(err)
	}
	looked, err := lila.Files.LookNow(ctx, "budgets", "unit")
	if err != nil || looked.Fault != "" {
		t.Fatalf("%+v, %v", looked, err)
	}
	text := strings.NewReplacer("    from: budget\n    scope: everyone\n",
		"    from: budget join unit on unit.code = budget.district\n    scope: budget.district\n",
		"is: district, type: text}", "is: unit.label, type: text}").Replace(budgets)
	if _, err := lila.Catalog.PutReport(ctx, []byte(text), catalog.Put{}); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Catalog.Open(ctx, "budgets", []model.Opening{{Kind: "everyone"}}); err != nil {
		t.Fatal(err)
	}
	if all, own := rows(t, librarytest.SignIn(t, l, "lila")), rows(t, dora); all != 2 || own != 1 {
		t.Errorf("%d rows, and %d for who sees one district", all, own)
	}
	// The list is read again when its source is another, and taken only where it changed.
	if _, err := lila.Files.LookNow(ctx, "budgets", "unit"); err != nil {
		t.Error(err)
	}
	if _, versions, err := lila.Files.Versions(ctx, "budgets"); err != nil || len(versions) != 2 ||
		versions[0].Name != "units of coop.jsonl" {
		t.Errorf("%+v, %v", versions, err)
	}
	for _, c := range []struct{ from, want string }{
		{"source: coop, list: lots", "lots of coop is large"}, {"source: coop, list: none", `no list "none"`},
		{"source: budgets, list: units", "of its own source"}, {"source: nothing, list: units", `no source "nothing"`}} {
		other := strings.Replace(joined, "source: coop, list: units", c.from, 1)
		if err := lila.Catalog.PutSource(ctx, "budgets", []byte(other)); err != nil {
			t.Errorf("%s: %v", c.from, err)
			continue
		}
		if looked, err := lila.Files.LookNow(ctx, "budgets", "unit"); err != nil || !strings.Contains(looked.Fault, c.want) {
			t.Errorf("%s is answered by %+v, %v", c.from, looked, err)
		}
	}
}

// TestASlowServerKeepsNobodyWaiting lets a server take its time with a file, while a folder's is
// taken.
func TestASlowServerKeepsNobodyWaiting(t *testing.T) {
	ends := make(chan struct{})
	server := httptest.NewTLSServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		select {
		case <-ends:
		case <-r.Context().Done():
		}
	}))
	defer server.Close()
	defer close(ends)
	dir := t.TempDir()
	ca, inbox := filepath.Join(dir, "ca.pem"), filepath.Join(dir, source.Inbox, "new")
	text := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: server.Certificate().Raw})
	if err := errors.Join(os.WriteFile(ca, text, 0o600), os.MkdirAll(inbox, 0o700)); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(inbox, "one.csv")
	if err := errors.Join(os.WriteFile(path, []byte("x\nhere\n"), 0o600),
		os.Chtimes(path, time.Time{}, time.Now().Add(-time.Minute))); err != nil {
		t.Fatal(err)
	}
	l := librarytest.OpenWith(t, dir, librarytest.At(morning), func(*library.Settings) {})
	service, ctx := l.AsService(), t.Context()
	if err := service.Catalog.PutSource(ctx, "both", []byte("source: both\nkind: files\ntables:\n"+
		"  slow: {from: {address: '"+server.URL+"/x.csv', ca: "+ca+"}, columns: [{name: x, type: text}]}\n"+
		"  quick: {from: {folder: new}, columns: [{name: x, type: text}]}\n")); err != nil {
		t.Fatal(err)
	}
	for begun := time.Now(); ; time.Sleep(50 * time.Millisecond) {
		_, versions, err := service.Files.Versions(ctx, "both")
		if err != nil || time.Since(begun) > 30*time.Second {
			t.Fatalf("nothing came: %v", err)
		}
		if len(versions) == 1 && versions[0].Table == "quick" {
			break
		}
	}
}
