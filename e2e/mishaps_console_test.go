package e2e

import (
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/ncruces/go-sqlite3"

	"mantilla/api"
	"mantilla/demo/demotest"
	"mantilla/store"
)

// TestWhatFailedIsTriedAgain takes the source away while a run control runs, sees
// in the console why nothing was sent, and tries again once the source is back.
func TestWhatFailedIsTriedAgain(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	_, runa := s.As(t, "runa")
	put, err := runa.PutControlWithResponse(t.Context(), "stock-check", nil,
		api.ControlChange{Title: "Stock check", Steps: []api.Step{{Report: "near-best-before"}},
			Outputs: []api.Output{"csv"}, Empty: "keep", Send: &api.Send{To: &[]string{"runa"}}})
	if err != nil || put.JSON200 == nil {
		t.Fatalf("%v %s", err, put.Body)
	}
	away := s.Source + ".away"
	if err := os.Rename(s.Source, away); err != nil {
		t.Fatal(err)
	}
	b := openBrowser(t)
	b.signIn(s, "runa")
	ran, err := runa.RunControlWithResponse(t.Context(), "stock-check",
		api.Overrides{Values: api.Values{}, Send: new(true)})
	if err != nil || ran.JSON201 == nil {
		t.Fatalf("%v %s", err, ran.Body)
	}
	b.open(s.URL + "/controls/stock-check")
	b.until(`[...document.querySelectorAll('td')].some(d => d.innerText.includes('not sent:') && ` +
		`d.innerText.includes('failed'))`)
	if err := os.Rename(away, s.Source); err != nil {
		t.Fatal(err)
	}
	b.press("Try again")
	b.until(`[...document.querySelectorAll('td')].some(d => d.innerText.includes('337 rows'))`)
	b.until(`[...document.querySelectorAll('td')].some(d => d.innerText.includes(', sent'))`)
	b.until(`![...document.querySelectorAll('button')].some(e => e.innerText === 'Try again')`)

	if r, err := runa.AgainControlRunWithResponse(t.Context(), (*ran.JSON201)[0].Id); err != nil ||
		r.StatusCode() != http.StatusUnprocessableEntity || !strings.Contains(string(r.Body), "nothing of S-000001 failed") {
		t.Errorf("what went well is tried again: %v %s", err, r.Body)
	}
	told := command(t, s.URL, login(t, s.URL, "runa", "honey-and-wax"), "control", "past", "stock-check")
	if !strings.Contains(told.out, "tried again after:") || !strings.Contains(told.out, "done") {
		t.Errorf("why it was tried again is not told:\n%s", told.out)
	}
}

// TestABrokenControlSaysSo makes the record of a run control unreadable: the others
// stand beside it, and it says what it is.
func TestABrokenControlSaysSo(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	_, runa := s.As(t, "runa")
	for _, id := range []string{"good-one", "bad-one"} {
		if r, err := runa.PutControlWithResponse(t.Context(), id, nil,
			api.ControlChange{
				Title:   id,
				Steps:   []api.Step{{Report: "near-best-before"}},
				Outputs: []api.Output{},
				Empty:   "keep",
			}); err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
	}
	records, err := sqlite3.Open(s.Dir + "/" + store.RecordsFile)
	if err != nil {
		t.Fatal(err)
	}
	defer records.Close()
	if err := records.Exec(`update control set body = '{' where id = 'bad-one'`); err != nil {
		t.Fatal(err)
	}
	b := openBrowser(t)
	b.signIn(s, "runa")
	b.open(s.URL + "/controls")
	row := func(id string) string {
		return `[...document.querySelectorAll('tbody tr')].find(r => r.innerText.includes('` + id + `'))`
	}
	b.until(row("bad-one") + `?.querySelector('[data-state=failed]')`)
	b.until(row("good-one") + `?.innerText.includes('near-best-before')`)
}

// TestWhereDataWentIsTold changes an entry of the address book twice and reads its
// history.
func TestWhereDataWentIsTold(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "lila")
	var seen *api.PutAddressParams
	for _, mail := range []string{"first@brackenfell.example", "second@brackenfell.example"} {
		r, err := s.Client.PutAddressWithResponse(t.Context(), "mill", seen,
			api.AddressChange{Name: "The mill", Mail: mail, Units: []string{}, Groups: []string{}})
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		seen = &api.PutAddressParams{IfMatch: new(fmt.Sprint(r.JSON200.Revision))}
	}
	b.open(s.URL + "/sending?tab=book")
	b.until(`[...document.querySelectorAll('button')].find(e => e.innerText === 'mill')`)
	b.press("mill")
	b.click("details summary")
	b.until(`document.querySelector('details ol')?.innerText.includes('adda: The mill; first@brackenfell.example')`)
	b.until(`document.querySelector('details ol').innerText.includes('adda: The mill; second@brackenfell.example')`)
}

// TestTheOfficeWarnsOfDeadLinks checks a definition whose link leads nowhere.
func TestTheOfficeWarnsOfDeadLinks(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "lila")
	text, err := s.Library.AsService().Catalog.Report("intake-lots")
	if err != nil {
		t.Fatal(err)
	}
	dead := strings.ReplaceAll(text.Text, "report: lot-history", "report: lot-hystory")
	if dead == text.Text {
		t.Fatal("the report links to no other")
	}
	b.writes(s, dead)
	b.press("Check")
	b.until(`document.querySelector('[data-warnings]')?.innerText.includes('lot-hystory')`)
}

// TestOlderRunsAndResultsAreReached makes more runs than a list begins with.
func TestOlderRunsAndResultsAreReached(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	const n = 203
	for range n {
		if r, err := s.Client.StartRunWithResponse(t.Context(), nil,
			api.Ask{Report: "near-best-before", Values: api.Values{}}); err != nil || r.JSON201 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
	}
	s.Result(t, "near-best-before", nil)
	running := api.StateRunning // two are carried out at once, so the last to begin need not be the last to end
	for {
		r, err := s.Client.ListRunsWithResponse(t.Context(), &api.ListRunsParams{State: &running})
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		if len(*r.JSON200) == 0 {
			break
		}
	}
	b := openBrowser(t)
	b.signIn(s, "adda")
	for _, place := range []struct{ address, of, first string }{{"/runs", "runs", "RUN-000001"},
		{"/results", "results", "R-000001"}} {
		b.open(s.URL + place.address)
		b.until(`document.querySelectorAll('tbody tr').length === 200`)
		b.press("Older " + place.of)
		b.until(fmt.Sprintf(
			`document.querySelectorAll('tbody tr').length === %d && document.querySelector('tbody `+
				`tr:last-child').innerText.includes(%q)`, n+1, place.first))
		b.until(`![...document.querySelectorAll('button')].some(e => e.innerText.startsWith('Older'))`)
	}
}
