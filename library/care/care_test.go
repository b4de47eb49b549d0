package care_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/period"
	"mantilla/library"
	"mantilla/library/asking"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/drafting"
	"mantilla/library/health"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

func open(t *testing.T) (*library.Library, *librarytest.Clock) {
	now := librarytest.At(morning)
	return librarytest.WithPeople(t, now), now
}

func day(t *testing.T, text string) period.Day {
	t.Helper()
	d, err := period.ParseDay(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// A report has an owner, who is reminded once when its day of review comes, and says that it
// was reviewed.
func TestReviews(t *testing.T) {
	l, now := open(t)
	lila, aron, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "aron"),
		librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	c := model.Care{Report: "intake-lots", Owner: "aron", Review: true, ReviewOn: day(t, "2026-11-01"), Every: 6}
	if _, err := runa.Care.PutCare(ctx, c); err == nil {
		t.Error("a runner says who looks after a report")
	}
	for what, wrong := range map[string]model.Care{
		"an owner who may not write": {Report: c.Report, Owner: "runa"},
		"an owner who is not here":   {Report: c.Report, Owner: "nobody"},
		"a day that is past":         {Report: c.Report, Review: true, ReviewOn: day(t, "2026-10-01")},
		"too many months":            {Report: c.Report, Every: 121},
	} {
		var refused *model.Refused
		if _, err := lila.Care.PutCare(ctx, wrong); !errors.As(err, &refused) {
			t.Errorf("%s is answered by %v", what, err)
		}
	}
	if _, err := lila.Care.PutCare(ctx, c); err != nil {
		t.Fatal(err)
	}
	if got := librarytest.Told(t, aron); got != "You look after the report “Intake lots” now." {
		t.Errorf("the owner is told %s", got)
	}
	if _, err := aron.Care.Reviewed(ctx, "intake-lots"); err != nil {
		t.Errorf("the owner says it was reviewed: %v", err)
	}
	if c, err := aron.Care.Care("intake-lots"); err != nil || c.ReviewOn.String() != "2027-04-15" {
		t.Errorf("its next review is on %s, %v", c.ReviewOn, err)
	}
	now.Set(time.Date(2027, 4, 15, 6, 0, 0, 0, time.UTC))
	for range 2 {
		if err := l.Remind(ctx); err != nil {
			t.Fatal(err)
		}
	}
	if got := librarytest.Told(t, aron); strings.Count(got, "is to be looked at again since 15 April 2027") != 1 {
		t.Errorf("the owner is told %s", got)
	}
	problems, err := lila.Health.Problems(ctx, 10*365*24*time.Hour)
	if err != nil ||
		!slices.ContainsFunc(problems,
			func(p health.Problem) bool { return p.Report == "intake-lots" && p.Kind == "past review" }) {
		t.Errorf("the health does not tell of it: %v", err)
	}
}

// Who took a report in first, or wrote its draft, looks after it.
func TestTheWriterOfADraftLooksAfterIt(t *testing.T) {
	l, _ := open(t)
	aron, lila := librarytest.SignIn(t, l, "aron"), librarytest.SignIn(t, l, "lila")
	d, err := aron.Drafting.Begin(t.Context(), drafting.Beginning{Copy: "near-best-before", Report: "mine", Title: "Mine"})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Drafting.Take(t.Context(), d.Number, drafting.Taking{}); err != nil {
		t.Fatal(err)
	}
	if c, err := lila.Care.Care("mine"); err != nil || c.Owner != "aron" {
		t.Errorf("%q looks after it, %v", c.Owner, err)
	}
}

// A report that is listed is seen by those to whom it is not open, without anything of its
// columns; asking for it reaches who may open it, and ends in one call.
func TestAskingForAReport(t *testing.T) {
	l, _ := open(t)
	lila, dora := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "dora")
	ctx := t.Context()
	seen := func(search string) (closed []string) {
		t.Helper()
		entries, _, err := dora.Catalog.Catalog(ctx, search, "")
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range entries {
			if e.Closed {
				closed = append(closed, e.ID)
			}
		}
		return closed
	}
	if got := seen(""); got != nil {
		t.Errorf("%v are closed to dora and seen", got)
	}
	if err := dora.Care.Ask(ctx, "agent-commission", ""); err == nil {
		t.Error("what is not listed can be asked for")
	}
	if _, err := lila.Care.PutCare(ctx, model.Care{Report: "agent-commission", Listed: true}); err != nil {
		t.Fatal(err)
	}
	if got := seen("agent commission"); !slices.Equal(got, []string{"agent-commission"}) {
		t.Errorf("%v are closed to dora and found", got)
	}
	if _, err := dora.Catalog.Report("agent-commission"); err == nil {
		t.Error("what is listed is open")
	}
	if err := dora.Care.Ask(ctx, "intake-lots", ""); err == nil || !strings.Contains(err.Error(), "open to you already") {
		t.Errorf("asking for what is open is answered by %v", err)
	}
	for range 2 { // the second takes the place of the first
		if err := dora.Care.Ask(ctx, "agent-commission", "for the agents of Hollin"); err != nil {
			t.Fatal(err)
		}
	}
	open, err := lila.Care.Requests(ctx)
	if err != nil || len(open) != 1 || !strings.Contains(librarytest.Told(t, lila), "Dora Hollinfen asks for the report") {
		t.Fatal(open, err, librarytest.Told(t, lila))
	}
	if _, err := dora.Care.Answer(ctx, open[0].Number, true, ""); err == nil {
		t.Error("who asks grants it to themselves")
	}
	if _, err := lila.Care.Answer(ctx, open[0].Number, true, "until spring"); err != nil {
		t.Fatal(err)
	}
	if _, err := librarytest.SignIn(t, l, "dora").Catalog.Report("agent-commission"); err != nil {
		t.Errorf("it is not open now: %v", err)
	}
	if got := librarytest.Told(t, dora); got != "The report “Agent commission” is open to you now: until spring" {
		t.Errorf("who asked is told %s", got)
	}
	var refused *model.Refused
	if _, err := lila.Care.Answer(ctx, open[0].Number, false, ""); !errors.As(err, &refused) {
		t.Errorf("answering twice is answered by %v", err)
	}
}

// What a person keeps goes to another: all of it, under names that do not clash.
func TestHandingOver(t *testing.T) {
	l, _ := open(t)
	runa, aron, adda := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "aron"),
		librarytest.SignIn(t, l, "adda")
	ctx := t.Context()
	for _, a := range []*library.Access{runa, aron} {
		if _, err := a.Asking.KeepCriteria(ctx, model.Criteria{Report: "intake-lots", Name: "usual",
			Typed: map[string]string{"received": "last week"}}); err != nil {
			t.Fatal(err)
		}
	}
	c := librarytest.Control("weekly", func(c *controls.Control) { c.Steps = []controls.Step{{Report: "intake-lots"}} })
	if _, err := runa.Controls.PutControl(ctx, c); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.Desk.PutDesk(ctx, desk.Desk{Kind: "person", Owner: "runa",
		Tiles: []desk.Tile{{Control: "weekly", Step: 1, View: "lots", Show: "table"}}}); err != nil {
		t.Fatal(err)
	}
	for _, to := range []string{"runa", "nobody"} {
		if _, err := adda.Care.HandOver(ctx, "runa", to); err == nil {
			t.Errorf("handing over to %s is done", to)
		}
	}
	if _, err := runa.Care.HandOver(ctx, "runa", "aron"); err == nil {
		t.Error("a runner hands over")
	}
	moved, err := adda.Care.HandOver(ctx, "runa", "aron")
	// the demo has a control of hers, too
	if want := "criteria: 1, run controls: 2, tiles: 1"; err != nil || strings.Join(moved, ", ") != want {
		t.Errorf("handed over: %v, %v", moved, err)
	}
	kept, err := librarytest.SignIn(t, l, "aron").Asking.CriteriaFor(ctx, "intake-lots", asking.CriteriaWish{Limit: 10})
	var names []string
	for _, k := range kept {
		names = append(names, k.Name)
	}
	slices.Sort(names)
	if err != nil || strings.Join(names, ", ") != "usual, usual (runa)" {
		t.Errorf("aron keeps %v, %v", names, err)
	}
	if !strings.Contains(librarytest.Told(t, aron), "What runa kept is yours now: criteria: 1") {
		t.Errorf("aron is told %s", librarytest.Told(t, aron))
	}
}

// What is opened is counted: for oneself as recent, for one's groups as popular, and by month.
func TestVisits(t *testing.T) {
	l, _ := open(t)
	runa, dora, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora"),
		librarytest.SignIn(t, l, "lila")
	ctx := t.Context()
	runa.Care.Visited(ctx, "sites-by-unit", model.VisitRun)
	runa.Care.Visited(ctx, "sites-by-unit", model.VisitForm)
	for range 3 {
		runa.Care.Visited(ctx, "intake-lots", model.VisitRead)
	}
	runa.Care.Visited(ctx, "intake-lots", model.VisitExport)
	if got, err := runa.Care.Recent(ctx); err != nil || len(got) != 2 {
		t.Errorf("recent are %v, %v", got, err)
	}
	if got, err := dora.Care.Recent(ctx); err != nil || len(got) != 0 {
		t.Errorf("of dora recent are %v, %v", got, err)
	}
	if got, err := dora.Care.Popular(ctx); err != nil || !slices.Equal(got, []string{"intake-lots", "sites-by-unit"}) {
		t.Errorf("the field offices use %v most, %v", got, err)
	}
	used, err := lila.Health.Uses(ctx, "intake-lots")
	if err != nil || len(used) != 1 || used[0].Reads != 3 || used[0].Exports != 1 || used[0].Readers != 1 ||
		used[0].Runs != 0 {
		t.Errorf("it was used %+v, %v", used, err)
	}
}
