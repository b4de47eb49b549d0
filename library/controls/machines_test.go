package controls_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestWhatAServiceAccountHasComeIsItsOwners has a control of a service account come on its timetable: cut
// to the units that its owner sees, and not at all once nobody answers for it.
func TestWhatAServiceAccountHasComeIsItsOwners(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("first", func(t *testing.T, l *library.Library) {
		adda := librarytest.Person(t, l, "adda")
		err := adda.PutPerson(t.Context(), model.Person{Name: "nightly", Title: "Nightly", Role: model.Runner,
			Owner: "dora"}, "")
		if err != nil {
			t.Fatal(err)
		}
		_, err = librarytest.Person(t, l, "nightly").Controls.PutControl(t.Context(),
			controls.Control{Control: model.Control{ID: "nightly-lots", Title: "Lots by night"},
				Steps:     []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}}},
				Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6 * 60}})
		if err != nil {
			t.Fatal(err)
		}
	})
	o.Now.Set(time.Date(2026, 10, 16, 6, 0, 1, 0, librarytest.Berlin))
	o.During("the next day", func(t *testing.T, l *library.Library) {
		lila := librarytest.Person(t, l, "lila")
		var run model.Run
		librarytest.Until(t, "it ran", func() bool {
			table, err := lila.Controls.Timetable(t.Context(), 10)
			if err != nil {
				t.Fatal(err)
			}
			at := slices.IndexFunc(table.Ran, func(r model.ControlRun) bool { return r.Control == "nightly-lots" })
			if at < 0 {
				return false
			}
			run = table.Ran[at].Runs[0]
			return run.State.Ended()
		})
		if run.AskedBy != "nightly" || run.Result == 0 || !run.Reach.Limited || slices.ContainsFunc(run.Reach.Units,
			func(unit string) bool { return !strings.HasPrefix(unit, "UF-HOL") }) {
			t.Errorf("by %s, R-%d, cut to %+v", run.AskedBy, run.Result, run.Reach)
		}
		adda := librarytest.Person(t, l, "adda")
		dora := librarytest.Person(t, l, "dora").Person()
		dora.Closed = true
		if err := adda.PutPerson(t.Context(), dora, ""); err != nil {
			t.Fatal(err)
		}
	})
	o.Now.Set(time.Date(2026, 10, 17, 6, 0, 1, 0, librarytest.Berlin))
	o.During("once nobody answers for it", func(t *testing.T, l *library.Library) {
		lila := librarytest.Person(t, l, "lila")
		librarytest.Until(t, "it is refused", func() bool {
			table, err := lila.Controls.Timetable(t.Context(), 10)
			return err == nil && slices.ContainsFunc(table.Notes, func(n model.DueNote) bool {
				return n.Control == "nightly-lots" && n.State == "refused" && strings.Contains(n.Reason, "answers for")
			})
		})
	})
}
