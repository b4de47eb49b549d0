package e2e

import (
	"context"
	"net/http"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo"
	"mantilla/demo/demotest"
)

// TestNothingStaysAfterSigningOut reads somebody's rows, signs out, and looks
// whether any of it is left in the page or comes back.
func TestNothingStaysAfterSigningOut(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	result := s.Result(t, "keeper-file", api.Values{"keeper": "K-1002"})
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.open(s.URL + "/results/" + result)
	b.shows("Aris Lingcombe")
	b.press("Adda Marrowell ▾")
	b.press("Sign out")
	b.until(`document.querySelector('[name=password]')`)
	b.until(`!document.documentElement.innerHTML.includes('Aris Lingcombe')`)
	b.open(s.URL + "/results/" + result)
	b.until(`document.querySelector('[name=password]') && !document.documentElement.innerHTML.includes('Aris Lingcombe')`)
}

// TestAnEndedSessionGoesOnInPlace ends a session while a form is filled in, signs
// in again over it, and finds what was typed.
func TestAnEndedSessionGoesOnInPlace(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	_, runa := s.As(t, "runa")
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/reports/intake-lots")
	b.fill("[name=received]", "2026-08")
	b.shows("Received 1–31 August 2026")

	list, err := runa.ListSessionsWithResponse(t.Context(), nil)
	if err != nil || list.JSON200 == nil {
		t.Fatalf("%v %s", err, list.Body)
	}
	for _, session := range *list.JSON200 {
		if session.Kind == api.SessionKindBrowser {
			if r, err := runa.EndSessionWithResponse(t.Context(), session.Id, nil); err != nil ||
				r.StatusCode() != http.StatusNoContent {
				t.Fatalf("%v %s", err, r.Body)
			}
		}
	}
	b.press("Run")
	b.shows("Your session has ended")
	b.until(`document.activeElement.name === 'password'`)
	b.keys(demo.Password + "\r")
	b.until(`!document.querySelector('[name=password]') && document.querySelector('[name=received]').value === '2026-08'`)
	b.press("Run")
	b.until(`location.pathname.startsWith('/results/')`)
	b.shows("Received 1–31 August 2026")
}

// TestALinkFromElsewhereOnlyFillsTheForm comes to a report from outside, which
// runs nothing, and from a row of the console, which does.
func TestALinkFromElsewhereOnlyFillsTheForm(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open("about:blank")
	b.open(s.URL + "/open/near-best-before?within=30")
	b.until(`location.pathname === '/reports/near-best-before' && document.querySelector('[name=within]')?.value === '30'`)
	runs := func() int {
		r, err := s.Client.ListRunsWithResponse(t.Context(), nil)
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		return len(*r.JSON200)
	}
	if n := runs(); n != 0 {
		t.Fatalf("a link from elsewhere made %d runs", n)
	}
	b.open(s.URL + "/results/" + s.Result(t, "bay-occupancy", nil) + "?view=stores.rows")
	b.click("[data-sheet] [role=cell] a")
	b.shows("Stock in the bays")
	b.until(`location.pathname.startsWith('/results/') && ` +
		`document.querySelector('[data-sentence]').innerText.includes('bay')`)
	if n := runs(); n < 2 {
		t.Errorf("the link of a row made no run")
	}
}

// TestMarksAreSeenSetAndForgotten looks at a report since the last run and
// forgets beside its form until when.
func TestMarksAreSeenSetAndForgotten(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/reports/lot-changes")
	b.until(`document.querySelector('[data-run]')`)
	if b.value(`String(document.querySelector('[data-marks]') === null)`) != "true" {
		t.Error("there is a mark before anything was looked at")
	}
	b.press("Run")
	b.until(`location.pathname.startsWith('/results/')`)
	b.open(s.URL + "/reports/lot-changes")
	b.until(`document.querySelectorAll('[data-marks] li').length === 1`)
	b.press("Set")
	b.until(`document.querySelector('[data-marks] input')`)
	b.press("Keep")
	b.until(`!document.querySelector('[data-marks] input')`)
	b.press("Forget")
	b.press("Forget it")
	b.until(`!document.querySelector('[data-marks]')`)
}

// TestPeopleAndSessionsInTheOffice signs a browser out from afar and deletes an
// account and a group that nothing is kept for.
func TestPeopleAndSessionsInTheOffice(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	far := openBrowser(t)
	far.signIn(s, "runa")
	_, admin := s.As(t, "adda")
	for _, call := range []func() (int, error){
		func() (int, error) {
			r, err := admin.PutPersonWithResponse(t.Context(), "visitor", nil,
				api.PersonChange{
					Title:    "Vesna Visitor",
					Role:     api.Reader,
					Password: new("a-long-walk-in-the-fells"),
					Units:    []string{},
				})
			return r.StatusCode(), err
		},
		func() (int, error) {
			r, err := admin.PutGroupWithResponse(t.Context(), "guests", nil,
				api.GroupChange{Title: "Guests", Members: []string{"visitor"}})
			return r.StatusCode(), err
		},
	} {
		if status, err := call(); err != nil || status >= 300 {
			t.Fatal(status, err)
		}
	}
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.open(s.URL + "/office?desk=people")
	b.until(`[...document.querySelectorAll('tr')].find(r => r.innerText.includes('Runa ` +
		`Askwith'))?.querySelectorAll('.act')[1]?.click() === undefined && document.querySelector('[data-session]')`)
	b.press("Sign out")
	b.press("Sign out it")
	b.until(`!document.querySelector('[data-session] .act')`)
	far.open(s.URL + "/catalog")
	far.until(`document.querySelector('[name=password]')`)

	for _, place := range []struct{ desk, what string }{{"groups", "guests"}, {"people", "visitor"}} {
		b.open(s.URL + "/office?desk=" + place.desk)
		b.click(`[aria-label="Delete ` + place.what + `"]`)
		b.press("Delete it")
		b.until(`!document.querySelector('[aria-label="Delete ` + place.what + `"]') && document.querySelector('tbody tr')`)
	}
	groups, err := admin.ListGroupsWithResponse(context.Background())
	if err != nil || strings.Contains(string(groups.Body), "guests") {
		t.Errorf("%v %s", err, groups.Body)
	}
}
