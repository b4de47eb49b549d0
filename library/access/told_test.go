package access_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/demo"
	"mantilla/library/access"
	"mantilla/library/librarytest"
)

// TestOwnersAreTold changes how somebody is let in, by themselves and by an administrator; they are told of
// each.
func TestOwnersAreTold(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)))
	runa, adda := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "adda")
	if _, _, err := adda.MakeToken(t.Context(), access.NewToken{Person: "runa", Label: "nightly", Days: 1}); err != nil {
		t.Fatal(err)
	}
	if err := runa.ChangePassword(t.Context(), demo.Password, "wax-and-a-long-spoon"); err != nil {
		t.Fatal(err)
	}
	if err := adda.PutPerson(t.Context(), librarytest.Person(t, l, "runa").Person(),
		"smoke-and-a-quiet-hive"); err != nil {
		t.Fatal(err)
	}
	told := librarytest.Told(t, librarytest.Person(t, l, "runa"))
	for _, says := range []string{"The token “nightly” was made", "Your password was changed.",
		"An administrator gave you a new password.", "tell an administrator at once"} {
		if !strings.Contains(told, says) {
			t.Errorf("runa is not told that %q: %s", says, told)
		}
	}
	if told := librarytest.Told(t, adda); strings.Contains(told, "password") {
		t.Errorf("adda is told %s", told)
	}
}
