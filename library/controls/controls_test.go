package controls_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/param"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestControlsRunInOrderWithDatesThatMove runs a month-end set twice, a month
// apart, as a person who sees one district.
func TestControlsRunInOrderWithDatesThatMove(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	dora := librarytest.SignIn(t, l, "dora")
	kept, err := dora.Asking.KeepCriteria(t.Context(),
		model.Criteria{Report: "intake-lots", Name: "last month", Typed: map[string]string{"received": "last month"}})
	if err != nil {
		t.Fatal(err)
	}
	control := controls.Control{Control: model.Control{ID: "month-end", Title: "Month end"},
		Outputs: []string{"kept", "csv"}, Empty: "note", Keep: 30,
		Steps: []controls.Step{{Report: "intake-by-origin", Typed: map[string]string{"received": "last month"}},
			{Report: "intake-lots", Criteria: kept.Number},
			{Report: "certificate-lines", Typed: map[string]string{"ahead": "1"}}}}
	if _, err = dora.Controls.PutControl(t.Context(), control); err != nil {
		t.Fatal(err)
	}
	for _, month := range []string{"2026-09-01/2026-09-30", "2026-10-01/2026-10-31"} {
		batch, err := dora.Controls.RunControl(t.Context(), "month-end", nil, false)
		if err != nil {
			t.Fatal(err)
		}
		for i := range batch[0].Runs {
			run := librarytest.Ended(t, dora, batch[0].Runs[i])
			if run.State != model.Done || i < 2 && run.Facts[0].Resolved != month || !run.Reach.Limited ||
				len(run.Reach.Units) != 9 {
				t.Errorf("%s: %s %s: %+v", month, run.Report, run.Reason, run.Facts)
			}
		}
		now.Set(now.Time().AddDate(0, 1, 0))
	}
	past, err := dora.Controls.ControlRuns(t.Context(), "month-end", 10)
	if err != nil || len(past) != 2 || len(past[0].Runs) != 3 {
		t.Fatalf("%+v, %v", past, err)
	}
	if _, err := dora.Controls.RunControl(t.Context(), "month-end",
		map[string]string{"received": "2026-02-30", "colour": "x"}, false); err == nil {
		t.Error("wrong values were run")
	} else {
		var faults param.Faults
		if !errors.As(err, &faults) || len(faults) != 3 || faults[0].Parameter != "intake-by-origin.received" ||
			faults[2].Parameter != "colour" {
			t.Errorf("%v", err)
		}
	}
	once, err := dora.Controls.RunControl(t.Context(), "month-end", map[string]string{"intake-lots.received": "2026-08"},
		false)
	if err != nil || once[0].Runs[1].Facts[0].Resolved != "2026-08-01/2026-08-31" ||
		once[0].Runs[0].Facts[0].Resolved == "2026-08-01/2026-08-31" {
		t.Errorf("%+v, %v", once, err)
	}
}

func TestControlTerms(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	runa := librarytest.SignIn(t, l, "runa")
	run := func(id string, change func(*controls.Control)) model.Run {
		c := controls.Control{
			Control: model.Control{ID: id, Title: id},
			Steps:   []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2020"}}},
		}
		change(&c)
		if _, err := runa.Controls.PutControl(t.Context(), c); err != nil {
			t.Fatal(err)
		}
		batch, err := runa.Controls.RunControl(t.Context(), id, nil, false)
		if err != nil {
			t.Fatal(err)
		}
		return batch[0].Runs[0]
	}
	if r := librarytest.Ended(t, runa,
		run("fails", func(c *controls.Control) { c.Empty = "fail" })); r.State != model.Failed ||
		!strings.Contains(r.Reason, "the result is empty") {
		t.Errorf("%s: %s", r.State, r.Reason)
	}
	if r := librarytest.Ended(t, runa,
		run("notes", func(c *controls.Control) { c.Empty = "note" })); r.State != model.Done ||
		r.Note != "The result is empty." {
		t.Errorf("%s: %q", r.State, r.Note)
	}
	few := run("few", func(c *controls.Control) {
		c.Rows, c.Steps = 5, []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026"}}}
	})
	if r := librarytest.Ended(t, runa, few); r.State != model.Failed || !strings.Contains(r.Reason, "more than 5 rows") {
		t.Errorf("%s: %s", r.State, r.Reason)
	}
	waits := run("waits", func(c *controls.Control) { c.Hours = "20:00-06:00" }) // it is 11:00 in the zone
	time.Sleep(50 * time.Millisecond)
	if r, err := runa.Capture.Run(t.Context(), waits.Number); err != nil || r.State != model.Waiting {
		t.Errorf("out of its hours it is %s, %v", r.State, err)
	}
	for says, change := range map[string]func(*controls.Control){
		"is not the id of a run control": func(c *controls.Control) { c.ID = "Bad id" },
		"at least one report":            func(c *controls.Control) { c.Steps = nil },
		"are not hours":                  func(c *controls.Control) { c.Hours = "20-6" },
		"leave no time":                  func(c *controls.Control) { c.Hours = "06:00-06:00" },
		"is not an output":               func(c *controls.Control) { c.Outputs = []string{"doc"} },
		"did you mean intake-lots?":      func(c *controls.Control) { c.Steps[0].Report = "intake-lotz" },
		"step 1: there is no view":       func(c *controls.Control) { c.Steps[0].View = "lotz" },
		"what can be done with an empty": func(c *controls.Control) { c.Empty = "laugh" },
		"you are not in the group":       func(c *controls.Control) { c.Shared = "stores" },
	} {
		c := controls.Control{
			Control: model.Control{ID: "good", Title: "Good"},
			Steps:   []controls.Step{{Report: "intake-lots"}},
		}
		change(&c)
		if _, err := runa.Controls.PutControl(t.Context(), c); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("want %q, got %v", says, err)
		}
	}
}
