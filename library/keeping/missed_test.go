package keeping_test

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

// A due moment that gave nothing is told to the owner of its control and to librarians, once,
// whether the service was down or the run failed.
func TestMissedMomentsAreTold(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 20, 12, 0, 0, 0, librarytest.Berlin))
	o.During("first", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		for id, c := range map[string]controls.Control{
			"skipped": {Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 2 * 60, Missed: "skip"},
				Steps: []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "yesterday"}}}},
			"failing": {Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 3 * 60, Missed: "once"}, Rows: 1,
				Steps: []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}}}},
			"well": {Timetable: &timetable.Timetable{Rule: "FREQ=DAILY", At: 4 * 60, Missed: "once"},
				Steps: []controls.Step{{Report: "intake-lots", Typed: map[string]string{"received": "2026-09"}}}},
		} {
			c.Control = model.Control{ID: id, Title: strings.ToUpper(id)}
			if _, err := runa.Controls.PutControl(t.Context(), c); err != nil {
				t.Fatal(err)
			}
		}
	})
	later := time.Date(2026, 10, 21, 12, 0, 0, 0, librarytest.Berlin)
	o.Now.Set(later)
	for range 2 { // a second start tells nothing again
		o.During("later", func(t *testing.T, l *library.Library) {
			runa, lila := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "lila")
			librarytest.Until(t, "the runs", func() bool {
				table, err := runa.Controls.Timetable(t.Context(), 20)
				return err == nil && len(table.Ran) == 2 && len(table.Notes) == 1 && table.Ran[0].Runs[0].State.Ended() &&
					table.Ran[1].Runs[0].State.Ended()
			})
			for range 2 {
				if err := l.Alarm(t.Context()); err != nil {
					t.Fatal(err)
				}
			}
			for who, said := range map[string]string{"runa": librarytest.Told(t, runa), "lila": librarytest.Told(t, lila)} {
				for part, want := range map[string]int{"Nothing was kept": 2, "“WELL”": 0,
					"“SKIPPED” for 21 October 2026, 02:00 CEST: it passed while the service was down.":                1,
					"“FAILING” for 21 October 2026, 03:00 CEST: dataset lots: source coop: the run gives more than 1": 1} {
					if n := strings.Count(said, part); n != want {
						t.Errorf("%s is told %d times of %q:\n%s", who, n, part, said)
					}
				}
			}
		})
	}
	o.Now.Set(later.AddDate(0, 0, 3))
	o.During("three days later", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		librarytest.Until(t, "the moments", func() bool {
			table, err := runa.Controls.Timetable(t.Context(), 20)
			return err == nil && len(table.Notes) == 8
		})
		if err := l.Alarm(t.Context()); err != nil {
			t.Fatal(err)
		}
		const want = "“SKIPPED” for 3 due moments from 22 October 2026, 02:00 CEST to 24 October 2026, 02:00 CEST; the " +
			"last: it"
		if said := librarytest.Told(t, runa); strings.Count(said, want) != 1 {
			t.Errorf("runa is told\n%s", said)
		}
	})
}
