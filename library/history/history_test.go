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
	"mantilla/library/sending"
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
	series, err := runa.History.Captures(ctx, "training-month", "", 0)
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

// TestASplitControlHasAHistoryOfEachPart keeps each part of a run control twice, and reads the
// history of one that is not the last.
func TestASplitControlHasAHistoryOfEachPart(t *testing.T) {
	now := librarytest.At(morning)
	l := librarytest.WithPeople(t, now)
	runa := librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	if _, err := runa.Controls.PutControl(ctx, librarytest.Control("parts", func(c *controls.Control) {
		c.Timetable, c.Split = nil, &sending.Split{Units: "district"}
		c.Outputs = []string{"kept"}
		c.Steps = []controls.Step{{Report: "training-progress", Typed: map[string]string{"as_of": "today"}}}
	})); err != nil {
		t.Fatal(err)
	}
	for range 2 {
		ran, err := runa.Controls.RunControl(ctx, "parts", nil, true)
		if err != nil || len(ran) < 10 {
			t.Fatalf("%d parts, %v", len(ran), err)
		}
		for _, part := range ran {
			librarytest.Ended(t, runa, part.Runs[0])
		}
		now.Set(now.Time().AddDate(0, 1, 0))
	}
	s, err := runa.History.Captures(ctx, "parts", "", 0)
	if err != nil || len(s.Kinds) < 10 || len(s.Captures) != 2 {
		t.Fatalf("%v: %+v", err, s)
	}
	part := func(sentence string) string { _, of, _ := strings.Cut(sentence, "; "); return of }
	for _, k := range s.Kinds[1:3] {
		own, err := runa.History.Captures(ctx, "parts", "", k.Result)
		if err != nil || len(own.Captures) != 2 || own.Captures[1].Result != k.Result || k.Kept != 2 ||
			part(own.Captures[0].Sentence) != part(k.Sentence) {
			t.Errorf("of %s there are %+v, %v", k.Sentence, own.Captures, err)
		}
		run, err := runa.History.Read(ctx, history.Wish{Control: "parts", Like: k.Result})
		if err != nil {
			t.Fatal(err)
		}
		if run = librarytest.Ended(t, runa, run); run.State != model.Done {
			t.Errorf("%s: %s", k.Sentence, run.Reason)
		}
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
	s, err := runa.History.Captures(ctx, "stages", "", 0)
	if err != nil || len(s.Captures) != 1 || s.Other != 1 {
		t.Errorf("%v: %+v", err, s)
	}
	if len(s.Kinds) != 2 || s.Kinds[0].Result != s.Captures[0].Result || s.Kinds[1].Kept != 1 {
		t.Fatalf("the series are %+v", s.Kinds)
	}
	other, err := runa.History.Captures(ctx, "stages", "", s.Kinds[1].Result)
	if err != nil || len(other.Captures) != 1 || other.Captures[0].Result != s.Kinds[1].Result || other.Other != 1 {
		t.Errorf("the other series is %+v, %v", other, err)
	}
	for want, w := range map[string]history.Wish{
		"R-000099 is no result of training-progress that stages ran": {Control: "stages", Like: 99},
		"needs two results of stages at least, and 1 are kept":       {Control: "stages"},
		"say which: intake-by-origin, payout-detail":                 {Control: "districts-month"},
		`no report of districts-month "x"`:                           {Control: "districts-month", Report: "x"},
		`no run control "stage"`:                                     {Control: "stage"},
	} {
		if _, err := runa.History.Read(ctx, w); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v and not %s", err, want)
		}
	}
}
