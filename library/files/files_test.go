package files_test

import (
	"errors"
	"os"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/files"
	"mantilla/library/librarytest"
	"mantilla/model"
	read "mantilla/source/files"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

const declared = `source: budgets
title: Budgets
kind: files
tables:
  budget:
    groups: [field]
    columns: [{name: district, type: text, key: true}, {name: amount, type: decimal, scale: 2}]
  other:
    columns: [{name: x, type: text}]
`

const budgets = `report: budgets
title: Budgets
category: Accounts
depth: lines
about: What each district may spend.
source: budgets
datasets:
  lines:
    from: budget
    scope: everyone
    columns: [{id: district, is: district, type: text}, {id: amount, is: amount, type: decimal, scale: 2,
	stored: decimal, total: sum}]
views: {lines: {of: lines}}
`

// rows are how many rows a run of the report gives.
func rows(t *testing.T, a *library.Access) int64 {
	t.Helper()
	return librarytest.RunWell(t, a, capture.Ask{Report: "budgets"}).Rows
}

// TestFilesAreBrought takes files of those who may bring them, refuses what does not fit, goes
// back to an earlier one, and makes the tables again when they are gone.
func TestFilesAreBrought(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	var first int64
	o.During("brought", func(t *testing.T, l *library.Library) {
		lila, runa, aron := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa"),
			librarytest.SignIn(t, l, "aron")
		ctx := t.Context()
		if err := lila.Catalog.PutSource(ctx, "budgets", []byte(declared)); err != nil {
			t.Fatal(err)
		}
		if _, err := lila.Catalog.PutReport(ctx, []byte(budgets), catalog.Put{Was: "*"}); err != nil {
			t.Fatal(err)
		}
		if n := rows(t, lila); n != 0 {
			t.Errorf("without a file it has %d rows", n)
		}
		v, err := runa.Files.Take(ctx, "budgets", "budget", "2026.csv", []byte("district,amount\nHollin,10.50\nMarr,7\n"))
		if err != nil || v.Rows != 2 || v.Person != "runa" {
			t.Fatalf("%+v, %v", v, err)
		}
		first = v.Number
		if n := rows(t, lila); n != 2 {
			t.Errorf("with a file it has %d rows", n)
		}
		for what, try := range map[string]func() error{
			"another's table": func() error {
				_, err := runa.Files.Take(ctx, "budgets", "other", "x.csv", []byte("x\n1\n"))
				return err
			},
			"by nobody of the group": func() error {
				_, err := aron.Files.Take(ctx, "budgets", "budget", "x.csv", []byte("district,amount\nMarr,1\n"))
				return err
			},
			"no such table":      func() error { _, err := lila.Files.Take(ctx, "budgets", "none", "x", nil); return err },
			"no source of files": func() error { _, err := lila.Files.Take(ctx, "coop", "lot", "x", nil); return err },
			"no headings": func() error {
				_, err := lila.Files.Take(ctx, "budgets", "budget", "x.csv", []byte("a,b\n1,2\n"))
				return err
			},
			"no such file": func() error { return lila.Files.Restore(ctx, "budgets", "budget", 99) },
		} {
			if try() == nil {
				t.Errorf("%s is taken", what)
			}
		}
		var refused *files.Refused
		_, err = runa.Files.Take(ctx, "budgets", "budget", "bad.csv", []byte("district,amount\nHollin,much\n"))
		if !errors.As(err, &refused) || len(refused.Told.Faults) != 1 || !errors.Is(err, read.ErrFaults) {
			t.Errorf("a file that does not fit: %v", err)
		}
		if _, err := runa.Files.Take(ctx, "budgets", "budget", "2027.csv", []byte("district,amount\nQuarl,1\n")); err != nil {
			t.Fatal(err)
		}
		c, all, err := runa.Files.Versions(ctx, "budgets")
		if err != nil || len(c.Tables) != 1 || len(all) != 2 || all[0].Name != "2027.csv" || !all[0].InUse || all[1].InUse {
			t.Errorf("the files are %+v, %v", all, err)
		}
		if _, data, err := runa.Files.Data(ctx, "budgets", "budget", first); err != nil ||
			!strings.Contains(string(data), "Hollin,10.50") {
			t.Errorf("the first is %q, %v", data, err)
		}
		if err := runa.Files.Restore(ctx, "budgets", "budget", first); err != nil {
			t.Fatal(err)
		}
		if n := rows(t, lila); n != 2 {
			t.Errorf("with the first again it has %d rows", n)
		}
		narrower := strings.Replace(declared, "type: decimal, scale: 2}", "type: integer}", 1)
		var fault *model.Refused
		if err := lila.Catalog.PutSource(ctx, "budgets", []byte(narrower)); !errors.As(err, &fault) ||
			!strings.Contains(err.Error(), "10.50") {
			t.Errorf("a declaration that the file does not fit: %v", err)
		}
		if n := rows(t, lila); n != 2 {
			t.Errorf("then it has %d rows", n)
		}
	})
	o.During("renamed, and deleted", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		ctx := t.Context()
		for _, to := range []string{"spending", "budgets"} {
			from := map[string]string{"spending": "budgets", "budgets": "spending"}[to]
			if err := lila.Catalog.RenameSource(ctx, from, to); err != nil {
				t.Fatal(err)
			}
			if n := rows(t, lila); n != 2 {
				t.Errorf("as %s it has %d rows", to, n)
			}
			if _, err := os.Stat(read.Path(o.Dir, from)); err == nil {
				t.Errorf("the tables of %s are still there", from)
			}
		}
		if err := lila.Catalog.PutSource(ctx, "gone", []byte(strings.Replace(declared, "source: budgets", "source: gone",
			1))); err != nil {
			t.Fatal(err)
		}
		if _, err := lila.Files.Take(ctx, "gone", "budget", "x.csv", []byte("district,amount\nHollin,1\n")); err != nil {
			t.Fatal(err)
		}
		if err := lila.Catalog.DeleteSource(ctx, "gone"); err != nil {
			t.Fatal(err)
		}
		if _, err := os.Stat(read.Path(o.Dir, "gone")); err == nil {
			t.Error("the tables of a source that was deleted are there")
		}
		if err := lila.Trash.BringBack(ctx, model.ThrownSource, "gone"); err != nil {
			t.Fatal(err)
		}
		if _, all, err := lila.Files.Versions(ctx, "gone"); err != nil || len(all) != 1 {
			t.Errorf("%d files came back with it: %v", len(all), err)
		}
		if _, err := os.Stat(read.Path(o.Dir, "gone")); err != nil {
			t.Errorf("the tables of a source that came back are away: %v", err)
		}
		for _, id := range []string{"../budgets", "a/b", ".."} {
			text := strings.Replace(declared, "source: budgets", "source: "+id, 1)
			if err := lila.Catalog.PutSource(ctx, id, []byte(text)); err == nil {
				t.Errorf("a source is called %s", id)
			}
		}
	})
	if err := os.Remove(read.Path(o.Dir, "budgets")); err != nil {
		t.Fatal(err)
	}
	o.During("its tables are gone", func(t *testing.T, l *library.Library) {
		if n := rows(t, librarytest.SignIn(t, l, "lila")); n != 2 {
			t.Errorf("made again it has %d rows", n)
		}
	})
}
