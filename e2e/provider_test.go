package e2e

import (
	"fmt"
	"strings"
	"testing"

	"mantilla/demo"
	"mantilla/demo/pgserver"
)

// TestSigningInByAProvider sends somebody there and back, makes their account, and keeps to what the
// provider says of their groups and units; who is not let in is told why.
func TestSigningInByAProvider(t *testing.T) {
	t.Parallel()
	port, err := pgserver.FreePort(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	_, url, token := serve(t, "demo", "--provider", "--data", t.TempDir(), "--address", fmt.Sprintf("127.0.0.1:%d", port))
	types := func(args ...string) string {
		t.Helper()
		got := command(t, url, token, args...)
		if got.code != 0 {
			t.Errorf("%v: %+v", args, got)
		}
		return got.out
	}
	b := openBrowser(t)
	there := func(name, password string) {
		t.Helper()
		b.click("[data-provider]")
		b.until(`document.querySelector('h1')?.textContent === 'Stand-in provider'`)
		b.fill("[name=name]", name)
		b.fill("[name=password]", password)
		b.press("Sign in")
	}
	b.open(url + "/catalog?search=honey")
	b.until(`document.querySelector('[data-provider]')`)
	b.shot("provider")
	there("nell", "wrong")
	b.until(`document.body.textContent.includes('The name or the password is not right.')`)
	b.fill("[name=name]", "nell")
	b.fill("[name=password]", demo.Password)
	b.press("Sign in")
	b.until(`document.querySelector('[data-person=nell]')`)
	b.until(`location.pathname + location.search === '/catalog?search=honey'`)
	if got := types("people", "--output", "csv"); !strings.Contains(got, "nell,Nell Briarwood,runner,field,UF-HOL,") {
		t.Errorf("the account is\n%s", got)
	}
	if got := types("audit", "--person", "nell"); !strings.Contains(got, "Sign a browser in that comes back") ||
		!strings.Contains(got, "Nell Briarwood, runner, limited to UF-HOL") {
		t.Errorf("the audit says\n%s", got)
	}
	b.click("[data-person=nell]")
	b.press("Sign out")
	b.until(`document.querySelector('[data-provider]')`)
	types("people", "put", "nell", "--title", "Nell Briarwood", "--role", "runner", "--closed")
	there("nell", demo.Password)
	b.until(`document.querySelector('[data-refused=closed]')`)
	if got := types("audit", "--person", "nell", "--outcome", "refused"); !strings.Contains(got, "nell is closed") {
		t.Errorf("the audit says\n%s", got)
	}
	b.open(url + "/api/session/provider/back?code=x&state=y")
	b.until(`document.querySelector('[data-refused=away]')`)
}
