package drafting_test

import (
	"errors"
	"strings"
	"testing"

	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/model"
)

func TestReadersWriteAndAreAnswered(t *testing.T) {
	l := office(t)
	lila, dora, rhea := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "dora"),
		librarytest.SignIn(t, l, "rhea")
	run := librarytest.RunWell(t, dora,
		capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}})
	if err := dora.Drafting.Write(t.Context(), "intake-lots", run.Result, "Is Hollin whole?"); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		report string
		result int64
		says   string
		want   string
	}{
		{"intake-lots", 0, "  ", "write what you want to say"},
		{"intake-lots", 0, strings.Repeat("x", 2001), "at most 2000"},
		{"lot-history", run.Result, "x", "is of the report intake-lots"},
		{"intake-lots", 99, "x", "not found"},
		{"trial-balance", 0, "x", `there is no report "trial-balance"`},
	} {
		if err := dora.Drafting.Write(t.Context(), c.report, c.result, c.says); err == nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if got := told(t, lila); !strings.Contains(got, "Dora Hollinfen writes of Intake lots (R-000001): Is Hollin whole?") {
		t.Errorf("lila is told %q", got)
	}
	if list, err := rhea.Drafting.Feedback(t.Context()); err != nil || len(list) != 0 {
		t.Errorf("rhea reads what dora wrote: %+v, %v", list, err)
	}
	if _, err := dora.Drafting.Answer(t.Context(), 1, "done", "x"); err == nil {
		t.Error("dora answers herself")
	}
	f, err := lila.Drafting.Answer(t.Context(), 1, "answered", "It is, as far as it was weighed.")
	if err != nil || f.AnsweredBy != "lila" || f.State != "answered" || f.Person != "dora" {
		t.Errorf("%+v, %v", f, err)
	}
	if got := told(t, dora); !strings.Contains(got, "Lila Ferncastle answers what you wrote of intake-lots: It is,") {
		t.Errorf("dora is told %q", got)
	}
	if _, err := lila.Drafting.Answer(t.Context(), 7, "done", ""); err == nil {
		t.Error("what nobody wrote is answered")
	}
}

func TestARetiredReportNamesWhatTakesItsPlace(t *testing.T) {
	l := office(t)
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	ask := capture.Ask{Report: "near-best-before"}
	run := librarytest.RunWell(t, runa, ask)
	if _, err := runa.Asking.KeepCriteria(t.Context(),
		model.Criteria{Report: "near-best-before", Name: "mine"}); err != nil {
		t.Fatal(err)
	}
	if err := runa.Drafting.Retire(t.Context(), "near-best-before", ""); err == nil {
		t.Error("a runner retires a report")
	}
	for successor, says := range map[string]string{"near-best-before": "succeed itself",
		"stock-line": "did you mean stock-lines"} {
		if err := lila.Drafting.Retire(t.Context(), "near-best-before", successor); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", successor, err)
		}
	}
	if err := lila.Drafting.Retire(t.Context(), "near-best-before", "stock-lines"); err != nil {
		t.Fatal(err)
	}
	if err := runa.Catalog.SetFavourite(t.Context(), "stock-lines", true); err != nil {
		t.Fatal(err)
	}
	entries, _, err := runa.Catalog.Catalog(t.Context(), "stock", "Stores")
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if e.ID == "near-best-before" || e.Marked != (e.ID == "stock-lines") {
			t.Errorf("the catalog lists %s, marked %v", e.ID, e.Marked)
		}
	}
	var refused *model.Refused
	if _, err := runa.Capture.StartRun(t.Context(), ask); !errors.As(err, &refused) ||
		!strings.Contains(err.Error(), "is retired; run stock-lines instead") {
		t.Errorf("it runs: %v", err)
	}
	if _, err := runa.Reading.Result(t.Context(), run.Result); err != nil {
		t.Errorf("its result: %v", err)
	}
	if got := told(t, runa); !strings.Contains(got, "stock-lines takes its place. Your criteria “mine” runs no more") {
		t.Errorf("runa is told %q", got)
	}
	if err := lila.Catalog.Reinstate(t.Context(), "near-best-before"); err != nil {
		t.Fatal(err)
	}
	librarytest.RunWell(t, runa, ask)
}

// A change of the shared parameters names what it breaks before, and tells it after.
func TestSharedParametersNameWhatTheyBreak(t *testing.T) {
	l := office(t)
	lila, runa := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "runa")
	if _, err := runa.Asking.KeepCriteria(t.Context(), model.Criteria{Report: "intake-lots", Name: "years",
		Typed: map[string]string{"received": "2024/2026"}}); err != nil {
		t.Fatal(err)
	}
	text, err := lila.Catalog.Shared()
	if err != nil {
		t.Fatal(err)
	}
	if same, err := lila.Drafting.SharedEffects(t.Context(), []byte(text+"# the same\n")); err != nil || len(same) != 0 {
		t.Errorf("the same: %+v, %v", same, err)
	}
	shorter := strings.Replace(text, "longest: 12 years", "longest: 1 year", 1)
	found, err := lila.Drafting.SharedEffects(t.Context(), []byte(shorter))
	if err != nil || len(found) != 1 || found[0].Report != "intake-lots" || found[0].Name != "years" ||
		!strings.Contains(found[0].Unfit[0], "received: ") {
		t.Errorf("%+v, %v", found, err)
	}
	gone := strings.Replace(text, "{id: keeper,", "{id: kepeer,", 1)
	found, err = lila.Drafting.SharedEffects(t.Context(), []byte(gone))
	if err != nil || len(found) == 0 || found[0].Kind != "report" ||
		!strings.Contains(found[0].Unfit[0], "did you mean kepeer?") {
		t.Errorf("%+v, %v", found, err)
	}
	if err := lila.Drafting.PutShared(t.Context(), []byte(gone)); err == nil {
		t.Error("reports that would be wrong were let through")
	}
	if got := told(t, runa); got != "" {
		t.Errorf("runa is told of what did not happen: %s", got)
	}
	if err := lila.Drafting.PutShared(t.Context(), []byte(shorter)); err != nil {
		t.Fatal(err)
	}
	if got := told(t, runa); !strings.Contains(got, "your criteria “years” no longer fits") {
		t.Errorf("runa is told %q", got)
	}
}
