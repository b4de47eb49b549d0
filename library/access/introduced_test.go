package access_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/librarytest"
	"mantilla/model"
)

// TestWhomAProviderKnows comes in as their account, in the groups and with the units that it names.
func TestWhomAProviderKnows(t *testing.T) {
	at := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	trust := func(trust access.Trust) *library.Library {
		return librarytest.OpenWith(t, demotest.Loaded(t, at.Time()), at, func(s *library.Settings) { s.Trust = trust })
	}
	known := trust(access.Trust{Asked: true, Local: "adda"})
	made := trust(access.Trust{Asked: true, Makes: true, Role: model.Runner})
	for _, c := range []struct {
		name string
		l    *library.Library
		who  access.Introduced
		want string // the account, or why there is none
	}{
		{"an account that is there", known, access.Introduced{Subject: "p#1", Name: "runa"}, "runa accounts,field "},
		{"again, by another name", known, access.Introduced{Subject: "p#1", Name: "someone"}, "runa accounts,field "},
		{"groups that it names", known, access.Introduced{Subject: "p#1", Groups: []string{"field", "elsewhere"}},
			"runa field "},
		{"units that it names", known, access.Introduced{Subject: "p#1", Units: []string{"UF-MAR", "UF-HOL", "UF-MAR"}},
			"runa field UF-HOL,UF-MAR"},
		{"all units", known, access.Introduced{Subject: "p#1", Units: []string{"*"}}, "runa field "},
		{"no unit", known, access.Introduced{Subject: "p#1", Units: []string{}}, "refused units"},
		{"a unit that there is not", known, access.Introduced{Subject: "p#1", Units: []string{"X"}}, "refused units"},
		{"a librarian's units", known, access.Introduced{Subject: "p#2", Name: "lila", Units: []string{}}, "lila  "},
		{"somebody else by the name", known, access.Introduced{Subject: "p#3", Name: "runa"}, "refused taken"},
		{"the account of emergencies", known, access.Introduced{Subject: "p#4", Name: "adda"}, "refused taken"},
		{"nobody that is known", known, access.Introduced{Subject: "p#5", Name: "nell"}, "refused unknown"},
		{"an account that is made", made, access.Introduced{Subject: "p#5", Name: "nell", Title: "Nell",
			Groups: []string{"field"}, Units: []string{"UF-HOL"}}, "nell field UF-HOL"},
		{"no name of an account", made, access.Introduced{Subject: "p#6", Name: "Nell Briarwood"}, "refused name"},
		{"the service", made, access.Introduced{Subject: "p#7", Name: "service"}, "refused name"},
	} {
		secret, p, _, err := c.l.Door().SignInAs(t.Context(), c.who)
		got := p.Name + " " + strings.Join(p.Groups, ",") + " " + strings.Join(p.Units, ",")
		var stranger *access.Stranger
		if errors.As(err, &stranger) {
			got = "refused " + stranger.Reason
		} else if err != nil {
			t.Errorf("%s: %v", c.name, err)
		} else if who, err := c.l.WhoHas(t.Context(), secret); err != nil || who.Person().Name != p.Name {
			t.Errorf("%s: it is not signed in: %v", c.name, err)
		}
		if got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
	if _, _, _, err := known.Door().SignIn(t.Context(), access.Knock{Name: "rhea",
		Password: demo.Password}); !errors.Is(err,
		access.ErrSignIn) {
		t.Errorf("rhea signs in by a password: %v", err)
	}
	adda := librarytest.SignIn(t, known, "adda")
	if err := adda.PutPerson(t.Context(), model.Person{Name: "olive", Title: "Olive", Role: model.Reader},
		""); err != nil {
		t.Errorf("an account without a password: %v", err)
	}
	if _, _, _, err := known.Door().SignIn(t.Context(), access.Knock{Name: "olive"}); !errors.Is(err, access.ErrSignIn) {
		t.Errorf("an account without a password is signed in: %v", err)
	}
	if err := adda.PutPerson(t.Context(), model.Person{Name: "rhea", Title: "Rhea", Role: model.Reader, Closed: true,
		Revision: 1}, ""); err != nil {
		t.Fatal(err)
	}
	var stranger *access.Stranger
	if _, _, _, err := known.Door().SignInAs(t.Context(), access.Introduced{Subject: "p#8", Name: "rhea"}); !errors.As(err,
		&stranger) || stranger.Reason != "closed" {
		t.Errorf("a closed account: %v", err)
	}
}

// TestASecondFactorIsWanted from a role on: until it is there, one reads and does no more.
func TestASecondFactorIsWanted(t *testing.T) {
	at := librarytest.At(time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC))
	l := librarytest.OpenWith(t, demotest.Loaded(t, at.Time()), at, func(s *library.Settings) {
		s.Trust = access.Trust{SecondFor: model.Librarian}
	})
	for name, wanted := range map[string]bool{"runa": false, "aron": false, "lila": true, "adda": true} {
		a := librarytest.SignIn(t, l, name)
		if a.Wants() != wanted || (a.Person().Role == model.Reader) != wanted {
			t.Errorf("%s: wanted %v, acting as %s", name, a.Wants(), a.Person().Role)
		}
	}
	lila := librarytest.SignIn(t, l, "lila")
	n, err := lila.BeginSecond(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	code, err := totp.GenerateCode(n.Secret, time.Now())
	if err == nil {
		_, err = lila.ConfirmSecond(t.Context(), code)
	}
	if err != nil {
		t.Fatal(err)
	}
	later, err := totp.GenerateCode(n.Secret, time.Now().Add(30*time.Second))
	if err != nil {
		t.Fatal(err)
	}
	secret, _, _, err := l.Door().SignIn(t.Context(), access.Knock{Name: "lila", Password: demo.Password, Code: later,
		Kind: "token"})
	if err != nil {
		t.Fatal(err)
	}
	if a, err := l.WhoHas(t.Context(), secret); err != nil || a.Wants() || a.Person().Role != model.Librarian {
		t.Errorf("with one she is %+v, %v", a.Person(), err)
	}
}
