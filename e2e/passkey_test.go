package e2e

import (
	"context"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/webauthn"
	"github.com/chromedp/chromedp"

	"mantilla/demo/demotest"
)

// hasDevice gives the tab a device that makes passkeys and is unlocked by itself.
func (b *browser) hasDevice() {
	b.t.Helper()
	b.do(chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		if _, err := cdp.Call(ctx, tab, webauthn.Enable, webauthn.EnableParams{}); err != nil {
			return err
		}
		_, err := cdp.Call(ctx, tab, webauthn.AddVirtualAuthenticator, webauthn.AddVirtualAuthenticatorParams{
			Options: &webauthn.VirtualAuthenticatorOptions{Protocol: "ctap2", Transport: "internal", HasResidentKey: true,
				HasUserVerification: true, IsUserVerified: true, AutomaticPresenceSimulation: true}})
		return err
	}))
}

// TestAPasskeySignsIn is made in the console, signs its owner in without a password, and does so no more
// once it is deleted.
func TestAPasskeySignsIn(t *testing.T) {
	t.Parallel()
	s := demotest.StartNamed(t)
	named := *s
	named.URL = strings.Replace(s.URL, "127.0.0.1", "localhost", 1) // passkeys are bound to a name
	b := openBrowser(t)
	b.hasDevice()
	b.signIn(&named, "lila")
	open := func() {
		t.Helper()
		b.click("[data-person=lila]")
		b.press("Passkeys")
	}
	out := func() {
		t.Helper()
		b.click("[data-person=lila]")
		b.press("Sign out")
		b.until(`document.querySelector('[data-passkey]')`)
	}
	open()
	b.shows("You have none yet.")
	b.fill("[name=passkey-label]", "my laptop")
	b.press("Make a passkey")
	b.shows("my laptop, since")
	b.shows("not used yet")
	b.fill("[name=passkey-label]", "again")
	b.press("Make a passkey")
	b.shows("This device has a passkey for your account already.")
	b.shot("passkeys")
	b.keys("\x1b")
	out()
	b.shot("passkey-sign-in")
	b.press("By a passkey")
	b.until(`document.querySelector('[data-person=lila]')`)
	if got := command(t, s.URL, login(t, s.URL, "lila", "honey-and-wax"), "passkeys"); got.code != 0 ||
		!strings.Contains(got.out, "my laptop") {
		t.Errorf("the command line lists %+v", got)
	}
	if got := command(t, s.URL, s.Token, "audit", "--on", "person:lila"); !strings.Contains(got.out, "passkey my laptop") {
		t.Errorf("the audit has %+v", got)
	}
	open()
	b.shows("used last")
	b.press("Delete")
	b.press("Delete it")
	b.shows("You have none yet.")
	b.keys("\x1b")
	out()
	b.press("By a passkey")
	b.shows("the passkey is not one that is known here")
	b.open(s.URL + "/catalog") // by its number, where none can be used
	b.until(`document.querySelector('[name=password]') && !document.querySelector('[data-passkey]')`)
}
