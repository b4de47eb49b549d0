package controls_test

import (
	"slices"
	"testing"
	"time"

	"mantilla/core/timetable"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/library/sending"
	"mantilla/model"
)

// TestWhatAControlComesTo says it in words, whole and half written, and plans it without a trace: as many
// rows as the runs then have, for those who would get them.
func TestWhatAControlComesTo(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	runa := librarytest.Person(t, l, "runa")
	lots := controls.Step{Report: "intake-lots", Typed: map[string]string{"received": "2026-08", "unit": "Hollin"}}
	for want, c := range map[string]controls.Control{
		"Runs no report yet. It runs when somebody asks.": {},
		"Runs Intake lots and Staff list every day at 06:30, next Fri 16 Oct 2026, and sends a message to nobody yet.": {
			Steps:     []controls.Step{lots, {Report: "staff-list"}},
			Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6*60 + 30}, Send: &sending.Send{}},
		"Runs Staff list every day at 06:30, once its timetable goes on.": {
			Control: model.Control{Paused: true}, Steps: []controls.Step{{Report: "staff-list"}},
			Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 6*60 + 30}},
		"Runs Intake lots for each district, and sends a spreadsheet, a PDF and a CSV file to whoever stands for the " +
			"district, boss@brackenfell.example and the folder month, when there are rows. It runs when somebody asks.": {
			Steps: []controls.Step{lots}, Outputs: []string{"kept", "xlsx", "pdf", "csv"},
			Split: &sending.Split{Units: "district"},
			Send:  &sending.Send{To: []string{"boss@brackenfell.example"}, Folder: "month", When: "rows"}},
	} {
		if got := runa.Controls.Say(t.Context(), c); got.All != want {
			t.Errorf("it is said that\n%s\nwant\n%s", got.All, want)
		}
	}
	c := controls.Control{Control: model.Control{Title: "August"}, Steps: []controls.Step{lots, {Report: "staff-list"}}}
	tried, err := runa.Controls.Try(t.Context(), c)
	if err != nil || len(tried.Parts) != 1 || len(tried.Parts[0].Runs) != 2 || len(tried.Parts[0].To) != 0 {
		t.Fatalf("%+v, %v", tried, err)
	}
	for i, step := range c.Steps {
		ran := librarytest.RunWell(t, runa, capture.Ask{Report: step.Report, Typed: step.Typed})
		if got := tried.Parts[0].Runs[i]; !got.Counted || got.Rows != ran.Rows || got.Sentence != ran.Sentence {
			t.Errorf("%s would have %d rows: %s %s; it has %d", step.Report, got.Rows, got.Sentence, got.Failed, ran.Rows)
		}
	}
	list, err := runa.Controls.Controls(t.Context(), "", 100)
	if err != nil || slices.ContainsFunc(list, func(k controls.Control) bool { return k.Title == "August" }) {
		t.Errorf("it was kept: %v", err)
	}
	c.Rows = 10
	if tried, err = runa.Controls.Try(t.Context(), c); err != nil || tried.Parts[0].Runs[0].Counted ||
		tried.Parts[0].Runs[0].Failed == "" {
		t.Errorf("beyond its limit: %+v, %v", tried, err)
	}
}
