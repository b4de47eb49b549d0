package access_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/demo"
	"mantilla/library/access"
	"mantilla/library/librarytest"
)

func TestSigningIn(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	from := "192.0.2.1"
	try := func(name, password string) error {
		_, _, _, err := l.Door().SignIn(t.Context(),
			access.Knock{Name: name, Password: password, Kind: "browser", Address: from})
		return err
	}
	waits := func(err error) bool {
		var w *access.Waits
		return errors.As(err, &w)
	}
	// Accounts that there are and that there are not answer alike, also when
	// somebody has to wait.
	for _, name := range []string{"runa", "nobody", "No such name at all!"} {
		from += name
		for range 5 {
			if err := try(name, "wrong"); !errors.Is(err, access.ErrSignIn) {
				t.Fatalf("%s: %v", name, err)
			}
		}
		if err := try(name, demo.Password); !waits(err) {
			t.Errorf("%s after five failures: %v", name, err)
		}
	}
	from = "192.0.2.2" // the owner of the account comes from elsewhere and is not held up
	if err := try("runa", demo.Password); err != nil {
		t.Errorf("the owner: %v", err)
	}
	from = "192.0.2.3"
	for i := range 5 { // waits grow
		if err := try("runa", "wrong"); !errors.Is(err, access.ErrSignIn) {
			t.Fatal(i, err)
		}
	}
	for _, wait := range []time.Duration{time.Second, 2 * time.Second, 4 * time.Second} {
		now.Set(now.Time().Add(wait - time.Millisecond))
		if err := try("runa", "wrong"); !waits(err) {
			t.Errorf("after %s: %v", wait, err)
		}
		now.Set(now.Time().Add(time.Millisecond))
		if err := try("runa", "wrong"); !errors.Is(err, access.ErrSignIn) {
			t.Errorf("after %s: %v", wait, err)
		}
	}
	from = "192.0.2.4" // one machine that tries many names
	for i := range 30 {
		_ = try(fmt.Sprintf("name%d", i), "wrong")
	}
	if err := try("runa", demo.Password); !waits(err) {
		t.Errorf("a machine that tried thirty names: %v", err)
	}
	from = "192.0.2.5"
	runa := librarytest.SignIn(t, l, "runa")
	if err := runa.ChangePassword(t.Context(), "wrong", "a new password"); err == nil {
		t.Error("the password was changed against a wrong one")
	}
	if err := runa.ChangePassword(t.Context(), demo.Password, "short"); err == nil ||
		!strings.Contains(err.Error(), "12 to 72") {
		t.Errorf("a short password: %v", err)
	}
	for _, easy := range []string{"password1234", "aaaaaaaaaaaa", "abcdefghijkl"} {
		if err := runa.ChangePassword(t.Context(), demo.Password, easy); err == nil ||
			!strings.Contains(err.Error(), "too easy") {
			t.Errorf("the password %s: %v", easy, err)
		}
	}
	if err := runa.ChangePassword(t.Context(), demo.Password, "a new password"); err != nil {
		t.Fatal(err)
	}
	if err := try("runa", "a new password"); err != nil {
		t.Error(err)
	}
	if err := try("runa", demo.Password); !errors.Is(err, access.ErrSignIn) {
		t.Errorf("the old password: %v", err)
	}
}

func TestSessionsEndWithTheirTime(t *testing.T) {
	now := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.WithPeople(t, now)
	secret, _, _, err := l.Door().SignIn(t.Context(), access.Knock{Name: "rhea", Password: demo.Password, Kind: "browser"})
	if err != nil {
		t.Fatal(err)
	}
	now.Set(now.Time().Add(11 * time.Hour))
	if a, err := l.WhoHas(t.Context(), secret); err != nil || a.Person().Name != "rhea" {
		t.Errorf("after eleven hours: %v", err)
	}
	now.Set(now.Time().Add(time.Hour))
	if _, err := l.WhoHas(t.Context(), secret); !errors.Is(err, access.ErrNotSignedIn) {
		t.Errorf("after twelve hours: %v", err)
	}
	if _, err := l.WhoHas(t.Context(), ""); !errors.Is(err, access.ErrNotSignedIn) {
		t.Errorf("without a secret: %v", err)
	}
}
