package catalog_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// refused fails where an error does not say what it should.
func refused(t *testing.T, what string, err error, says string) {
	t.Helper()
	if err == nil || !strings.Contains(err.Error(), says) {
		t.Errorf("%s: %v; want %q", what, err, says)
	}
}

// Versions of a report are kept with who put them; two are compared, and an earlier one comes
// back as a version of its own.
func TestVersionsOfAReport(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, aron := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "aron")
	rhea := librarytest.SignIn(t, l, "rhea")
	ctx := t.Context()
	first, err := lila.Catalog.Report("lot-history")
	if err != nil {
		t.Fatal(err)
	}
	second := strings.Replace(first.Text, "title: "+first.Title, "title: What became of a lot", 1)
	if _, err := lila.Catalog.PutReport(ctx, []byte(second),
		catalog.Put{Was: first.Version, Note: "called by what people ask"}); err != nil {
		t.Fatal(err)
	}
	all, err := lila.Catalog.Versions(ctx, "lot-history")
	if err != nil || len(all) != 2 || all[0].Number != 2 || all[0].Note != "called by what people ask" ||
		all[0].By != "lila" {
		t.Fatalf("versions %+v, %v", all, err)
	}
	diff, err := aron.Catalog.Compare(ctx, "lot-history", 1, 2)
	if err != nil || !slices.Equal(diff.Words,
		[]string{`the title was "` + first.Title + `" and is "What became of a lot"`}) ||
		!strings.Contains(diff.Text, "+title: What became of a lot") {
		t.Errorf("compared: %+v, %v", diff, err)
	}
	if same, err := aron.Catalog.Compare(ctx, "lot-history", 2, 2); err != nil || len(same.Words) != 0 || same.Text != "" {
		t.Errorf("a version beside itself: %+v, %v", same, err)
	}
	noted := second + "\n# asked for by the field\n"
	_, err = lila.Catalog.PutReport(ctx, []byte(noted), catalog.Put{Was: first.Version})
	refused(t, "what was changed meanwhile", err, "it was changed meanwhile")
	for _, text := range []string{second, noted} {
		_, err = lila.Catalog.PutReport(ctx, []byte(text), catalog.Put{Was: all[0].Version})
		if again, _ := lila.Catalog.Versions(ctx, "lot-history"); err != nil || len(again) != 2 {
			t.Errorf("the same put again makes %d versions, %v", len(again), err)
		}
		if kept, _, err := lila.Catalog.VersionText(ctx, "lot-history", 2); err != nil || kept != text {
			t.Errorf("its text is kept as it is not written: %v\n%s", err, kept)
		}
	}
	back, err := lila.Catalog.BringBack(ctx, "lot-history", 1, catalog.Put{Was: all[0].Version, Note: "as it was"})
	if err != nil || back.Title != first.Title || back.Text != first.Text {
		t.Fatalf("brought back: %v, %v", back, err)
	}
	if d, err := aron.Catalog.Earlier(ctx, "lot-history", 2); err != nil || d.Title != "What became of a lot" {
		t.Errorf("the second version is %v, %v", d, err)
	}
	_, _, err = aron.Catalog.VersionText(ctx, "lot-history", 7)
	refused(t, "a version that there is not", err, "lot-history 7")
	_, _, err = rhea.Catalog.VersionText(ctx, "lot-history", 1)
	refused(t, "a reader", err, "needs the role author")
	_, err = aron.Catalog.BringBack(ctx, "lot-history", 1, catalog.Put{})
	refused(t, "an author", err, "catalog")
	_, err = lila.Catalog.BringBack(ctx, "lot-histori", 1, catalog.Put{})
	refused(t, "a misspelt report", err, "did you mean lot-history?")
}

// What leaves the catalog tells what takes its place, keeps its results, and comes back.
func TestARetiredReport(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	ask := capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}}
	run := librarytest.RunWell(t, runa, ask)
	refused(t, "itself", lila.Catalog.Retire(ctx, "intake-lots", "intake-lots"), "does not succeed itself")
	refused(t, "nothing", lila.Catalog.Retire(ctx, "intake-lots", "intake-lotz"), "did you mean intake-lots?")
	refused(t, "a runner", runa.Catalog.Retire(ctx, "intake-lots", ""), "catalog")
	if err := lila.Catalog.Retire(ctx, "intake-lots", "intake-by-origin"); err != nil {
		t.Fatal(err)
	}
	refused(t, "one after the other", lila.Catalog.Retire(ctx, "lot-history", "intake-lots"), "is retired itself")
	if successor, gone := runa.Catalog.Retired("intake-lots"); !gone || successor != "intake-by-origin" {
		t.Errorf("it is retired: %v, for %q", gone, successor)
	}
	_, err := runa.Capture.StartRun(ctx, ask)
	refused(t, "running it", err, "intake-by-origin")
	if _, err := runa.Reading.Result(ctx, run.Result); err != nil {
		t.Errorf("its result: %v", err)
	}
	entries, _, err := runa.Catalog.Catalog(ctx, "", "")
	if err != nil || slices.ContainsFunc(entries, func(e catalog.Entry) bool { return e.ID == "intake-lots" }) {
		t.Errorf("it is listed, %v", err)
	}
	if err := lila.Catalog.Reinstate(ctx, "intake-lots"); err != nil {
		t.Fatal(err)
	}
	librarytest.RunWell(t, runa, ask)
}

// What works and is probably not meant is told to who writes.
func TestWarnings(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	aron := librarytest.SignIn(t, l, "aron")
	d, err := aron.Catalog.CheckReport(t.Context(), []byte(`report: own-lots
title: Own lots
category: Intake
depth: lines
about: Lots.
source: coop
companions: [lot-histori]
parameters:
  - {id: received, type: range, required: true}
datasets:
  lots:
    from: lot
    where: [{is: lot.received_on, within: received}]
    columns:
      - {id: lot, is: lot.lot_no, type: text, opens: {report: lot-history, with: {lott: lot}}}
      - {id: keeper, is: lot.keeper_no, type: text, opens: {report: keeper-fil, with: {keeper: keeper}}}
views:
  lots: {of: lots}
`))
	if err != nil {
		t.Fatal(err)
	}
	got, err := aron.Catalog.Warnings(t.Context(), d)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"the companion lot-histori is not in the catalog; did you mean lot-history?",
		"lots, column lot fills the parameter lott, which lot-history does not have; did you mean lot?",
		"lots, column lot opens lot-history, which needs lot, and leaves that to be filled in",
		"lots, column keeper opens the report keeper-fil, which is not in the catalog; did you mean keeper-file?",
		"a dataset names no scope: "} {
		if !slices.ContainsFunc(got, func(said string) bool { return strings.HasPrefix(said, want) }) {
			t.Errorf("%q is not told, but\n%s", want, strings.Join(got, "\n"))
		}
	}
	if _, err := librarytest.SignIn(t, l, "rhea").Catalog.Warnings(t.Context(), d); err == nil {
		t.Error("a reader is told")
	}
}

// A report is taken out once nothing runs it, and a source once nothing reads it.
func TestTakingOut(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	c, err := runa.Controls.PutControl(ctx, librarytest.Control("month", func(c *controls.Control) {
		c.Steps = []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}}}
	}))
	if err != nil {
		t.Fatal(err)
	}
	refused(t, "one that a run control runs", lila.Catalog.DeleteReport(ctx, "intake-lots"), "month")
	refused(t, "a runner", runa.Catalog.DeleteReport(ctx, "lot-history"), "catalog")
	refused(t, "a source that is read", lila.Catalog.DeleteSource(ctx, "coop"), "reads it; change or delete that first")
	refused(t, "a source that there is not", lila.Catalog.DeleteSource(ctx, "shop"), "shop")
	if err := runa.Controls.DeleteControl(ctx, c.ID); err != nil {
		t.Fatal(err)
	}
	if err := lila.Catalog.DeleteReport(ctx, "intake-lots"); err != nil {
		t.Fatal(err)
	}
	var missing *model.Missing
	if _, err := runa.Catalog.Report("intake-lots"); !errors.As(err, &missing) {
		t.Errorf("it is still there: %v", err)
	}
	refused(t, "twice", lila.Catalog.DeleteReport(ctx, "intake-lots"), "intake-lots")
}

// Who marks reports finds those first; a mark on what is gone is taken away without a fault.
func TestFavourites(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, rhea := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "rhea")
	ctx := t.Context()
	for _, id := range []string{"lot-history", "intake-lots", "lot-history"} {
		if err := lila.Catalog.SetFavourite(ctx, id, true); err != nil {
			t.Fatal(err)
		}
	}
	refused(t, "one that there is not", lila.Catalog.SetFavourite(ctx, "lot-histori", true), "did you mean lot-history?")
	if marked, err := lila.Catalog.Favourites(ctx); err != nil || len(marked) != 2 || !marked["lot-history"] {
		t.Errorf("marked are %v, %v", marked, err)
	}
	if marked, err := rhea.Catalog.Favourites(ctx); err != nil || len(marked) != 0 {
		t.Errorf("another's are %v, %v", marked, err)
	}
	for _, id := range []string{"lot-history", "nowhere"} {
		if err := lila.Catalog.SetFavourite(ctx, id, false); err != nil {
			t.Errorf("%s: %v", id, err)
		}
	}
}
