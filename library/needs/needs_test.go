package needs_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// morning is a day of the demo.
var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, librarytest.Berlin)

// keep keeps a run control of the lots of last month.
func keep(t *testing.T, a *library.Access, change func(*controls.Control)) {
	t.Helper()
	c := controls.Control{Control: model.Control{ID: "month", Title: "Month of the lots", Shared: "everyone"},
		Outputs: []string{"kept"}, Steps: []controls.Step{{Report: "intake-lots",
			Typed: map[string]string{"received": "last month"}}}}
	if change != nil {
		change(&c)
	}
	if _, err := a.Controls.PutControl(t.Context(), c); err != nil {
		t.Fatal(err)
	}
}

func run(t *testing.T, a *library.Access) {
	t.Helper()
	runs, err := a.Controls.RunControl(t.Context(), "month", nil, false)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range runs[0].Runs {
		librarytest.Ended(t, a, r)
	}
}

// of is what needs somebody, a line for each.
func of(t *testing.T, a *library.Access) string {
	t.Helper()
	all, err := a.Needs.Needs(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, n := range all {
		said = append(said, n.Kind+" "+n.Of+": "+n.Says+" | "+n.Do+" | "+n.Place)
	}
	return strings.Join(said, "\n")
}

func TestWhoFollowsIsToldOfWhatTheySee(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, rhea, dora := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "rhea"), librarytest.Person(t, l,
		"dora")
	keep(t, runa, nil)
	if err := runa.Needs.Follow(t.Context(), "month", true); err == nil {
		t.Error("somebody follows their own run control")
	}
	for _, a := range []*library.Access{rhea, dora} {
		if err := a.Needs.Follow(t.Context(), "month", true); err != nil {
			t.Fatal(err)
		}
	}
	if err := rhea.Needs.Follow(t.Context(), "moth", true); err == nil || !strings.Contains(err.Error(), "or month?") {
		t.Errorf("following what is not there: %v", err)
	}
	run(t, runa)
	told := ""
	librarytest.Until(t, "a word to who follows", func() bool { told = of(t, rhea); return told != "" })
	if !strings.Contains(told, "“Month of the lots” has run: R-000001, Intake lots, Received 1–30 September 2026") ||
		!strings.Contains(told, "/results/R-000001") {
		t.Errorf("rhea is told\n%s", told)
	}
	if told := of(t, dora); told != "" { // the rows are of all units
		t.Errorf("dora, who does not see the result, is told\n%s", told)
	}
	if err := rhea.Needs.Follow(t.Context(), "month", false); err != nil {
		t.Fatal(err)
	}
	run(t, runa)
	if again := of(t, rhea); again != told {
		t.Errorf("who no longer follows is told\n%s", again)
	}
}

// TestNeedsGoWhenTheyAreDone asks for a report and grants it, and has a run of a timetable fail and
// tried again.
func TestNeedsGoWhenTheyAreDone(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	ctx := t.Context()
	o.During("the request", func(t *testing.T, l *library.Library) {
		runa, lila := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "lila")
		if before := of(t, runa); before != "" {
			t.Fatalf("at first runa is needed for\n%s", before)
		}
		if _, err := lila.Care.PutCare(ctx, model.Care{Report: "agent-commission", Listed: true}); err != nil {
			t.Fatal(err)
		}
		if err := librarytest.Person(t, l, "dora").Care.Ask(ctx, "agent-commission", "for Hollin"); err != nil {
			t.Fatal(err)
		}
		asked := of(t, lila)
		if asked != "request agent-commission: Dora Hollinfen asks for the report “Agent commission”. “for Hollin” | "+
			"Open it to them, or say why not | /office?desk=open&request=1" {
			t.Errorf("lila is needed for\n%s", asked)
		}
		if other := of(t, runa); other != "" {
			t.Errorf("runa, who opens nothing, is needed for\n%s", other)
		}
		if _, err := lila.Care.Answer(ctx, 1, true, ""); err != nil {
			t.Fatal(err)
		}
		if asked := of(t, lila); asked != "" {
			t.Errorf("what is answered stands there still:\n%s", asked)
		}
		keep(t, runa, func(c *controls.Control) {
			c.Rows, c.Timetable = 1, &timetable.Timetable{Rule: "FREQ=DAILY", At: 8 * 60}
		})
	})
	o.Now.Set(morning.AddDate(0, 0, 1))
	o.During("the failure", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		librarytest.Until(t, "the failure", func() bool { return of(t, runa) != "" })
		if failed := of(t, runa); !strings.HasPrefix(failed, "control month: Month of the lots: ") ||
			!strings.Contains(failed, "try its run again | /controls/month") {
			t.Errorf("runa is needed for\n%s", failed)
		}
		c, err := runa.Controls.Control(ctx, "month")
		if err != nil {
			t.Fatal(err)
		}
		c.Rows = 0
		if _, err = runa.Controls.PutControl(ctx, c); err != nil {
			t.Fatal(err)
		}
	})
	o.Now.Set(morning.AddDate(0, 0, 2))
	o.During("the day after", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		librarytest.Until(t, "the next run", func() bool { return !strings.Contains(of(t, runa), "control month:") })
	})
}
