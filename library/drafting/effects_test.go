package drafting_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"mantilla/core/ask"
	"mantilla/core/report"
	"mantilla/library"
	"mantilla/library/catalog"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/model"
)

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
