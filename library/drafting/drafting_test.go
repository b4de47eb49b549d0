package drafting_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/report"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/desk"
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
	all, err := a.Drafting.Notices(t.Context())
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
		{drafting.Change{Text: strings.Repeat("x", report.MostText+1)}, "at most 1048576"},
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
	var faults report.Faults
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

// effectsOf are what a definition would do, by kind and name.
func effectsOf(t *testing.T, a *library.Access, text string) map[string]string {
	t.Helper()
	f, err := a.Drafting.Find(t.Context(), []byte(text), true)
	if err != nil || len(f.Faults) > 0 {
		t.Fatal(err, f.Faults)
	}
	all := map[string]string{}
	for _, e := range f.Effects {
		all[e.Kind+" "+e.Name] = e.Owner + ": " + strings.Join(e.Unfit, "; ")
	}
	return all
}

// Who used what changes is named before, and told after.
func TestWhoDependsOnAReportIsNamedAndTold(t *testing.T) {
	l := office(t)
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	keep := func(name string, typed map[string]string) model.Criteria {
		t.Helper()
		c, err := runa.Asking.KeepCriteria(ctx, model.Criteria{Report: "orders-by-grouping", Name: name, Typed: typed})
		if err != nil {
			t.Fatal(err)
		}
		return c.Criteria
	}
	town := keep("by town", map[string]string{"group": "town"})
	keep("town in channel", map[string]string{"sub_group": "town"})
	keep("by channel", map[string]string{"group": "channel"})
	c := librarytest.Control("orders", func(c *controls.Control) {
		c.Steps = []controls.Step{{Report: "orders-by-grouping", Criteria: town.Number}}
	})
	if _, err := runa.Controls.PutControl(ctx, c); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Desk.PutDesk(ctx, desk.Desk{Kind: "person", Owner: "runa",
		Tiles: []desk.Tile{{Control: "orders", Step: 1, View: "orders", Show: "table"}}}); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Reading.KeepView(ctx, model.View{Report: "orders-by-grouping", Base: "orders", Name: "jars alone",
		Changes: ask.Changes{Columns: []string{"grouped", "jars"}}}); err != nil {
		t.Fatal(err)
	}
	d, err := lila.Catalog.Report("orders-by-grouping")
	if err != nil {
		t.Fatal(err)
	}
	same := effectsOf(t, lila, d.Text+"# the same\n")
	for what, unfit := range same {
		if !strings.HasSuffix(unfit, ": ") {
			t.Errorf("%s would not fit the same report: %s", what, unfit)
		}
	}
	if len(same) < 6 {
		t.Errorf("only %v depend on it", same)
	}
	renamed := strings.ReplaceAll(strings.ReplaceAll(d.Text, "town: town", "place: place"), "town: Town", "place: Town")
	renamed = strings.ReplaceAll(renamed, "town: buyer.town", "place: buyer.town")
	renamed = strings.ReplaceAll(renamed, "jars", "glasses")
	renamed = strings.ReplaceAll(renamed, "order_line.glasses", "order_line.jars")
	got := effectsOf(t, lila, renamed)
	for what, says := range map[string]string{
		"criteria by town": "runa: group: ", "criteria town in channel": "runa: sub_group: ",
		"criteria by channel": "runa: ", "control " + c.Title: "runa: it runs under the criteria C-1, which fit no longer",
		"view jars alone": "runa: the column jars is left out",
	} {
		if !strings.HasPrefix(got[what], says) || says == "runa: " && got[what] != says {
			t.Errorf("%s: %q; want %q", what, got[what], says)
		}
	}
	draft, err := lila.Drafting.Begin(ctx, drafting.Beginning{Copy: "orders-by-grouping"})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Drafting.PutDraft(ctx, draft.Number,
		drafting.Change{Text: renamed, Revision: draft.Revision}); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Drafting.Take(ctx, draft.Number, drafting.Taking{Note: "towns are places"}); err != nil {
		t.Fatal(err)
	}
	said := told(t, runa)
	for _, what := range []string{"your criteria “by town”", "your criteria “town in channel”",
		"your control “" + c.Title + "”",
		"your view “jars alone”"} {
		if strings.Count(said, what) != 1 {
			t.Errorf("of %s runa is told:\n%s", what, said)
		}
	}
	if strings.Contains(said, "by channel") {
		t.Errorf("of what goes on fitting runa is told:\n%s", said)
	}
	versionsComeBack(t, lila, d)
}

// versionsComeBack compares what was taken in with what was before, and brings that back.
func versionsComeBack(t *testing.T, lila *library.Access, d *report.Definition) {
	t.Helper()
	ctx := t.Context()
	compared, err := lila.Catalog.Compare(ctx, "orders-by-grouping", 1, 2)
	if err != nil ||
		!slices.ContainsFunc(compared.Words, func(w string) bool { return strings.Contains(w, "glasses is new") }) {
		t.Errorf("%v, %v", compared.Words, err)
	}
	if _, err := lila.Catalog.BringBack(ctx, "orders-by-grouping", 1,
		catalog.Put{Was: "stale", Note: "no"}); !errors.Is(err,
		model.ErrStale) {
		t.Errorf("brought back over what was not seen: %v", err)
	}
	back, err := lila.Catalog.BringBack(ctx, "orders-by-grouping", 1,
		catalog.Put{Was: present(t, lila), Note: "towns again"})
	if err != nil || back.Version != d.Version {
		t.Fatalf("%v, %v", back, err)
	}
	list, err := lila.Catalog.Versions(ctx, "orders-by-grouping")
	if err != nil || len(list) != 3 || list[0].Back != 1 || list[0].Number != 3 || list[0].Version != list[2].Version ||
		!list[0].At.Equal(morning) {
		t.Errorf("%+v, %v", list, err)
	}
}

// What somebody changed since a draft began is taken over only where that is asked for.
func TestADraftIsNotTakenOverWhatNobodySaw(t *testing.T) {
	lila, ctx := librarytest.SignIn(t, office(t), "lila"), t.Context()
	stale, err := lila.Drafting.Begin(ctx, drafting.Beginning{Copy: "near-best-before"})
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(stale.Text, "\nabout: ", "\nabout: Changed. ", 1)
	if _, err := lila.Catalog.PutReport(ctx, []byte(text), catalog.Put{Was: stale.Base}); err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Drafting.Take(ctx, stale.Number, drafting.Taking{}); !errors.Is(err, model.ErrStale) ||
		!strings.Contains(err.Error(), "was changed since the draft began") {
		t.Errorf("taken over what nobody saw: %v", err)
	}
	if _, err := lila.Drafting.Take(ctx, stale.Number, drafting.Taking{Over: true}); err != nil {
		t.Errorf("taken over what is there: %v", err)
	}
}

func present(t *testing.T, a *library.Access) string {
	t.Helper()
	d, err := a.Catalog.Report("orders-by-grouping")
	if err != nil {
		t.Fatal(err)
	}
	return d.Version
}

// A preview is cut as a run is, keeps nothing, and stops with its reader.
func TestPreviewsKeepNothing(t *testing.T) {
	l := office(t)
	aron := librarytest.SignIn(t, l, "aron")
	d, err := aron.Drafting.Begin(t.Context(),
		drafting.Beginning{Copy: "intake-lots", Report: "lots-again", Title: "Lots"})
	if err != nil {
		t.Fatal(err)
	}
	p, err := aron.Drafting.Preview(t.Context(), d.Number, "", map[string]string{"received": "2026-Q3"})
	if err != nil || !p.Rows.Cut || p.Sheet.Rows != 200 || !strings.Contains(p.Rows.Sentence, "1 July") ||
		!strings.Contains(p.Rows.Statements[0].Text, "from lot join keeper") {
		t.Errorf("%+v, %v", p, err)
	}
	few, err := aron.Drafting.Preview(t.Context(), d.Number, "all_columns", map[string]string{"received": "2026-07-01",
		"unit": "Hollin"})
	if err != nil || few.Rows.Cut || few.Sheet.View.ID != "all_columns" {
		t.Errorf("%+v, %v", few, err)
	}
	compared, err := aron.Drafting.Begin(t.Context(), drafting.Beginning{Copy: "orders-by-grouping"})
	if err != nil {
		t.Fatal(err)
	}
	if p, err := aron.Drafting.Preview(t.Context(), compared.Number, "", map[string]string{
		"days": "2026-09 against year before"}); err != nil || p.Sheet.Rows == 0 || len(p.Rows.Statements) < 2 {
		t.Errorf("a comparison: %v, %v", p, err)
	}
	if results, err := aron.Reading.Results(t.Context(), model.ResultWish{Limit: 10}); err != nil || len(results) != 0 {
		t.Errorf("%d results, %v", len(results), err)
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	if _, err := aron.Drafting.Preview(gone, d.Number, "", nil); err == nil {
		t.Error("a reader who left gets rows")
	}
	endless := strings.Replace(d.Text, "    from: |\n      lot join",
		"    from: |\n      (with recursive n(i) as (select 1 union all "+
			"select i + 1 from n) select * from n) join lot on lot.lot_no = n.i join", 1)
	endless = strings.Replace(endless, "select * from n) join", "select * from n) n join", 1)
	if endless == d.Text {
		t.Fatal("nothing was changed")
	}
	if _, err := aron.Drafting.PutDraft(t.Context(), d.Number,
		drafting.Change{Text: endless, Revision: d.Revision}); err != nil {
		t.Fatal(err)
	}
	begun := time.Now()
	if _, err := aron.Drafting.Preview(t.Context(), d.Number, "", nil); err == nil ||
		!strings.Contains(err.Error(), "took longer") ||
		time.Since(begun) > 15*time.Second {
		t.Errorf("endless SQL: %v after %s", err, time.Since(begun))
	}
}

// Whatever table an author begins from, the definition is right and can be run.
func TestEveryTableBeginsAReport(t *testing.T) {
	l := office(t)
	aron := librarytest.SignIn(t, l, "aron")
	tables, err := aron.Drafting.Tables(t.Context(), "coop", "")
	if err != nil || len(tables) < 20 {
		t.Fatalf("%d tables, %v", len(tables), err)
	}
	for i, table := range tables {
		d, err := aron.Drafting.Begin(t.Context(), drafting.Beginning{Title: fmt.Sprintf("Table %d", i), Source: "coop",
			Table: table.Name})
		if err != nil {
			t.Errorf("%s: %v", table.Name, err)
			continue
		}
		if _, err := aron.Drafting.Preview(t.Context(), d.Number, "", nil); err != nil {
			t.Errorf("%s: %v in\n%s", table.Name, err, d.Text)
		}
	}
	used, err := aron.Drafting.Tables(t.Context(), "coop", "elimin")
	if err != nil || len(used) != 1 || !slices.Contains(used[0].UsedBy, "consolidation-trail") {
		t.Errorf("%+v, %v", used, err)
	}
	var missing *model.Missing
	for _, b := range []drafting.Beginning{{Title: "x", Source: "coop", Table: "keepr"},
		{Title: "x", Source: "cop", Table: "lot"},
		{Title: "x", Source: "coop", Table: "lot", Columns: []string{"no"}}, {Copy: "intake-lot"}} {
		if _, err := aron.Drafting.Begin(t.Context(), b); !errors.As(err, &missing) || len(missing.Near) == 0 {
			t.Errorf("%+v: %v", b, err)
		}
	}
}
