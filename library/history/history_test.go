package history_test

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/history"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// figure computes a figure of all rows of a view that filters select.
func figure(t *testing.T, a *library.Access, result int64, view, formula string, filters ...string) string {
	t.Helper()
	r, err := a.Reading.Result(t.Context(), result)
	if err != nil {
		t.Fatal(err)
	}
	of, err := a.Reading.Read(t.Context(), r, view, ask.Changes{Filters: filters})
	if err != nil {
		t.Fatal(err)
	}
	n, err := of.Figure(t.Context(), formula)
	if err != nil {
		t.Fatal(err)
	}
	return n.String()
}

// What a history tells of each capture is what its result says, although the source has long
// overwritten it.
func TestAHistoryAgreesWithItsResults(t *testing.T) {
	s := demotest.StartAfterAYear(t)
	runa := librarytest.Person(t, s.Library, "runa")
	ctx := t.Context()
	series, err := runa.History.Captures(ctx, "training-month", "")
	if err != nil || len(series.Captures) != 13 || series.Captures[5].Result != 0 || series.Other != 0 {
		t.Fatalf("%v: %+v", err, series)
	}
	run, err := runa.History.Read(ctx, history.Wish{Control: "training-month"})
	if err != nil {
		t.Fatal(err)
	}
	if run = librarytest.Ended(t, runa, run); run.State != model.Done {
		t.Fatal(run.Reason)
	}
	differ := map[string]bool{}
	for _, c := range series.Captures {
		on := c.At.Format("2006-01-02")
		for _, stage := range []string{"0 not begun", "2 theory", "5 certified"} {
			is := "stage=" + stage
			told := figure(t, runa, run.Result, "course", "sum(rows)", is, "captured="+on)
			begun := figure(t, runa, run.Result, "history", "count(*)", is, "seen_since<="+on)
			over := figure(t, runa, run.Result, "history", "count(*)", is, "seen_until<="+on)
			if c.Result == 0 {
				if told != "" {
					t.Errorf("on %s, of which nothing was kept, %s are told in %s", on, told, stage)
				}
				continue
			}
			want := figure(t, runa, c.Result, "stages", "count(*)", is)
			lasting, err := strconv.Atoi(begun)
			ended, wrong := strconv.Atoi(over)
			if err != nil || wrong != nil || told != want || fmt.Sprint(lasting-ended) != want {
				t.Errorf("on %s %s are told in %s, %d last, and the result has %s", on, told, stage, lasting-ended, want)
			}
			differ[want] = true
		}
	}
	if len(differ) < 10 {
		t.Errorf("the months hardly differ: %v", differ)
	}
}

// Results of other values stand aside, and a control of several reports wants to know which.
func TestWhatIsOfASeries(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa := librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	if _, err := runa.Controls.PutControl(ctx, librarytest.Control("stages", func(c *controls.Control) {
		c.Timetable, c.Send, c.Split = nil, nil, nil
		c.Steps = []controls.Step{{Report: "training-progress", Typed: map[string]string{"as_of": "today"}}}
	})); err != nil {
		t.Fatal(err)
	}
	for _, as := range []string{"2026-10-01", "today"} {
		ran, err := runa.Controls.RunControl(ctx, "stages", map[string]string{"as_of": as}, false)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range ran[0].Runs {
			librarytest.Ended(t, runa, r)
		}
	}
	s, err := runa.History.Captures(ctx, "stages", "")
	if err != nil || len(s.Captures) != 1 || s.Other != 1 {
		t.Errorf("%v: %+v", err, s)
	}
	for want, w := range map[string]history.Wish{
		"needs two results of stages at least, and 1 are kept": {Control: "stages"},
		"say which: intake-by-origin, payout-detail":           {Control: "districts-month"},
		`no report of districts-month "x"`:                     {Control: "districts-month", Report: "x"},
		`no run control "stage"`:                               {Control: "stage"},
	} {
		if _, err := runa.History.Read(ctx, w); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v and not %s", err, want)
		}
	}
}
