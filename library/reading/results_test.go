package reading_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/store"
)

func TestResultsKeepTheirCurrency(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	dir := demotest.Dir(t)
	total := func(currency string) string {
		records, err := store.Open(t.Context(), dir, 32<<20)
		if err != nil {
			t.Fatal(err)
		}
		defer records.Close()
		l := librarytest.On(t, records, dir, now, currency)
		defer l.Close()
		if currency == "EUR" {
			if err := demo.Load(t.Context(), l); err != nil {
				t.Fatal(err)
			}
			librarytest.RunWell(t, librarytest.Person(t, l, "runa"),
				capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}})
		}
		a := l.AsService()
		r, err := a.Reading.Result(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		if good, err := l.AsService().Reading.CheckSeal(t.Context(), r); err != nil || !good {
			t.Errorf("the seal: %t, %v", good, err)
		}
		s, err := a.Reading.Sheet(t.Context(), r, "lots", ask.Changes{})
		if err != nil {
			t.Fatal(err)
		}
		for i, c := range s.Columns {
			if c.ID == "value" {
				return s.Totals[i].Value.String() + " " + c.Currency
			}
		}
		return ""
	}
	was := total("EUR")
	if is := total("JPY"); is != was || !strings.HasSuffix(was, " EUR") {
		t.Errorf("with another setting it reads %s, not %s", is, was)
	}
}

// TestForgedResultsAreNotShown exchanges what is kept for what is valid too.
func TestForgedResultsAreNotShown(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("made", func(t *testing.T, l *library.Library) {
		for _, month := range []string{"2026-08", "2026-07"} {
			librarytest.RunWell(t, librarytest.Person(t, l, "runa"),
				capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": month}})
		}
	})
	librarytest.Exec(t, o.Dir,
		`update batch set data = (select data from batch where run = 2), digest = (select digest from batch where run = 2)
			where run = 1`)
	librarytest.Exec(t, o.Dir,
		`update result set manifest = replace(manifest, '"asked_by":"runa"', '"asked_by":"lila"') where number = 2`)
	o.During("forged", func(t *testing.T, l *library.Library) {
		a := l.AsService()
		r, err := a.Reading.Result(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		if good, err := l.AsService().Reading.CheckSeal(t.Context(), r); err != nil || good {
			t.Errorf("the seal: %t, %v", good, err)
		}
		s, err := a.Reading.Sheet(t.Context(), r, "lots", ask.Changes{})
		if err == nil {
			_, err = s.Read(t.Context(), 0, 10)
		}
		if !errors.Is(err, model.ErrBroken) {
			t.Errorf("exchanged rows are shown: %v", err)
		}
		if _, err := a.Reading.Result(t.Context(), 2); !errors.Is(err, model.ErrBroken) {
			t.Errorf("a forged manifest is shown: %v", err)
		}
	})
}

// told writes a result as CSV and as text, all its views.
func told(t *testing.T, a *library.Access, number int64) string {
	t.Helper()
	x, err := a.Reading.Result(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for _, format := range []string{"text", "json"} {
		file, err := a.Reading.TakeAway(t.Context(), x, reading.Take{Format: format})
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
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	asks := []capture.Ask{
		// moments
		{Report: "lot-changes", Typed: map[string]string{"changed": "2026-09-01"}},
		// money without a currency of its own
		{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}},
		// a rule set decides the columns
		{Report: "rental-position", Typed: map[string]string{}},
		// groups by moments
		{Report: "hive-scale-trend", Typed: map[string]string{"read": "2026-08", "interval": "week"}},
		// compared
		{Report: "orders-by-grouping", Typed: map[string]string{"group": "channel", "days": "2026-09 against year before"}},
	}
	var numbers []int64
	said := map[int64]string{}
	o.During("as it was", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		for _, ask := range asks {
			run := librarytest.Finish(t, runa, ask)
			if run.State != model.Done {
				t.Fatalf("%s: %s", ask.Report, run.Reason)
			}
			numbers = append(numbers, run.Result)
			said[run.Result] = told(t, runa, run.Result)
		}
	})
	librarytest.Exec(t, o.Dir,
		`update report_version set text = 'report: [' where report in ('lot-changes', 'intake-lots', 'rental-position',
			'hive-scale-trend', 'orders-by-grouping')`)
	tokyo, err := time.LoadLocation("Asia/Tokyo")
	if err != nil {
		t.Fatal(err)
	}
	l := librarytest.OpenWith(t, o.Dir, o.Now,
		func(s *library.Settings) { s.Zone, s.Currency, s.FiscalStart = tokyo, "JPY", 4 })
	runa := librarytest.Person(t, l, "runa")
	if err := runa.SetZone(t.Context(), "Europe/Berlin"); err != nil { // as their moments were said
		t.Fatal(err)
	}
	runa = librarytest.Person(t, l, "runa")
	for i, number := range numbers {
		if now := told(t, runa, number); now != said[number] {
			t.Errorf("%s says\n%.1500s\nand said\n%.1500s", asks[i].Report, now, said[number])
		}
		x, err := runa.Reading.Result(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		if good, err := l.AsService().Reading.CheckSeal(t.Context(), x); err != nil || !good {
			t.Errorf("%s: its seal is %t, %v", asks[i].Report, good, err)
		}
	}
	entries, _, err := runa.Catalog.Catalog(t.Context(), "intake lots", "")
	if err != nil || len(entries) == 0 || entries[0].ID != "intake-lots" || entries[0].Title != "Intake lots" ||
		!strings.Contains(entries[0].Broken, "line 1") {
		t.Errorf("the catalog: %+v, %v", entries, err)
	}
	if _, err := runa.Capture.StartRun(t.Context(), asks[1]); err == nil ||
		!strings.Contains(err.Error(), "has to be mended") {
		t.Errorf("what cannot be read is run: %v", err)
	}
	if _, err := librarytest.Person(t, l, "dora").Reading.Result(t.Context(), numbers[1]); err == nil {
		t.Error("dora sees rows of all units")
	}
}

// TestAChangedSchemaBreaksTheSeal changes what the cells of a result mean behind the
// service's back.
func TestAChangedSchemaBreaksTheSeal(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	var number int64
	o.During("made", func(t *testing.T, l *library.Library) {
		number = librarytest.Finish(t, librarytest.Person(t, l, "runa"),
			capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}}).Result
	})
	librarytest.Exec(t, o.Dir, `update result set settled = replace(cast(settled as text), 'EUR', 'JPY')`)
	o.During("changed", func(t *testing.T, l *library.Library) {
		if _, err := librarytest.Person(t, l, "runa").Reading.Result(t.Context(), number); err == nil ||
			!strings.Contains(err.Error(), model.ErrBroken.Error()) {
			t.Errorf("it is read all the same: %v", err)
		}
	})
}

// A moving range in a reader's filter is of the day on which it is read.
func TestFiltersMoveWithTheDay(t *testing.T) {
	clock := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, clock)
	runa := librarytest.SignIn(t, l, "runa")
	lots := func(received string) int64 {
		return librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
			Typed: map[string]string{"received": received}}).Result
	}
	count := func(result int64, filters ...string) string {
		r, err := runa.Reading.Result(t.Context(), result)
		if err != nil {
			t.Fatal(err)
		}
		of, err := runa.Reading.Read(t.Context(), r, "lots", ask.Changes{Filters: filters})
		if err != nil {
			t.Fatal(err)
		}
		n, err := of.Figure(t.Context(), "count(*)")
		if err != nil {
			t.Fatal(err)
		}
		return n.String()
	}
	all, september := lots("2026-08/2026-10"), lots("2026-09")
	if got, want := count(all, "received=last month"), count(september); got != want || want == "0" {
		t.Errorf("last month has %s rows, and September %s", got, want)
	}
	clock.Set(time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC))
	if got, want := count(all, "received=last month"), count(lots("2026-10")); got != want {
		t.Errorf("in November last month has %s rows, and October %s", got, want)
	}
}
