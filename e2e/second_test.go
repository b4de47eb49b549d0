package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"mantilla/demo"
	"mantilla/demo/demotest"
)

// TestASecondFactorInTheConsole is set up, asked for at the next sign-in, and taken away.
func TestASecondFactorInTheConsole(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "lila")
	open := func() {
		t.Helper()
		b.click("[data-person=lila]")
		b.press("Second factor")
	}
	open()
	b.press("Set one up")
	b.until(`document.querySelector('[data-secret]')`)
	b.shot("second")
	secret := b.value(`document.querySelector('[data-secret]').textContent`)
	code := func(away time.Duration) string {
		t.Helper()
		text, err := totp.GenerateCode(secret, time.Now().Add(away))
		if err != nil {
			t.Fatal(err)
		}
		return text
	}
	b.fill("[autocomplete=one-time-code]", code(0))
	b.press("Let it count")
	b.until(`document.querySelectorAll('[data-codes] li').length === 10`)
	kept := b.value(`document.querySelector('[data-codes] code').textContent`)
	b.press("I have kept them")
	b.click("[data-person=lila]")
	b.press("Sign out")
	b.until(`document.querySelector('[name=password]')`)
	b.fill("[name=name]", "lila")
	b.fill("[name=password]", demo.Password)
	b.press("Sign in")
	b.until(`document.querySelector('[name=code]')`)
	b.shows("the account has a second factor; give its code too")
	b.fill("[name=code]", "000000")
	b.press("Sign in")
	b.shows("the code is not right, or was used already")
	b.fill("[name=code]", strings.ToUpper(kept))
	b.press("Sign in")
	b.until(`document.querySelector('[data-person=lila]')`)
	open()
	b.fill("[autocomplete=one-time-code]", code(30*time.Second))
	b.press("Take it away")
	b.until(`!document.querySelector('[role=dialog] [autocomplete=one-time-code]')`)
}
