package sending_test

import (
	"errors"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
)

// TestTheAddressBookLeadsNowhereElse is what somebody limited to a district may
// not do with it.
func TestTheAddressBookLeadsNowhereElse(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("book", func(t *testing.T, l *library.Library) {
		dora, lila, runa := librarytest.Person(t, l, "dora"), librarytest.Person(t, l, "lila"),
			librarytest.Person(t, l, "runa")
		var no *model.Forbidden
		for what, e := range map[string]model.Address{
			"another's district": {Units: []string{"UF-MAR"}}, "a group": {Groups: []string{"management"}},
			"an account": {Person: "adda"}, "her own district": {Units: []string{"UF-HOL"}},
		} {
			e.Nickname, e.Name, e.Mail = "mine", "Mine", "mine@brackenfell.example"
			if _, err := dora.Sending.PutAddress(t.Context(), e); !errors.As(err, &no) {
				t.Errorf("%s: %v", what, err)
			}
		}
		mine, err := dora.Sending.PutAddress(t.Context(),
			model.Address{Nickname: "mine", Name: `O'Neil "Z`, Mail: "adda@brackenfell.example"})
		if err != nil {
			t.Fatal(err)
		}
		mine.Groups = []string{"districts"}
		if mine, err = lila.Sending.PutAddress(t.Context(), mine); err != nil || mine.Owner != "dora" {
			t.Fatalf("%+v, %v", mine, err)
		}
		mine.Mail = "elsewhere@brackenfell.example"
		if _, err := dora.Sending.PutAddress(t.Context(), mine); !errors.As(err, &no) {
			t.Errorf("she leads a group elsewhere: %v", err)
		}
		if err := dora.Sending.DeleteAddress(t.Context(), "mine"); !errors.As(err, &no) {
			t.Errorf("she deletes what a librarian set: %v", err)
		}
		past, err := runa.Sending.AddressHistory(t.Context(), "mine")
		if err != nil || len(past) != 2 || past[0].By != "lila" || past[1].By != "dora" {
			t.Errorf("the history is %+v, %v", past, err)
		}
		// An entry with a name that is hard to write harms nobody's letters.
		runs := librarytest.Send(t, runa,
			librarytest.Control("awkward", func(c *controls.Control) { c.Send.To = []string{"adda", "mine"} }))
		librarytest.ParcelsOf(t, runa, runs)
		librarytest.Until(t, "the letter", func() bool { return len(o.Box.Letters()) >= 1 })
		if letters, err := dora.Sending.Letters(t.Context()); err != nil || len(letters) != 0 {
			t.Errorf("dora reads %d letters, %v", len(letters), err)
		}
	})
}

// Who takes the place of an entry that is retired gets what is sent to it, alone or in a
// group; where nobody does, that is told.
func TestARetiredAddressIsWrittenToNoMore(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("retired", func(t *testing.T, l *library.Library) {
		lila, runa := librarytest.Person(t, l, "lila"), librarytest.Person(t, l, "runa")
		run := librarytest.RunWell(t, runa, capture.Ask{Report: "sites-by-unit", Typed: map[string]string{}})
		x, err := runa.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		to := func(names ...string) (sent []string, err error) {
			t.Helper()
			p, err := runa.Sending.SendNow(t.Context(), x, []reading.Take{{Format: "csv"}}, sending.Send{To: names})
			for _, r := range p.Recipients {
				sent = append(sent, r.Address)
			}
			return sent, err
		}
		if err := lila.RetireOther(t.Context(), "address", "adda", "runa"); err != nil {
			t.Fatal(err)
		}
		for _, names := range [][]string{{"adda"}, {"management"}} {
			if got, err := to(names...); err != nil || len(got) != 1 || got[0] != "runa@brackenfell.example" {
				t.Errorf("%v sends to %v, %v", names, got, err)
			}
		}
		if err := lila.RetireOther(t.Context(), "address", "dora", ""); err != nil {
			t.Fatal(err)
		}
		if _, err := to("dora"); err == nil || err.Error() != "the address dora is retired, and nothing takes its place" {
			t.Errorf("an address that nothing takes the place of is answered by %v", err)
		}
	})
}
