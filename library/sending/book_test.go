package sending_test

import (
	"errors"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/librarytest"
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
