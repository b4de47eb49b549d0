package library_test

import (
	"slices"
	"testing"
	"time"

	"mantilla/library/controls"
	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/library/sending"
	"mantilla/model"
)

// What names an account, a group, an address, a source or a shared parameter follows it to
// its other name.
func TestWhatIsNamedFollows(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	lila, adda, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "adda"),
		librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	if _, err := runa.Sending.PutAddress(ctx, model.Address{Nickname: "ida", Name: "Ida",
		Mail: "ida@example.org"}); err != nil {
		t.Fatal(err)
	}
	c := librarytest.Control("monthly", func(c *controls.Control) {
		c.Shared = "field"
		c.Steps = []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026-09", "unit": "hollin"}}}
		c.Send = &sending.Send{To: []string{"ida", "else@example.org"}, Copy: []string{"ida"}}
		c.Split = &sending.Split{Column: "grade", People: map[string][]string{"A": {"ida"}, "B": {"else@example.org"}}}
	})
	first, err := runa.Controls.PutControl(ctx, c)
	if err != nil {
		t.Fatal(err)
	}
	emptied := first
	emptied.Shared, emptied.Send, emptied.Split = "", nil, nil
	if _, err := runa.Controls.PutControl(ctx, emptied); err != nil {
		t.Fatal(err)
	}
	kept, err := runa.Asking.KeepCriteria(ctx, model.Criteria{Report: "intake-lots", Name: "Hollin",
		Typed: map[string]string{"received": "2026-09", "unit": "hollin"}})
	if err != nil {
		t.Fatal(err)
	}
	draft, err := lila.Drafting.Begin(ctx, drafting.Beginning{Copy: "intake-lots"})
	if err != nil {
		t.Fatal(err)
	}
	for kind, id := range map[string]string{"person": "runa", "group": "field"} {
		if err := adda.Standing.PutQuota(ctx, model.Quota{Kind: kind, ID: id, Bytes: 1_000_000}); err != nil {
			t.Fatal(err)
		}
	}
	testers := []model.Opening{{Kind: "person", Name: "runa"}, {Kind: "group", Name: "field"}}
	if _, err := lila.Drafting.PutDraft(ctx, draft.Number, drafting.Change{Text: draft.Text, Revision: draft.Revision,
		Writers: []string{"aron"}, Testers: testers}); err != nil {
		t.Fatal(err)
	}
	for _, r := range []struct{ kind, id, to string }{{"account", "runa", "rune"}, {"account", "aron", "aaron"},
		{"group", "field", "fields"}, {"address", "ida", "ida.marr"}, {"source", "coop", "records"},
		{"parameter", "unit", "place"}} {
		if err := adda.Rename(ctx, r.kind, r.id, r.to); err != nil {
			t.Fatalf("%v: %v", r, err)
		}
		for _, to := range []string{r.to, "Not A Name", r.id} { // gone by now, or taken
			if err := adda.Rename(ctx, r.kind, r.id, to); err == nil {
				t.Errorf("%v is renamed to %q", r, to)
			}
		}
	}
	if quotas, err := adda.Standing.Quotas(ctx); err != nil || len(quotas) != 2 || quotas[0].ID != "rune" ||
		quotas[1].ID != "fields" {
		t.Errorf("the quotas are %v, %v", quotas, err)
	}
	rune, err := l.AsPerson(ctx, "rune")
	if err != nil {
		t.Fatal(err)
	}
	now, err := rune.Controls.RestoreControl(ctx, "monthly", first.Revision) // what it was follows too
	if err != nil || now.Owner != "rune" || now.Shared != "fields" ||
		!slices.Equal(now.Send.To, []string{"ida.marr", "else@example.org"}) || !slices.Equal(now.Send.Copy,
		[]string{"ida.marr"}) ||
		!slices.Equal(now.Split.People["A"], []string{"ida.marr"}) ||
		!slices.Equal(now.Split.People["B"], []string{"else@example.org"}) {
		t.Errorf("the control is %+v, %+v, %+v: %v", now, now.Send, now.Split, err)
	}
	found, err := rune.Asking.CriteriaOf(ctx, kept.Number)
	if err != nil || found.Owner != "rune" || len(found.Unfit) > 0 {
		t.Errorf("the criteria are %+v: %v", found, err)
	}
	after, err := lila.Drafting.Draft(ctx, draft.Number)
	if err != nil || !slices.Equal(after.Writers, []string{"aaron"}) ||
		!slices.Equal(after.Testers, []model.Opening{{Kind: "person", Name: "rune"}, {Kind: "group", Name: "fields"}}) {
		t.Errorf("the draft is %+v: %v", after, err)
	}
	if _, err := lila.Catalog.CheckReport(ctx, []byte(after.Text)); err != nil {
		t.Errorf("the draft's text: %v", err)
	}
}
