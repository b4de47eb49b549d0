package library_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"mantilla/core/sheet"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/model"
	"mantilla/store"
)

func TestResultsKeepTheirCurrency(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	dir := demotest.Dir(t)
	total := func(currency string) string {
		records, err := store.Open(t.Context(), dir, 32<<20)
		if err != nil {
			t.Fatal(err)
		}
		defer records.Close()
		l := libraryOn(t, records, dir, now, currency)
		defer l.Close()
		if currency == "EUR" {
			if err := demo.Load(t.Context(), l); err != nil {
				t.Fatal(err)
			}
			runWell(t, person(t, l, "runa"), library.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}})
		}
		a := l.AsService()
		r, err := a.Result(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		if good, err := l.CheckSeal(t.Context(), r); err != nil || !good {
			t.Errorf("the seal: %t, %v", good, err)
		}
		s, err := a.Sheet(t.Context(), r, "lots", sheet.Changes{})
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

func TestAReportThatCannotBeReadStopsNothingElse(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("first", func(t *testing.T, l *library.Library) {})
	exec(t, o.dir, `update report_version set text = 'report: intake-lots
title: [' where report = 'intake-lots'`)
	exec(t, o.dir, `insert into source (id, text) values ('broken', 'source: broken
kind: none')`)
	l := openWith(t, o.dir, o.now, func(*library.Settings) {})
	lila := person(t, l, "lila")
	if _, err := lila.Report("intake-lots"); err == nil || !strings.Contains(err.Error(), "cannot be read by this program") {
		t.Errorf("the report: %v", err)
	}
	if _, err := lila.Report("lot-history"); err != nil {
		t.Error(err)
	}
	if _, _, err := lila.Catalog(t.Context(), "", ""); err != nil {
		t.Error(err)
	}
}

// TestForgedResultsAreNotShown exchanges what is kept for what is valid too.
func TestForgedResultsAreNotShown(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("made", func(t *testing.T, l *library.Library) {
		for _, month := range []string{"2026-08", "2026-07"} {
			runWell(t, person(t, l, "runa"), library.Ask{Report: "intake-lots", Typed: map[string]string{"received": month}})
		}
	})
	exec(t, o.dir, `update batch set data = (select data from batch where run = 2), digest = (select digest from batch where run = 2) where run = 1`)
	exec(t, o.dir, `update result set manifest = replace(manifest, '"asked_by":"runa"', '"asked_by":"lila"') where number = 2`)
	o.during("forged", func(t *testing.T, l *library.Library) {
		a := l.AsService()
		r, err := a.Result(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		if good, err := l.CheckSeal(t.Context(), r); err != nil || good {
			t.Errorf("the seal: %t, %v", good, err)
		}
		s, err := a.Sheet(t.Context(), r, "lots", sheet.Changes{})
		if err == nil {
			_, err = s.Read(0, 10)
		}
		if !errors.Is(err, model.ErrBroken) {
			t.Errorf("exchanged rows are shown: %v", err)
		}
		if _, err := a.Result(t.Context(), 2); !errors.Is(err, model.ErrBroken) {
			t.Errorf("a forged manifest is shown: %v", err)
		}
	})
}

// TestTheAddressBookLeadsNowhereElse is what somebody limited to a district may
// not do with it.
func TestTheAddressBookLeadsNowhereElse(t *testing.T) {
	o := newOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	o.during("book", func(t *testing.T, l *library.Library) {
		dora, lila, runa := person(t, l, "dora"), person(t, l, "lila"), person(t, l, "runa")
		var no *model.Forbidden
		for what, e := range map[string]model.Address{
			"another's district": {Units: []string{"UF-MAR"}}, "a group": {Groups: []string{"management"}}, "an account": {Person: "adda"}, "her own district": {Units: []string{"UF-HOL"}},
		} {
			e.Nickname, e.Name, e.Mail = "mine", "Mine", "mine@brackenfell.example"
			if _, err := dora.PutAddress(t.Context(), e); !errors.As(err, &no) {
				t.Errorf("%s: %v", what, err)
			}
		}
		mine, err := dora.PutAddress(t.Context(), model.Address{Nickname: "mine", Name: `O'Neil "Z`, Mail: "adda@brackenfell.example"})
		if err != nil {
			t.Fatal(err)
		}
		mine.Groups = []string{"districts"}
		if mine, err = lila.PutAddress(t.Context(), mine); err != nil || mine.Owner != "dora" {
			t.Fatalf("%+v, %v", mine, err)
		}
		mine.Mail = "elsewhere@brackenfell.example"
		if _, err := dora.PutAddress(t.Context(), mine); !errors.As(err, &no) {
			t.Errorf("she leads a group elsewhere: %v", err)
		}
		if err := dora.DeleteAddress(t.Context(), "mine"); !errors.As(err, &no) {
			t.Errorf("she deletes what a librarian set: %v", err)
		}
		past, err := runa.AddressHistory(t.Context(), "mine")
		if err != nil || len(past) != 2 || past[0].By != "lila" || past[1].By != "dora" {
			t.Errorf("the history is %+v, %v", past, err)
		}
		// An entry with a name that is hard to write harms nobody's letters.
		runs := send(t, runa, control("awkward", func(c *library.Control) { c.Send.To = []string{"adda", "mine"} }))
		parcelsOf(t, runa, runs)
		until(t, "the letter", func() bool { return len(o.box.Letters()) >= 1 })
		if letters, err := dora.Letters(t.Context()); err != nil || len(letters) != 0 {
			t.Errorf("dora reads %d letters, %v", len(letters), err)
		}
	})
}

func TestSinceLastRunBeginsWhereTheLastLookEnded(t *testing.T) {
	now := clockAt(time.Date(2026, 10, 15, 12, 0, 0, 0, berlin))
	l := withPeople(t, now)
	runa := person(t, l, "runa")
	ask := func(changed, unit string) model.Run {
		t.Helper()
		return runWell(t, runa, library.Ask{Report: "lot-changes", Typed: map[string]string{"changed": changed, "unit": unit}})
	}
	const since = "since last run or last 7 days"
	first := ask(since, "")
	if got := first.Facts[0].Resolved; got != "2026-10-07T22:00:00Z/2026-10-14T22:00:00Z" {
		t.Fatalf("the first look is of %s", got)
	}
	now.set(now.time().Add(2 * time.Hour))
	ask("2026-09", "")       // an earlier month moves nothing
	ask("today", "")         // nor does a range of one's own
	ask(since, "Hollin")     // nor other values
	second := ask(since, "") // from the end of the first, not from when it ran
	if got := second.Facts[0].Resolved; got != "2026-10-14T22:00:00Z/2026-10-15T12:00:00Z" {
		t.Errorf("the second look is of %s", got)
	}
	now.set(now.time().Add(time.Hour))
	if got := ask(since, "").Facts[0].Resolved; got != "2026-10-15T12:00:00Z/2026-10-15T13:00:00Z" {
		t.Errorf("the third look is of %s", got)
	}
	marks, err := runa.Marks(t.Context(), "lot-changes")
	if err != nil || len(marks) != 2 || marks[0].Of != "you" {
		t.Fatalf("%+v, %v", marks, err)
	}
	if others, err := person(t, l, "lila").Marks(t.Context(), "lot-changes"); err != nil || len(others) != 0 {
		t.Errorf("lila sees %+v, %v", others, err)
	}
	back := time.Date(2026, 10, 1, 0, 0, 0, 0, berlin)
	if _, err := person(t, l, "lila").SetMark(t.Context(), marks[0].Number, back); err == nil {
		t.Error("lila moved runa's mark")
	}
	if _, err := runa.SetMark(t.Context(), marks[0].Number, back); err != nil {
		t.Fatal(err)
	}
	if got := ask(since, "").Facts[0].Resolved; !strings.HasPrefix(got, "2026-09-30T22:00:00Z/") {
		t.Errorf("set back, it is of %s", got)
	}
	marks, err = runa.Marks(t.Context(), "lot-changes")
	for _, m := range marks {
		err = errors.Join(err, runa.DeleteMark(t.Context(), m.Number))
	}
	if err != nil {
		t.Fatal(err)
	}
	if got := ask(since, "").Facts[0].Resolved; got != "2026-10-07T22:00:00Z/2026-10-14T22:00:00Z" {
		t.Errorf("forgotten, it is of %s", got)
	}
}
