package librarytest

import (
	"slices"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/sending"
	"mantilla/model"
)

// RunWell runs a report to a good end.
func RunWell(t *testing.T, a *library.Access, ask capture.Ask) model.Run {
	t.Helper()
	run, err := a.Capture.StartRun(t.Context(), ask)
	if err != nil {
		t.Fatal(err)
	}
	Until(t, "the run's end", func() bool {
		if run, err = a.Capture.Run(t.Context(), run.Number); err != nil {
			t.Fatal(err)
		}
		return run.State.Ended()
	})
	if run.State != model.Done {
		t.Fatalf("%s %s: %s", run.Report, run.State, run.Reason)
	}
	return run
}

// Finish runs a report to its end.
func Finish(t *testing.T, a *library.Access, ask capture.Ask) model.Run {
	t.Helper()
	run, err := a.Capture.StartRun(t.Context(), ask)
	if err != nil {
		t.Fatal(err)
	}
	return Ended(t, a, run)
}

// Ended waits for the end of a run.
func Ended(t *testing.T, a *library.Access, run model.Run) model.Run {
	t.Helper()
	var err error
	for begun := time.Now(); err == nil && !run.State.Ended() &&
		time.Since(begun) < 20*time.Second; time.Sleep(2 * time.Millisecond) {
		run, err = a.Capture.Run(t.Context(), run.Number)
	}
	if err != nil {
		t.Fatal(err)
	}
	return run
}

// Send keeps a control, runs it, sends what it gives and returns its runs as
// they then are.
func Send(t *testing.T, a *library.Access, c controls.Control) []model.ControlRun {
	t.Helper()
	if _, err := a.Controls.PutControl(t.Context(), c); err != nil {
		t.Fatal(err)
	}
	begun, err := a.Controls.RunControl(t.Context(), c.ID, nil, true)
	if err != nil {
		t.Fatal(err)
	}
	var all []model.ControlRun
	Until(t, "the sending of "+c.ID, func() bool {
		if all, err = a.Controls.ControlRuns(t.Context(), c.ID, len(begun)); err != nil {
			t.Fatal(err)
		}
		return !slices.ContainsFunc(all, func(r model.ControlRun) bool { return r.Sending == "waiting" })
	})
	return all
}

// Control is a run control of one small report that runa sends.
func Control(id string, change func(*controls.Control)) controls.Control {
	c := controls.Control{Control: model.Control{ID: id, Title: id}, Outputs: []string{"csv"},
		Steps: []controls.Step{{Report: "intake-lots", View: "lots", Typed: map[string]string{"received": "2026-08"}}},
		Send:  &sending.Send{To: []string{"adda"}}}
	change(&c)
	return c
}

// ParcelsOf are the parcels of runs of controls.
func ParcelsOf(t *testing.T, a *library.Access, runs []model.ControlRun) (all []model.Parcel) {
	t.Helper()
	parcels, err := a.Sending.Parcels(t.Context(), "", 0, 500)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range parcels {
		if slices.ContainsFunc(runs, func(r model.ControlRun) bool { return r.Number == p.ControlRun }) {
			all = append(all, p)
		}
	}
	return all
}
