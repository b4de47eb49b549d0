package drafting_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/definition"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

func office(t *testing.T) *library.Library { return librarytest.WithPeople(t, librarytest.At(morning)) }

// begin makes a draft of a person from a report, under another id.
func begin(t *testing.T, a *library.Access, id string) model.Draft {
	t.Helper()
	d, err := a.Drafting.Begin(t.Context(),
		drafting.Beginning{Copy: "near-best-before", Report: id, Title: "Soon too old"})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func told(t *testing.T, a *library.Access) string {
	t.Helper()
	all, err := a.Notices.List(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var lines []string
	for _, n := range all {
		lines = append(lines, n.Place+" "+n.Says)
	}
	return strings.Join(lines, "\n")
}

func TestADraftIsItsWritersAlone(t *testing.T) {
	l := office(t)
	aron, lila, runa := librarytest.SignIn(t, l, "aron"), librarytest.SignIn(t, l, "lila"),
		librarytest.SignIn(t, l, "runa")
	err := l.AsService().PutPerson(t.Context(), model.Person{Name: "anna", Title: "Anna", Role: model.Author},
		"a long password 9")
	if err != nil {
		t.Fatal(err)
	}
	anna := librarytest.Person(t, l, "anna")
	d := begin(t, aron, "soon-too-old")
	var missing *model.Missing
	if _, err := anna.Drafting.Draft(t.Context(), d.Number); !errors.As(err, &missing) {
		t.Errorf("another author reads the draft: %v", err)
	}
	if _, err := anna.Catalog.Report(d.ReportID()); !errors.As(err, &missing) {
		t.Errorf("another author opens it: %v", err)
	}
	if _, err := runa.Capture.StartRun(t.Context(), capture.Ask{Report: d.ReportID()}); !errors.As(err, &missing) {
		t.Errorf("a runner runs it: %v", err)
	}
	if _, err := runa.Drafting.Draft(t.Context(), d.Number); err == nil {
		t.Error("a runner reads a draft")
	}
	change := drafting.Change{Text: d.Text, Writers: []string{"anna"}, Revision: d.Revision,
		Testers: []model.Opening{{Kind: "person", Name: "runa"}}}
	shared, err := aron.Drafting.PutDraft(t.Context(), d.Number, change)
	if err != nil {
		t.Fatal(err)
	}
	if got := told(t, runa); got != "/reports/draft-1 Aron Quillby asks you to try the draft “Soon too old”." {
		t.Errorf("runa is told %q", got)
	}
	run := librarytest.RunWell(t, runa, capture.Ask{Report: d.ReportID()})
	r, err := runa.Reading.Result(t.Context(), run.Result)
	if err != nil || r.Definition.Title != "Draft: Soon too old" {
		t.Errorf("the result is called %q, %v", r.Definition.Title, err)
	}
	// Two people save: the second is told, and neither text is lost.
	if _, err := anna.Drafting.PutDraft(t.Context(), d.Number,
		drafting.Change{Text: d.Text + "# anna\n", Revision: shared.Revision}); err != nil {
		t.Fatal(err)
	}
	_, err = aron.Drafting.PutDraft(t.Context(), d.Number,
		drafting.Change{Text: d.Text + "# aron\n", Revision: shared.Revision})
	if !errors.Is(err, model.ErrStale) {
		t.Errorf("the second writer: %v", err)
	}
	now, err := aron.Drafting.Draft(t.Context(), d.Number)
	if err != nil || !strings.HasSuffix(now.Text, "# anna\n") || now.ChangedBy != "anna" ||
		!slices.Equal(now.Writers, []string{"anna"}) || len(now.Testers) != 1 {
		t.Errorf("%+v, %v", now, err)
	}
	for _, c := range []struct {
		change drafting.Change
		says   string
	}{
		{drafting.Change{Writers: []string{"runa"}}, "runa cannot write definitions"},
		{drafting.Change{Writers: []string{"nobody"}}, `there is no account "nobody"`},
		{drafting.Change{Testers: []model.Opening{{Kind: "group", Name: "x"}}}, `there is no group "x"`},
		{drafting.Change{Text: strings.Repeat("x", definition.MostText+1)}, "at most 1048576"},
	} {
		c.change.Revision = now.Revision
		if _, err := aron.Drafting.PutDraft(t.Context(), d.Number, c.change); err == nil ||
			!strings.Contains(err.Error(), c.says) {
			t.Errorf("%v; want %q", err, c.says)
		}
		now, _ = aron.Drafting.Draft(t.Context(), d.Number)
	}
	if err := lila.Drafting.DeleteDraft(t.Context(), d.Number); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Catalog.Report(d.ReportID()); !errors.As(err, &missing) {
		t.Errorf("a draft that is gone is open: %v", err)
	}
	if _, err := lila.Reading.Result(t.Context(), run.Result); err != nil {
		t.Errorf("the result of trying it: %v", err)
	}
}

// A draft that cannot be read is kept and can be mended, before and after a restart.
func TestDraftsOutliveTheService(t *testing.T) {
	dir, now := demotest.Dir(t), librarytest.At(morning)
	var good, bad model.Draft
	t.Run("first", func(t *testing.T) {
		l := librarytest.Open(t, dir, now)
		if err := demo.LoadCatalog(t.Context(), l); err != nil {
			t.Fatal(err)
		}
		a := l.AsService()
		good, bad = begin(t, a, "good"), begin(t, a, "bad")
		var err error
		if bad, err = a.Drafting.PutDraft(t.Context(), bad.Number,
			drafting.Change{Text: "title: [", Revision: bad.Revision}); err != nil {
			t.Fatal(err)
		}
	})
	l := librarytest.Open(t, dir, now)
	if d, err := l.AsService().Drafting.Draft(t.Context(), bad.Number); err != nil || d.Text != "title: [" ||
		d.Title != bad.Title {
		t.Errorf("%+v, %v", d, err)
	}
	if _, err := l.AsService().Catalog.Report(bad.ReportID()); err == nil {
		t.Error("a draft that cannot be read can be tried")
	}
	librarytest.RunWell(t, l.AsService(), capture.Ask{Report: good.ReportID()})
}

func TestHandingInGivingBackAndTaking(t *testing.T) {
	l := office(t)
	aron, lila, rhea := librarytest.SignIn(t, l, "aron"), librarytest.SignIn(t, l, "lila"),
		librarytest.SignIn(t, l, "rhea")
	d := begin(t, aron, "soon-too-old")
	broken, err := aron.Drafting.PutDraft(t.Context(), d.Number,
		drafting.Change{Text: strings.Replace(d.Text, "from: stock", "from: stocks", 1), Revision: d.Revision})
	if err != nil {
		t.Fatal(err)
	}
	var faults definition.Faults
	if _, err := aron.Drafting.HandIn(t.Context(), d.Number, ""); !errors.As(err, &faults) {
		t.Errorf("a draft that is not right is handed in: %v", err)
	}
	if _, err := aron.Drafting.PutDraft(t.Context(), d.Number,
		drafting.Change{Text: d.Text, Revision: broken.Revision}); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Drafting.GiveBack(t.Context(), d.Number, "x"); err == nil ||
		!strings.Contains(err.Error(), "is not handed in") {
		t.Errorf("given back before: %v", err)
	}
	if _, err := aron.Drafting.HandIn(t.Context(), d.Number, "please"); err != nil {
		t.Fatal(err)
	}
	if got := told(t, lila); !strings.Contains(got, "Aron Quillby hands in the draft “Soon too old”. They say: please") {
		t.Errorf("lila is told %q", got)
	}
	if _, err := lila.Drafting.GiveBack(t.Context(), d.Number, ""); err == nil {
		t.Error("given back without a word")
	}
	if back, err := lila.Drafting.GiveBack(t.Context(), d.Number, "shorter"); err != nil || back.State != model.GivenBack {
		t.Errorf("%+v, %v", back, err)
	}
	if _, err := aron.Drafting.Take(t.Context(), d.Number,
		drafting.Taking{Open: []model.Opening{{Kind: "everyone"}}}); err == nil {
		t.Error("an author opens what they take in")
	}
	taken, err := lila.Drafting.Take(t.Context(), d.Number, drafting.Taking{Note: "for the stores",
		Open: []model.Opening{{Kind: "group", Name: "accounts"}}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := rhea.Catalog.Report(taken.ID); err != nil {
		t.Errorf("it is not open to accounts: %v", err)
	}
	v, err := lila.Catalog.Versions(t.Context(), taken.ID)
	if err != nil || len(v) != 1 || v[0].By != "lila" || v[0].Note != "for the stores" || v[0].Number != 1 {
		t.Errorf("%+v, %v", v, err)
	}
	if got := told(t, aron); !strings.Contains(got, "Lila Ferncastle took “Soon too old” into the catalog.") {
		t.Errorf("aron is told %q", got)
	}
	if drafts, _ := lila.Drafting.Drafts(t.Context()); len(drafts) != 0 {
		t.Errorf("%d drafts are left", len(drafts))
	}
}

// Where the organisation wants two people, nobody takes in what they wrote, by whatever way.
func TestTwoPeople(t *testing.T) {
	now := librarytest.At(morning)
	dir := demotest.Dir(t)
	l := librarytest.OpenWith(t, dir, now, func(s *library.Settings) { s.TwoPeople = true })
	if err := demo.Load(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	lila, aron := librarytest.Person(t, l, "lila"), librarytest.Person(t, l, "aron")
	own := begin(t, lila, "own")
	var forbidden *model.Forbidden
	if _, err := lila.Drafting.Take(t.Context(), own.Number, drafting.Taking{}); !errors.As(err, &forbidden) {
		t.Errorf("lila takes in her own: %v", err)
	}
	if _, err := lila.Catalog.PutReport(t.Context(), []byte(own.Text), catalog.Put{}); !errors.As(err, &forbidden) {
		t.Errorf("lila puts her own: %v", err)
	}
	theirs := begin(t, aron, "theirs")
	if _, err := lila.Drafting.PutDraft(t.Context(), theirs.Number, drafting.Change{Text: theirs.Text + "# lila\n",
		Revision: theirs.Revision}); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Drafting.Take(t.Context(), theirs.Number, drafting.Taking{}); !errors.As(err, &forbidden) {
		t.Errorf("lila takes in what she wrote along: %v", err)
	}
	if _, err := librarytest.Person(t, l, "adda").Drafting.Take(t.Context(), theirs.Number,
		drafting.Taking{}); err != nil {
		t.Errorf("adda, who wrote nothing of it: %v", err)
	}
}
