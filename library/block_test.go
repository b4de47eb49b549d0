package library_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/core/sheet"
	"mantilla/library"
	"mantilla/model"
)

// A block that may fail leaves the rest of the page, and says why it is empty.
func TestAFailingBlockDoesNotFailThePage(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	lila := as(t, l, "lila")
	d, err := lila.Report("keeper-file")
	if err != nil {
		t.Fatal(err)
	}
	broken := func(text string) string {
		return strings.Replace(text, "is: lot.state,", "is: 'abs(-9223372036854775807 - 1)',", 1)
	}
	if _, err := lila.PutReport(t.Context(), []byte(broken(d.Text)), d.Version); err != nil {
		t.Fatal(err)
	}
	ask := library.Ask{Report: "keeper-file", Typed: map[string]string{"keeper": "K-1002"}}
	run := runWell(t, lila, ask)
	r, err := lila.Result(t.Context(), run.Result)
	if err != nil || r.RowsOf("payouts") == 0 || !strings.Contains(r.FailedOf("deliveries"), "integer overflow") {
		t.Fatalf("%v; deliveries: %q", err, r.FailedOf("deliveries"))
	}
	laid, err := lila.Sheet(t.Context(), r, "deliveries", sheet.Changes{})
	if err != nil || laid.Rows != 0 || !strings.Contains(laid.View.Says, "integer overflow") {
		t.Errorf("the block says %q, %v", laid.View.Says, err)
	}
	if good, err := l.CheckSeal(t.Context(), r); err != nil || !good {
		t.Errorf("the seal: %v, %v", good, err)
	}
	// Where no block may fail, the run does.
	strict := strings.ReplaceAll(broken(d.Text), "    may_fail: true\n", "")
	at, err := lila.Report("keeper-file")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lila.PutReport(t.Context(), []byte(strict), at.Version); err != nil {
		t.Fatal(err)
	}
	failed, err := lila.StartRun(t.Context(), ask)
	if err != nil {
		t.Fatal(err)
	}
	for begun := time.Now(); !failed.State.Ended() && time.Since(begun) < 20*time.Second; time.Sleep(2 * time.Millisecond) {
		if failed, err = lila.Run(t.Context(), failed.Number); err != nil {
			t.Fatal(err)
		}
	}
	if failed.State != model.Failed {
		t.Errorf("the strict report's run is %s", failed.State)
	}
}
