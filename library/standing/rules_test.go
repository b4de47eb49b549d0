package standing_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestResultsGoByTheirRules tries rules, keeps them, and looks what is left when their days are over: what
// is signed off stays, what is held stays but where a rule ends that too.
func TestResultsGoByTheirRules(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	runa, adda := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "adda")
	ran := func(report string) int64 {
		return librarytest.RunWell(t, runa, capture.Ask{Report: report}).Result
	}
	plain, held, staff, stock := ran("intake-lots"), ran("intake-lots"), ran("staff-list"), ran("stock-lines")
	for _, n := range []int64{held, staff} {
		if _, err := runa.Keeping.Hold(t.Context(), n, true, ""); err != nil {
			t.Fatal(err)
		}
	}
	now.Set(now.Time().AddDate(0, 0, 100))
	rule := func(kind, id string, days int, final bool) (model.RuleEffect, error) {
		x := model.KeepRule{Kind: kind, ID: id, Days: days, Final: final}
		tried, err := adda.Standing.TryKeepRule(t.Context(), x)
		if err != nil {
			return tried, err
		}
		kept, err := adda.Standing.PutKeepRule(t.Context(), x)
		if kept.Results != tried.Results || kept.Bytes != tried.Bytes {
			t.Errorf("%+v was to end %d results and ends %d", x, tried.Results, kept.Results)
		}
		return kept, err
	}
	for _, c := range []struct {
		kind, id string
		days     int
		final    bool
		goes     int64
		says     string
	}{
		{"report", "intake-lot", 90, false, 0, "did you mean intake-lots?"},
		{"category", "Staf", 90, true, 0, "did you mean Staff?"},
		{"kind", "x", 90, true, 0, "is not report, category or all"},
		{"all", "all", 0, true, 0, "1 to 36500 days"},
		{"report", "intake-lots", 101, false, 0, ""},
		{"report", "intake-lots", 90, false, 1, ""}, // not what is held
		{"category", "Staff", 99, true, 1, ""},
		{"all", "all", 1000, false, 0, ""},
	} {
		e, err := rule(c.kind, c.id, c.days, c.final)
		if c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) || c.says == "" &&
			(err != nil || e.Results != c.goes || int(e.Results) != len(e.Sample)) {
			t.Errorf("%+v: %+v, %v", c, e, err)
		}
	}
	if err := l.Sweep(t.Context()); err != nil {
		t.Fatal(err)
	}
	for n, want := range map[int64]string{plain: "trash", held: "kept", staff: "gone", stock: "kept"} {
		if got := place(t, adda, n); got != want {
			t.Errorf("R-%d is %s, want %s", n, got, want)
		}
	}
	if err := adda.Standing.DeleteKeepRule(t.Context(), "all", "all"); err != nil {
		t.Error(err)
	}
	if err := adda.Standing.DeleteKeepRule(t.Context(), "all", "all"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a rule is taken away twice: %v", err)
	}
}

// place is where a result is: kept, in the trash or gone.
func place(t *testing.T, a *library.Access, n int64) string {
	t.Helper()
	thrown, err := a.Trash.List(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range thrown {
		if x.Kind == "result" && x.ID == fmt.Sprintf("R-%06d", n) {
			return "trash"
		}
	}
	if _, err := a.Reading.Result(t.Context(), n); errors.Is(err, model.ErrNotFound) {
		return "gone"
	} else if err != nil {
		t.Fatal(err)
	}
	return "kept"
}

// TestQuotas has somebody keep more than they may, by themselves, by their group and as everyone.
func TestQuotas(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	runa, adda := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "adda")
	first := librarytest.RunWell(t, runa, capture.Ask{Report: "stock-lines"}).Result
	start := func() error {
		_, err := runa.Capture.StartRun(t.Context(), capture.Ask{Report: "stock-lines"})
		return err
	}
	for _, c := range []struct {
		kind, id string
		bytes    int64
		says     string
	}{
		{"everyone", "everyone", 1, "and the quota of everyone is"},
		{"group", runa.Person().Groups[0], 1_000_000_000, ""},
		{"person", "runa", 1, "and your quota is"},
		{"person", "runa", 0, ""},
	} {
		if err := adda.Standing.PutQuota(t.Context(), model.Quota{Kind: c.kind, ID: c.id, Bytes: c.bytes}); err != nil {
			t.Fatal(err)
		}
		if err := start(); c.says == "" && err != nil || c.says != "" &&
			(err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if err := adda.Standing.PutQuota(t.Context(), model.Quota{Kind: "person", ID: "rune", Bytes: 1}); err == nil ||
		!strings.Contains(err.Error(), "did you mean runa?") {
		t.Errorf("a quota of nobody: %v", err)
	}
	if _, err := runa.Reading.Result(t.Context(), first); err != nil {
		t.Errorf("what was kept before: %v", err)
	}
}

// TestFairTurns has one person ask for many runs and another for one after them: it is not the last.
func TestFairTurns(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	runa, dora := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "dora")
	var many []model.Run
	for range 12 {
		r, err := runa.Capture.StartRun(t.Context(), capture.Ask{Report: "stock-lines"})
		if err != nil {
			t.Fatal(err)
		}
		many = append(many, r)
	}
	one, err := dora.Capture.StartRun(t.Context(), capture.Ask{Report: "intake-lots"})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range many {
		librarytest.Ended(t, runa, r)
	}
	hers := librarytest.Ended(t, dora, one)
	last, err := runa.Capture.Run(t.Context(), many[len(many)-1].Number)
	if err != nil || hers.Result == 0 || hers.Result > last.Result {
		t.Errorf("her run gave R-%d, the last of the many R-%d, %v", hers.Result, last.Result, err)
	}
}
