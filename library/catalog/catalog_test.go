package catalog_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/librarytest"
	"mantilla/model"
)

func TestSharedParametersAreChangedAsOne(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	lila := librarytest.SignIn(t, l, "lila")
	before, err := lila.Catalog.Shared()
	if err != nil {
		t.Fatal(err)
	}
	if err := lila.Catalog.PutShared(t.Context(),
		[]byte(strings.Replace(before, "default: last month", "default: last moon", 1))); err == nil ||
		!strings.Contains(err.Error(), "is not right") {
		t.Errorf("a wrong default was taken: %v", err)
	}
	version := func() string {
		d, err := lila.Catalog.Report("intake-lots")
		if err != nil {
			t.Fatal(err)
		}
		return d.Version
	}
	first := version()
	if err := lila.Catalog.PutShared(t.Context(),
		[]byte(strings.Replace(before, "label: Received", "label: Taken in", 1))); err != nil {
		t.Fatal(err)
	}
	d, _ := lila.Catalog.Report("intake-lots")
	if d.Version == first || d.Parameter("received").Label != "Taken in" {
		t.Errorf("the report is still %s with %q", d.Version[:8], d.Parameter("received").Label)
	}
	if list, err := lila.Catalog.Versions(t.Context(), "intake-lots"); err != nil || len(list) != 2 {
		t.Errorf("versions %v, %v", list, err)
	}
	if slices.Contains(librarytest.SignIn(t, l, "aron").Rights(), "catalog") {
		t.Error("an author keeps the catalog")
	}
}

func TestSourcesLieWithinTheDataDirectory(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	lila := librarytest.SignIn(t, l, "lila")
	for file, says := range map[string]string{
		"../coop.db": "must lie within the data directory", "/etc/passwd": "must lie within the data directory",
		"mantilla.db": "holds the service's own records", "x/../mantilla.db": "holds the service's own records",
		"gone.db": "is missing",
	} {
		text := "source: other\nkind: sqlite\nfile: " + file + "\nlists: {x: {from: t, code: a, label: a}}\n"
		if err := lila.Catalog.PutSource(t.Context(), "other", []byte(text)); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v; want %q", file, err, says)
		}
	}
	if err := lila.Catalog.PutSource(t.Context(), "another",
		[]byte("source: coop\nkind: sqlite\nfile: coop.db\n")); err == nil ||
		!strings.Contains(err.Error(), "is of the source coop, not another") {
		t.Errorf("under another id: %v", err)
	}
}

func TestAReportThatCannotBeReadStopsNothingElse(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("first", func(t *testing.T, l *library.Library) {})
	librarytest.Exec(t, o.Dir, `update report_version set text = 'report: intake-lots
title: [' where report = 'intake-lots'`)
	librarytest.Exec(t, o.Dir, `insert into source (id, text) values ('broken', 'source: broken
kind: none')`)
	l := librarytest.OpenWith(t, o.Dir, o.Now, func(*library.Settings) {})
	lila := librarytest.Person(t, l, "lila")
	if _, err := lila.Catalog.Report("intake-lots"); err == nil ||
		!strings.Contains(err.Error(), "cannot be read by this program") {
		t.Errorf("the report: %v", err)
	}
	if _, err := lila.Catalog.Report("lot-history"); err != nil {
		t.Error(err)
	}
	if _, _, err := lila.Catalog.Catalog(t.Context(), "", ""); err != nil {
		t.Error(err)
	}
}

func TestCatalogOutlivesTheService(t *testing.T) {
	dir, now := demotest.Dir(t), librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	t.Run("first", func(t *testing.T) {
		if err := demo.LoadCatalog(t.Context(), librarytest.Open(t, dir, now)); err != nil {
			t.Fatal(err)
		}
	})
	l := librarytest.Open(t, dir, now)
	entries, categories, err := l.AsService().Catalog.Catalog(t.Context(), "", "")
	if err != nil || len(entries) != 47 || len(categories) != 9 ||
		!slices.IsSortedFunc(entries, func(a, b catalog.Entry) int { return strings.Compare(a.Category, b.Category) }) {
		t.Errorf("%d reports in %v, %v", len(entries), categories, err)
	}
	var wrong param.Faults
	if _, err := l.AsService().Capture.StartRun(t.Context(),
		capture.Ask{Report: "lot-history", Typed: map[string]string{"lot": "L99"}}); !errors.As(err, &wrong) ||
		wrong[0].Parameter != "lot" {
		t.Errorf("an unknown lot: %v", err)
	}
	var missing *model.Missing
	if _, err := l.AsService().Catalog.Report("lot-histori"); !errors.As(err, &missing) ||
		!slices.Equal(missing.Near, []string{"lot-history"}) {
		t.Errorf("a misspelt report: %v", err)
	}
	var faults definition.Faults
	if _, err := l.AsService().Catalog.CheckReport(t.Context(), []byte("report: x")); !errors.As(err, &faults) ||
		len(faults) < 5 {
		t.Errorf("an unfinished definition: %v", err)
	}
	if err := l.AsService().Catalog.PutSource(t.Context(), "coop",
		[]byte("source: coop\nkind: sqlite\nfile: coop.db\nlists: {x: {from: nothing, code: a, label: b}}\n")); err == nil ||
		!strings.Contains(err.Error(), "list x") {
		t.Errorf("a source with a broken list: %v", err)
	}
	if _, err := l.AsService().Asking.Resolve(t.Context(), "intake-lots", map[string]string{"unit": "Hollin"},
		asking.With{}); err != nil {
		t.Errorf("afterwards the good source is gone: %v", err)
	}
}

// The name of a place, a keeper or a grade finds the reports that ask for such a thing, for
// those who see it.
func TestValuesOfParametersAreFound(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	found := func(who, sought string) map[string]string {
		t.Helper()
		entries, _, err := librarytest.SignIn(t, l, who).Catalog.Catalog(t.Context(), sought, "")
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]string{}
		for _, e := range entries {
			out[e.ID] = e.Found
		}
		return out
	}
	if got := found("runa", "Marr"); got["intake-lots"] != "it asks for Region, district or site, of which Marr is one" {
		t.Errorf("Marr finds intake-lots by %q", got["intake-lots"])
	}
	if got := found("dora", "Marr"); got["intake-lots"] != "" {
		t.Errorf("a place that dora does not see finds intake-lots by %q", got["intake-lots"])
	}
	got := found("runa", "lots marr")
	if _, ok := got["intake-lots"]; !ok || len(got) > len(found("runa", "lots")) {
		t.Errorf("lots marr finds %v", got)
	}
	if got := found("runa", "Table"); got["intake-lots"] == "" {
		t.Errorf("a grade finds %v", got)
	}
}
