package capture_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/library/catalog"

	"mantilla/core/ask"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/model"
	"mantilla/store"
)

// A block that may fail leaves the rest of the page, and says why it is empty.
func TestAFailingBlockDoesNotFailThePage(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	lila := librarytest.SignIn(t, l, "lila")
	d, err := lila.Catalog.Report("keeper-file")
	if err != nil {
		t.Fatal(err)
	}
	broken := func(text string) string {
		return strings.Replace(text, "is: lot.state,", "is: 'abs(-9223372036854775807 - 1)',", 1)
	}
	check := "\nchecks: [{id: some, of: deliveries, holds: count(*) > 0, else: fail, say: None.}]\n"
	if _, err := lila.Catalog.PutReport(t.Context(), []byte(broken(d.Text)+check),
		catalog.Put{Was: d.Version}); err != nil {
		t.Fatal(err)
	}
	asked := capture.Ask{Report: "keeper-file", Typed: map[string]string{"keeper": "K-1002"}}
	run := librarytest.RunWell(t, lila, asked)
	r, err := lila.Reading.Result(t.Context(), run.Result)
	if err != nil || r.RowsOf("payouts") == 0 || !strings.Contains(r.FailedOf("deliveries"), "integer overflow") {
		t.Fatalf("%v; deliveries: %q", err, r.FailedOf("deliveries"))
	}
	if o := r.Manifest.Checks[0]; o.State != "untold" || !strings.Contains(o.Why, "integer overflow") {
		t.Errorf("a check of the block is %+v", o)
	}
	laid, err := lila.Reading.Sheet(t.Context(), r, "deliveries", ask.Changes{})
	if err != nil || laid.Rows != 0 || !strings.Contains(laid.View.Says, "integer overflow") {
		t.Errorf("the block says %q, %v", laid.View.Says, err)
	}
	if good, err := l.AsService().Reading.CheckSeal(t.Context(), r); err != nil || !good {
		t.Errorf("the seal: %v, %v", good, err)
	}
	// Where no block may fail, the run does.
	strict := strings.ReplaceAll(broken(d.Text), "    may_fail: true\n", "")
	at, err := lila.Catalog.Report("keeper-file")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lila.Catalog.PutReport(t.Context(), []byte(strict), catalog.Put{Was: at.Version}); err != nil {
		t.Fatal(err)
	}
	failed, err := lila.Capture.StartRun(t.Context(), asked)
	if err != nil {
		t.Fatal(err)
	}
	for begun := time.Now(); !failed.State.Ended() &&
		time.Since(begun) < 20*time.Second; time.Sleep(2 * time.Millisecond) {
		if failed, err = lila.Capture.Run(t.Context(), failed.Number); err != nil {
			t.Fatal(err)
		}
	}
	if failed.State != model.Failed {
		t.Errorf("the strict report's run is %s", failed.State)
	}
}

// TestWorkThatKillsTheServiceIsGivenUp marks work as it is when the service ends
// over it, twice.
func TestWorkThatKillsTheServiceIsGivenUp(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("first", func(t *testing.T, l *library.Library) {
		runs := librarytest.Send(t, librarytest.Person(t, l, "runa"), librarytest.Control("c", func(*controls.Control) {}))
		librarytest.ParcelsOf(t, librarytest.Person(t, l, "runa"), runs)
	})
	for i := range 2 {
		librarytest.Exec(t, o.Dir,
			`update parcel set state = 'waiting', trying = 1, next_at = '2027-01-01T00:00:00.000Z', ended_at = null`)
		librarytest.Exec(t, o.Dir, `update run set state = 'running', after_crash = 'again'`)
		librarytest.Exec(t, o.Dir, `update control_run set sending = 'waiting', composing = 1`)
		librarytest.Exec(t, o.Dir, `delete from result`)
		records, err := store.Open(t.Context(), o.Dir, 1<<20)
		if err != nil {
			t.Fatal(err)
		}
		again, failed, err := records.Runs().Recover(t.Context(), o.Now.Time())
		if err := errors.Join(err, records.Sending().Resume(t.Context(), o.Now.Time()), records.Close()); err != nil {
			t.Fatal(err)
		}
		if (i == 0) != (again == 1) || failed != 0 {
			t.Errorf("end %d: %d runs again, %d failed", i+1, again, failed)
		}
	}
	o.During("at last", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		runs, err := runa.Controls.ControlRuns(t.Context(), "c", 1)
		if err != nil || runs[0].Sending != "failed" || !strings.Contains(runs[0].SentNote, "ended 2 times") ||
			runs[0].Runs[0].State != model.Failed || !strings.Contains(runs[0].Runs[0].Reason, "ended 2 times") {
			t.Errorf("%+v, %v", runs, err)
		}
		all, err := runa.Sending.Parcels(t.Context(), "", 0, 10)
		if err != nil || len(all) != 1 || all[0].State != model.Failed || !strings.Contains(all[0].Reason, "ended 2 times") {
			t.Errorf("%+v, %v", all, err)
		}
		if _, err := runa.Sending.MendParcel(t.Context(), all[0].Number, nil); err != nil {
			t.Errorf("it cannot be tried again by hand: %v", err)
		}
		triedAgain(t, l, runs[0].Number)
	})
}

// triedAgain tries a failed run of a control again as those who may not, and as
// its owner, until its run has a result and its sending is settled.
func triedAgain(t *testing.T, l *library.Library, number int64) {
	t.Helper()
	for _, name := range []string{"rhea", "aron"} {
		if _, err := librarytest.Person(t, l, name).Controls.AgainControlRun(t.Context(), number); err == nil {
			t.Errorf("%s tried again what is runa's", name)
		}
	}
	runa := librarytest.Person(t, l, "runa")
	r, err := runa.Controls.AgainControlRun(t.Context(), number)
	if err != nil || r.Sending != "waiting" || len(r.Runs) != 1 ||
		!strings.Contains(r.Runs[0].Note, "tried again after: the service ended 2 times") {
		t.Fatalf("%+v, %v", r, err)
	}
	librarytest.UntilOr(t, "it is done", func() bool {
		all, err := runa.Controls.ControlRuns(t.Context(), "c", 1)
		if err != nil {
			t.Fatal(err)
		}
		r = all[0]
		return r.Sending == "done"
	}, func() any { return r })
	if r.Runs[0].State != model.Done || r.Runs[0].Result == 0 {
		t.Errorf("%+v", r)
	}
	if _, err := runa.Controls.AgainControlRun(t.Context(), number); err == nil ||
		!strings.Contains(err.Error(), "nothing of S-") {
		t.Errorf("what went well was tried again: %v", err)
	}
	if _, err := runa.Controls.AgainControlRun(t.Context(), 999); err == nil ||
		!strings.Contains(err.Error(), `there is no set of runs "S-000999"`) {
		t.Errorf("a set that is not there: %v", err)
	}
}
