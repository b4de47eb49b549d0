package library_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/param"
	"mantilla/library"
	"mantilla/model"
)

// finish runs a report to its end.
func finish(t *testing.T, a *library.Access, ask library.Ask) model.Run {
	t.Helper()
	run, err := a.StartRun(t.Context(), ask)
	if err != nil {
		t.Fatal(err)
	}
	return ended(t, a, run)
}

func ended(t *testing.T, a *library.Access, run model.Run) model.Run {
	t.Helper()
	var err error
	for begun := time.Now(); err == nil && !run.State.Ended() && time.Since(begun) < 20*time.Second; time.Sleep(2 * time.Millisecond) {
		run, err = a.Run(t.Context(), run.Number)
	}
	if err != nil {
		t.Fatal(err)
	}
	return run
}

// TestControlsRunInOrderWithDatesThatMove runs a month-end set twice, a month
// apart, as a person who sees one district.
func TestControlsRunInOrderWithDatesThatMove(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	dora := as(t, l, "dora")
	kept, err := dora.KeepCriteria(t.Context(), model.Criteria{Report: "intake-lots", Name: "last month", Typed: map[string]string{"received": "last month"}})
	if err != nil {
		t.Fatal(err)
	}
	control := library.Control{Control: model.Control{ID: "month-end", Title: "Month end"}, Outputs: []string{"kept", "csv"}, Empty: "note", Keep: 30,
		Steps: []library.Step{{Report: "intake-by-origin", Typed: map[string]string{"received": "last month"}}, {Report: "intake-lots", Criteria: kept.Number}, {Report: "certificate-lines", Typed: map[string]string{"ahead": "1"}}}}
	if control, err = dora.PutControl(t.Context(), control); err != nil {
		t.Fatal(err)
	}
	for _, month := range []string{"2026-09-01/2026-09-30", "2026-10-01/2026-10-31"} {
		batch, err := dora.RunControl(t.Context(), "month-end", nil, false)
		if err != nil {
			t.Fatal(err)
		}
		for i := range batch[0].Runs {
			run := ended(t, dora, batch[0].Runs[i])
			if run.State != model.Done || i < 2 && run.Facts[0].Resolved != month || !run.Reach.Limited || len(run.Reach.Units) != 9 {
				t.Errorf("%s: %s %s: %+v", month, run.Report, run.Reason, run.Facts)
			}
		}
		now.set(now.time().AddDate(0, 1, 0))
	}
	past, err := dora.ControlRuns(t.Context(), "month-end", 10)
	if err != nil || len(past) != 2 || len(past[0].Runs) != 3 {
		t.Fatalf("%+v, %v", past, err)
	}
	if _, err := dora.RunControl(t.Context(), "month-end", map[string]string{"received": "2026-02-30", "colour": "x"}, false); err == nil {
		t.Error("wrong values were run")
	} else {
		var faults param.Faults
		if !errors.As(err, &faults) || len(faults) != 3 || faults[0].Parameter != "intake-by-origin.received" || faults[2].Parameter != "colour" {
			t.Errorf("%v", err)
		}
	}
	once, err := dora.RunControl(t.Context(), "month-end", map[string]string{"intake-lots.received": "2026-08"}, false)
	if err != nil || once[0].Runs[1].Facts[0].Resolved != "2026-08-01/2026-08-31" || once[0].Runs[0].Facts[0].Resolved == "2026-08-01/2026-08-31" {
		t.Errorf("%+v, %v", once, err)
	}
}

func TestControlTerms(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := withPeople(t, now)
	runa := as(t, l, "runa")
	run := func(id string, change func(*library.Control)) model.Run {
		c := library.Control{Control: model.Control{ID: id, Title: id}, Steps: []library.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2020"}}}}
		change(&c)
		if _, err := runa.PutControl(t.Context(), c); err != nil {
			t.Fatal(err)
		}
		batch, err := runa.RunControl(t.Context(), id, nil, false)
		if err != nil {
			t.Fatal(err)
		}
		return batch[0].Runs[0]
	}
	if r := ended(t, runa, run("fails", func(c *library.Control) { c.Empty = "fail" })); r.State != model.Failed || !strings.Contains(r.Reason, "the result is empty") {
		t.Errorf("%s: %s", r.State, r.Reason)
	}
	if r := ended(t, runa, run("notes", func(c *library.Control) { c.Empty = "note" })); r.State != model.Done || r.Note != "The result is empty." {
		t.Errorf("%s: %q", r.State, r.Note)
	}
	few := run("few", func(c *library.Control) {
		c.Rows, c.Steps = 5, []library.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026"}}}
	})
	if r := ended(t, runa, few); r.State != model.Failed || !strings.Contains(r.Reason, "more than 5 rows") {
		t.Errorf("%s: %s", r.State, r.Reason)
	}
	waits := run("waits", func(c *library.Control) { c.Hours = "20:00-06:00" }) // it is 11:00 in the zone
	time.Sleep(50 * time.Millisecond)
	if r, err := runa.Run(t.Context(), waits.Number); err != nil || r.State != model.Waiting {
		t.Errorf("out of its hours it is %s, %v", r.State, err)
	}
	for says, change := range map[string]func(*library.Control){
		"is not the id of a run control": func(c *library.Control) { c.ID = "Bad id" },
		"at least one report":            func(c *library.Control) { c.Steps = nil },
		"are not hours":                  func(c *library.Control) { c.Hours = "20-6" },
		"leave no time":                  func(c *library.Control) { c.Hours = "06:00-06:00" },
		"is not an output":               func(c *library.Control) { c.Outputs = []string{"doc"} },
		"did you mean intake-lots?":      func(c *library.Control) { c.Steps[0].Report = "intake-lotz" },
		"step 1: there is no view":       func(c *library.Control) { c.Steps[0].View = "lotz" },
		"what can be done with an empty": func(c *library.Control) { c.Empty = "laugh" },
		"you are not in the group":       func(c *library.Control) { c.Shared = "stores" },
	} {
		c := library.Control{Control: model.Control{ID: "good", Title: "Good"}, Steps: []library.Step{{Report: "intake-lots"}}}
		change(&c)
		if _, err := runa.PutControl(t.Context(), c); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("want %q, got %v", says, err)
		}
	}
}
