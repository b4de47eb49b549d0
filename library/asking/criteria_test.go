package asking_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/library/catalog"

	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestOverwrittenCriteriaComeBack overwrites shared criteria and brings their
// earlier values back; that is for their owner, and overwrites nothing for good.
func TestOverwrittenCriteriaComeBack(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	runa, dora := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora")
	kept, err := runa.Asking.KeepCriteria(t.Context(),
		model.Criteria{
			Report: "intake-lots",
			Name:   "lots",
			Shared: "everyone",
			Typed:  map[string]string{"received": "2026-08"},
		})
	if err != nil {
		t.Fatal(err)
	}
	librarytest.Finish(t, runa, capture.Ask{Report: "intake-lots", Typed: kept.Typed, Criteria: kept.Number})
	change := kept.Criteria
	change.Typed = map[string]string{"received": "2026-09"}
	if _, err := runa.Asking.ChangeCriteria(t.Context(), change); err != nil {
		t.Fatal(err)
	}
	past, err := runa.Asking.PastCriteria(t.Context(), kept.Number)
	if err != nil || len(past) != 1 || past[0].Revision != kept.Revision ||
		!strings.HasPrefix(past[0].Sentence, "Received 1–31 August 2026") {
		t.Fatalf("%+v, %v", past, err)
	}
	if _, err := dora.Asking.PastCriteria(t.Context(), kept.Number); err == nil ||
		!strings.Contains(err.Error(), "belongs to runa") {
		t.Errorf("another's earlier values: %v", err)
	}
	if _, err := dora.Asking.RestoreCriteria(t.Context(), kept.Number, kept.Revision); err == nil {
		t.Error("another brought earlier values back")
	}
	if _, err := runa.Asking.RestoreCriteria(t.Context(), kept.Number, 99); err == nil ||
		!strings.Contains(err.Error(), "no earlier values of revision 99") {
		t.Errorf("values that never were: %v", err)
	}
	back, err := runa.Asking.RestoreCriteria(t.Context(), kept.Number, kept.Revision)
	if err != nil || back.Typed["received"] != "2026-08" || back.Shared != "everyone" || back.Revision != 3 {
		t.Errorf("%+v, %v", back, err)
	}
	if past, err := runa.Asking.PastCriteria(t.Context(), kept.Number); err != nil || len(past) != 2 ||
		past[0].Typed["received"] != "2026-09" {
		t.Errorf("what was replaced is gone: %+v, %v", past, err)
	}
	if seen, err := dora.Asking.CriteriaOf(t.Context(), kept.Number); err != nil || seen.LastRows != -1 ||
		seen.LastRun.IsZero() {
		t.Errorf("she is told of rows of all units: %+v, %v", seen, err)
	}
}

// TestCriteriaSayWhatNoLongerFits changes a report under kept criteria.
func TestCriteriaSayWhatNoLongerFits(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	runa, lila := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "lila")
	kept, err := runa.Asking.KeepCriteria(t.Context(),
		model.Criteria{Report: "payout-detail", Name: "unpaid", Typed: map[string]string{"paid": "unpaid"}})
	if err != nil {
		t.Fatal(err)
	}
	d, err := lila.Catalog.Report("payout-detail")
	if err != nil {
		t.Fatal(err)
	}
	text := strings.ReplaceAll(strings.Replace(d.Text, "id: paid,", "id: is_paid,", 1), ":paid =", ":is_paid =")
	if _, err := lila.Catalog.PutReport(t.Context(), []byte(text), catalog.Put{Was: d.Version}); err != nil {
		t.Fatal(err)
	}
	after, err := runa.Asking.CriteriaOf(t.Context(), kept.Number)
	if err != nil || len(after.Unfit) != 1 || !strings.Contains(after.Unfit[0], `no parameter "paid"; did you mean`) ||
		after.Typed["paid"] != "unpaid" {
		t.Errorf("%+v, %v", after, err)
	}
}
