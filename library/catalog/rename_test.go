package catalog_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/library/asking"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// Everything that is kept of a report goes on under its new id, and links lead there.
func TestAReportGetsAnotherID(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	values := map[string]string{"received": "2026-09"}
	before := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots", Typed: values})
	if _, err := runa.Asking.KeepCriteria(ctx,
		model.Criteria{Report: "intake-lots", Name: "September", Typed: values}); err != nil {
		t.Fatal(err)
	}
	c := librarytest.Control("both", func(c *controls.Control) {
		c.Steps = []controls.Step{{Report: "intake-lots", Typed: values}, {Report: "intake-by-origin", Typed: values}}
	})
	first, err := runa.Controls.PutControl(ctx, c)
	if err != nil {
		t.Fatal(err)
	}
	shorter := first
	shorter.Steps = first.Steps[:1]
	if _, err := runa.Controls.PutControl(ctx, shorter); err != nil {
		t.Fatal(err)
	}
	draft, err := lila.Drafting.Begin(ctx, drafting.Beginning{Copy: "intake-lots"})
	if err != nil {
		t.Fatal(err)
	}
	for to, says := range map[string]string{"Wrong Id": "is not an id",
		"keeper-file": "there is a report keeper-file already",
		"draft-3":     "is that of a draft"} {
		if _, err := lila.Catalog.Rename(ctx, "intake-lots", to, ""); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("renaming to %s is answered by %v", to, err)
		}
	}
	if _, err := runa.Catalog.Rename(ctx, "intake-lots", "lots", ""); err == nil {
		t.Error("a runner renames a report")
	}
	if _, err := lila.Catalog.Rename(ctx, "intake-lots", "lots", ""); err != nil {
		t.Fatal(err)
	}

	runa = librarytest.SignIn(t, l, "runa")
	if _, err := runa.Catalog.Report("intake-lots"); err == nil || !strings.Contains(err.Error(), "did you mean lots?") {
		t.Errorf("its old id is answered by %v", err)
	}
	r, err := runa.Reading.Result(ctx, before.Result)
	if err != nil {
		t.Fatal(err)
	}
	if r.Report != "lots" {
		t.Errorf("its result is of %s", r.Report)
	}
	if same, err := runa.Reading.CheckSeal(ctx, r); err != nil || !same {
		t.Error("the seal no longer agrees", err)
	}
	if o, err := runa.Meaning.OfResult(ctx, before.Result); err != nil || o.Unknown != "" || len(o.Statements) != 1 {
		t.Errorf("where its figures come from is %+v, %v", o.Unknown, err)
	}
	kept, err := runa.Asking.CriteriaFor(ctx, "lots", asking.CriteriaWish{Limit: 9})
	if err != nil || len(kept) != 1 {
		t.Errorf("its criteria are %v, %v", kept, err)
	}
	runs, err := runa.Controls.RunControl(ctx, "both", nil, false)
	if err != nil || len(runs) != 1 || runs[0].Runs[0].Report != "lots" {
		t.Errorf("its control runs %+v, %v", runs, err)
	}
	if was, err := runa.Controls.RestoreControl(ctx, "both", first.Revision); err != nil || len(was.Steps) != 2 ||
		was.Steps[0].Report != "lots" {
		t.Errorf("what its control was runs %+v, %v", was.Steps, err)
	}
	overview, err := runa.Catalog.Report("intake-by-origin")
	if err != nil || overview.Companions[0] != "lots" || overview.Datasets[0].Column("district").Opens.Report != "lots" {
		t.Errorf("links lead to %v, %v", overview.Companions, err)
	}
	versions, err := lila.Catalog.Versions(ctx, "lots")
	if err != nil || len(versions) != 2 || versions[0].Note != "renamed from intake-lots" {
		t.Errorf("its versions are %+v, %v", versions, err)
	}
	if got := runa.Shelf.List("lots", ""); len(got) != 1 {
		t.Errorf("beside it are %v", got)
	}
	again, err := lila.Drafting.Draft(ctx, draft.Number)
	if err != nil || !strings.HasPrefix(again.Text, "report: lots\n") {
		t.Errorf("its draft begins with %.30q, %v", again.Text, err)
	}
	if _, err := lila.Drafting.Take(ctx, draft.Number, drafting.Taking{}); err != nil {
		t.Errorf("taking the draft in is answered by %v", err)
	}
}
