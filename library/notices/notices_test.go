package notices_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/librarytest"
)

// A notice stands on the desk until it is put away, and goes by mail to whom the address book
// knows; who did something is not told of it.
func TestNoticesStandOnTheDeskAndGoByMail(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("notices", func(t *testing.T, l *library.Library) {
		runa, lila, adda := librarytest.Person(t, l, "runa"), librarytest.Person(t, l, "lila"),
			librarytest.Person(t, l, "adda")
		ctx := t.Context()
		long := strings.Repeat("the total of Hollin looks too high to me, ", 6) + "please look"
		if err := runa.Drafting.Write(ctx, "intake-lots", 0, long); err != nil {
			t.Fatal(err)
		}
		librarytest.Until(t, "adda has a letter", func() bool { return len(o.Box.Letters()) == 1 })
		letter := o.Box.Letters()[0]
		if letter.Recipient != "adda@brackenfell.example" ||
			!strings.HasPrefix(letter.Subject, "Runa Askwith writes of Intake lots: the total") ||
			!strings.HasSuffix(letter.Subject, "…") {
			t.Errorf("the letter is to %v of %q", letter.Recipient, letter.Subject)
		}
		_, text, err := o.Box.Message(letter.ID)
		if err != nil || !strings.Contains(string(text), "/office?desk=3Dfeedback") &&
			!strings.Contains(string(text), "/office?desk=feedback") {
			t.Errorf("it has no link: %s, %v", text, err)
		}
		for who, want := range map[*library.Access]int{runa: 0, lila: 1, adda: 1} {
			all, err := who.Notices.List(ctx)
			if err != nil || len(all) != want {
				t.Errorf("%s is told %v, %v", who.Person().Name, all, err)
			}
		}
		all, err := lila.Notices.List(ctx)
		if err != nil || len(all) != 1 {
			t.Fatal(all, err)
		}
		if err := adda.Notices.PutAway(ctx, all[0].Number); err == nil {
			t.Error("adda puts away what lila is told")
		}
		if err := lila.Notices.PutAway(ctx, all[0].Number); err != nil {
			t.Fatal(err)
		}
		away := all[0].Number
		if err := adda.Notices.Return(ctx, away); err == nil {
			t.Error("a notice of somebody else is had back")
		}
		if err := lila.Notices.Return(ctx, away); err != nil {
			t.Fatal(err)
		}
		if back, err := lila.Notices.List(ctx); err != nil || len(back) != 1 || back[0].Number != away {
			t.Errorf("had back are %v, %v", back, err)
		}
		if err := lila.Notices.Return(ctx, away); err == nil {
			t.Error("what is not away is had back")
		}
		if err := lila.Notices.PutAway(ctx, away); err != nil {
			t.Fatal(err)
		}
		if all, err = lila.Notices.List(ctx); err != nil || len(all) != 0 {
			t.Errorf("lila is still told %v, %v", all, err)
		}
	})
}
