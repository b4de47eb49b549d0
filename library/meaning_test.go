package library_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/model"
)

// told writes a result as CSV and as text, all its views.
func told(t *testing.T, a *library.Access, number int64) string {
	t.Helper()
	x, err := a.Result(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for _, format := range []string{"text", "json"} {
		file, err := a.TakeAway(t.Context(), x, library.Take{Format: format})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := file.Write(t.Context(), &b, nil); err != nil {
			t.Fatal(err)
		}
	}
	return b.String()
}

// TestNothingReinterpretsAResult opens results in a service of another zone,
// currency and fiscal year, by a program that can no longer read their reports'
// texts: they say to everybody what they said when they were made.
func TestNothingReinterpretsAResult(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	asks := []library.Ask{
		{Report: "lot-changes", Typed: map[string]string{"changed": "2026-09-01"}},                                          // moments
		{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}},                                            // money without a currency of its own
		{Report: "rental-position", Typed: map[string]string{}},                                                             // a rule set decides the columns
		{Report: "hive-scale-trend", Typed: map[string]string{"read": "2026-08", "interval": "week"}},                       // groups by moments
		{Report: "orders-by-grouping", Typed: map[string]string{"group": "channel", "days": "2026-09 against year before"}}, // compared
	}
	var numbers []int64
	said := map[int64]string{}
	o.during("as it was", func(t *testing.T, l *library.Library) {
		runa := person(t, l, "runa")
		for _, ask := range asks {
			run := finish(t, runa, ask)
			if run.State != model.Done {
				t.Fatalf("%s: %s", ask.Report, run.Reason)
			}
			numbers = append(numbers, run.Result)
			said[run.Result] = told(t, runa, run.Result)
		}
	})
	exec(t, o.dir, `update report_version set text = 'report: [' where report in ('lot-changes', 'intake-lots', 'rental-position', 'hive-scale-trend', 'orders-by-grouping')`)
	tokyo, err := time.LoadLocation("Asia/Tokyo")
	if err != nil {
		t.Fatal(err)
	}
	l := openWith(t, o.dir, o.now, func(s *library.Settings) { s.Zone, s.Currency, s.FiscalStart = tokyo, "JPY", 4 })
	runa := person(t, l, "runa")
	if err := runa.SetZone(t.Context(), "Europe/Berlin"); err != nil { // as their moments were said
		t.Fatal(err)
	}
	runa = person(t, l, "runa")
	for i, number := range numbers {
		if now := told(t, runa, number); now != said[number] {
			t.Errorf("%s says\n%.1500s\nand said\n%.1500s", asks[i].Report, now, said[number])
		}
		x, err := runa.Result(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		if good, err := l.CheckSeal(t.Context(), x); err != nil || !good {
			t.Errorf("%s: its seal is %t, %v", asks[i].Report, good, err)
		}
	}
	entries, _, err := runa.Catalog(t.Context(), "intake lots", "")
	if err != nil || len(entries) == 0 || entries[0].ID != "intake-lots" || entries[0].Title != "Intake lots" || !strings.Contains(entries[0].Broken, "line 1") {
		t.Errorf("the catalog: %+v, %v", entries, err)
	}
	if _, err := runa.StartRun(t.Context(), asks[1]); err == nil || !strings.Contains(err.Error(), "has to be mended") {
		t.Errorf("what cannot be read is run: %v", err)
	}
	if _, err := person(t, l, "dora").Result(t.Context(), numbers[1]); err == nil {
		t.Error("dora sees rows of all units")
	}
}

// TestAChangedSchemaBreaksTheSeal changes what the cells of a result mean behind the
// service's back.
func TestAChangedSchemaBreaksTheSeal(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	var number int64
	o.during("made", func(t *testing.T, l *library.Library) {
		number = finish(t, person(t, l, "runa"), library.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}}).Result
	})
	exec(t, o.dir, `update result set settled = replace(cast(settled as text), 'EUR', 'JPY')`)
	o.during("changed", func(t *testing.T, l *library.Library) {
		if _, err := person(t, l, "runa").Result(t.Context(), number); err == nil || !strings.Contains(err.Error(), model.ErrBroken.Error()) {
			t.Errorf("it is read all the same: %v", err)
		}
	})
}
