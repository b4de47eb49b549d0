package files_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/catalog"
	"mantilla/library/librarytest"
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
