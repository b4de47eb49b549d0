package e2e

import (
	"flag"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

var screenshots = flag.String("screenshots", "", "directory to write the pictures of the documentation to")

// TestScreenshots draws the pictures of the documentation from the demo data;
// see make screenshots.
func TestScreenshots(t *testing.T) {
	if *screenshots == "" {
		t.Skip("asked for with -screenshots DIRECTORY")
	}
	picture := func(name string) string { return filepath.Join(*screenshots, name+".png") }
	s := demotest.StartAfterAYear(t)
	lots := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3", "unit": "Hollin; Marr"})
	s.Result(t, "near-best-before", nil)
	b := openBrowser(t)

	b.open(s.URL + "/catalog")
	b.shows("Sign in")
	b.signIn(s, "runa")
	b.shows("Orders against earlier seasons")
	b.picture(picture("catalog"))

	runa := keepForPictures(t, s)
	b.open(s.URL + "/reports/intake-lots?criteria=C-1")
	b.shows("my usual")
	b.shows("districts Hollin and Marr with everything below")
	b.picture(picture("report"))
	pictureOfChanges(t, b, s, picture("changed"))

	quarter := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3"})
	b.open(s.URL + "/results/" + quarter +
		"?lots.group=district&lots.group=month(received)&lots.open=3&lots.column=lot_no&lots.column=keeper" +
		"&lots.column=net_kg&lots.column=value")
	b.click("[data-outline] > button:nth-child(4)")
	b.shows("Sep 2026")
	b.picture(picture("groups"))
	b.open(s.URL + "/results/" + quarter + "?lots.group=district&lots.group=grade")
	b.click(`[data-sheet=lots] [aria-rowindex="4"] > [role=cell]:nth-child(3) > button`)
	b.click("[data-by=flower]")
	b.shows("they agree.")
	b.shows("Wild flower")
	b.picture(picture("opened"))
	b.open(s.URL + "/controls/training-month")
	b.press("Read the history")
	b.until(`document.querySelector('h1')?.innerText === 'History: Training progress by stage'`)
	b.until(`document.querySelectorAll('[data-chart] path').length > 5`)
	b.picture(picture("history"))
	pictureOfReconciling(t, b, s, picture("reconciled"))
	b.open(s.URL + "/results/" + lots + "?lots.filter=grade%3DSelect&lots.sort=-value")
	b.shows("Of which grade Select")
	b.press("How it was made")
	b.press("Check the seal")
	b.shows("The rows are the ones that were sealed.")
	b.value(`(document.querySelector('[data-sheet=lots]').scrollTop = 900, '')`)
	b.until(`document.querySelector('[data-folded]')`)
	b.value(`(document.querySelectorAll('[data-kind=row]')[12].children[6].id = 'from', '')`)
	b.dragFrom("#from", 0, 112)
	b.shows("5 cells")
	b.picture(picture("result"))
	pictureOfPassing(t, b, s, picture("passing"))
	forecast := s.Result(t, "project-forecast", nil)
	for _, line := range []string{"labour", "material"} {
		if got := command(t, s.URL, runa, "entries", forecast, "--key", "J-08,"+line, "method=percent done",
			"figure=60"); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	b.open(s.URL + "/results/" + forecast + "?view=forecast")
	b.shows("4 cells are filled in")
	b.click(`[aria-label="Dark colours"]`)
	b.picture(picture("dark"))
	b.click(`[aria-label="Light colours"]`)

	picturesOfSending(t, s, b, picture, quarter)
	b.press("Runa Askwith ▾")
	b.press("Sign out")
	b.until(`document.querySelector("[name=password]")`)
	b.signIn(s, "adda")
	pictureOfWriting(b, s, picture("office"))

	for name, line := range map[string]string{
		"cli-read": "mantilla show " + lots + " --limit 8 --sort=-value --columns lot_no,keeper,grade,net_kg,value; " +
			"mantilla show " + lots + " --show chart --group 'month(received)' --cells net_kg; mantilla figure " + lots +
			" Hollin --group district --of net_kg --by grade",
		"cli-send": "mantilla timetable; mantilla desk; mantilla parcels --limit 14",
	} {
		draw := exec.CommandContext(t.Context(), "bash", "terminal.sh", filepath.Dir(binary), s.URL, runa, line,
			picture(name))
		if out, err := draw.CombinedOutput(); err != nil {
			t.Errorf("%s: %v\n%s", name, err, out)
		}
	}
}

// pictureOfPassing draws where one is while rows of some years fly past, with their groups open.
func pictureOfPassing(t *testing.T, b *browser, s *demotest.Service, path string) {
	years := s.Result(t, "intake-lots", api.Values{"received": "2024/2026"})
	b.open(s.URL + "/results/" + years + "?lots.group=district&lots.group=month(received)&lots.open=3")
	b.until(`document.querySelector('[data-sheet=lots] [aria-rowindex="20"]')`)
	b.value(`(() => {
		const box = document.querySelector('[data-sheet=lots]')
		window.drag = setInterval(() => (box.scrollTop = box.scrollTop > 40000 ? 0 : box.scrollTop + 1500), 16)
		return ''
	})()`)
	b.until(`document.querySelector('[data-passing]')`)
	b.picture(path)
	b.value(`(clearInterval(window.drag), '')`)
}

// pictureOfReconciling draws a month that was reconciled with the bank's statement, and what of it
// may belong together.
func pictureOfReconciling(t *testing.T, b *browser, s *demotest.Service, path string) {
	b.open(s.URL + "/results/" + reconciledOf(t, s, s.Result(t, "payout-settlement", api.Values{"settles": "2025-10"})))
	b.shows("3 matched, 1 differs, 1 doubtful")
	b.press("Choose what belongs together")
	b.click(`[aria-label="Ours, 4"]`)
	b.click(`[aria-label="Lines of the statement, 9"]`)
	b.picture(path)
}

// picturesOfSending draws what is taken away, sent and due, after the month of
// the districts was sent for two months.
func picturesOfSending(t *testing.T, s *demotest.Service, b *browser, picture func(string) string, result string) {
	runa, _ := s.As(t, "runa")
	for _, month := range []string{"2026-08", "2026-09"} {
		if got := command(t, s.URL, runa, "control", "run", "districts-month", "--send", "received="+month,
			"settled="+month); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	for _, tile := range []string{"by_district --part Hollin --measure value", "by_district --part Marr --measure net_kg",
		"by_district --part Lórrin --measure value", "by_flower --part Hollin --show table"} {
		if got := command(t, s.URL, runa,
			append([]string{"desk", "put", "districts-month"}, strings.Fields(tile)...)...); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	b.open(s.URL + "/")
	b.until(`document.querySelectorAll('[data-tile] footer').length === 4`)
	b.picture(picture("desk"))
	b.open(s.URL + "/results/" + result + "?lots.group=district&lots.group=month(received)&lots.open=3")
	b.press("Take away")
	b.click("[data-format]")
	b.choose("Pages (PDF)")
	b.until(`document.querySelector('[data-page]') && document.querySelector('svg text')`)
	b.picture(picture("take-away"))
	b.open(s.URL + "/timetable")
	b.shows("the last working day of the month")
	b.picture(picture("timetable"))
	b.open(s.URL + "/controls/districts-month")
	b.press("Change")
	b.click("[data-part=what] button") // which is open at first
	b.click("[data-part=when] button")
	b.until(`document.querySelectorAll('[data-dates] li').length === 10`)
	b.picture(picture("control"))
	b.press("Runa Askwith ▾")
	b.press("Sign out")
	b.until(`document.querySelector("[name=password]")`)
	b.signIn(s, "adda")
	b.open(s.URL + "/sending?tab=mailbox")
	b.until(`document.querySelector('[data-letter] a[download]')`)
	b.picture(picture("sending"))
	b.press("Adda Marrowell ▾")
	b.press("Sign out")
	b.until(`document.querySelector("[name=password]")`)
	b.signIn(s, "runa")

	pages := filepath.Join(t.TempDir(), "pages.pdf")
	for _, args := range [][]string{{"export", result, "--group", "district,grade", "--open", "3", "--columns",
		"lot_no,received,keeper,flower,moisture,net_kg,value", "--to", pages}} {
		if got := command(t, s.URL, runa, args...); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	if out, err := exec.CommandContext(t.Context(), "pdftoppm", "-r", "96", "-png", "-singlefile", pages,
		strings.TrimSuffix(picture("page"), ".png")).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
}

// keepForPictures keeps criteria and a run control as one of the people, whose
// token it returns, and runs it.
func keepForPictures(t *testing.T, s *demotest.Service) (token string) {
	t.Helper()
	token, runa := s.As(t, "runa")
	c, err := runa.KeepCriteriaWithResponse(t.Context(), "intake-lots",
		api.CriteriaChange{
			Name:   "Hollin and Marr",
			Shared: "field",
			Values: api.Values{"received": "last month", "unit": "UF-HOL; UF-MAR"},
		})
	if err != nil || c.JSON201 == nil {
		t.Fatalf("%v %s", err, c.Body)
	}
	if _, err := runa.SetUsual(t.Context(), c.JSON201.Id); err != nil {
		t.Fatal(err)
	}
	if _, err := runa.KeepCriteria(t.Context(), "intake-lots",
		api.CriteriaChange{
			Name:   "Heavy lots of the year",
			Values: api.Values{"received": "year to date", "at_least": "400"},
		}); err != nil {
		t.Fatal(err)
	}
	id := c.JSON201.Id
	month := api.Values{"received": "last month"}
	put, err := runa.PutControlWithResponse(t.Context(), "month-end", nil,
		api.ControlChange{Title: "Month end", Shared: "field", Empty: "note", KeepDays: 400,
			Outputs: []api.Output{api.OutputKept, api.OutputXlsx},
			Steps: []api.Step{{Report: "intake-by-origin", Values: &month}, {Report: "intake-lots", Criteria: &id},
				{Report: "payout-settlement", Values: &api.Values{}}}})
	if err != nil || put.JSON200 == nil {
		t.Fatalf("%v %s", err, put.Body)
	}
	for _, args := range [][]string{{"control", "run", "month-end", "received=2026-08"}, {"control", "run", "month-end"}} {
		if got := command(t, s.URL, token, args...); got.code != 0 {
			t.Fatalf("%+v", got)
		}
	}
	return token
}

// pictureOfWriting shows a change of a report that others depend on, with a slip in it.
func pictureOfWriting(b *browser, s *demotest.Service, path string) {
	b.t.Helper()
	d, err := s.Library.AsService().Catalog.Report("intake-lots")
	if err != nil {
		b.t.Fatal(err)
	}
	text := strings.Replace(d.Text, "lot.grade in :grade", "lot.grad in :grade", 1)
	b.writes(s, strings.Replace(text, "columns: [lot_no, received", "columns: [lot_no, recieved", 1))
	b.press("Check")
	b.shows("did you mean grade?")
	b.shows("did you mean received?")
	b.picture(path)
}

// pictureOfChanges draws what changed from one result to another, with a note on it.
func pictureOfChanges(t *testing.T, b *browser, s *demotest.Service, path string) {
	steps(t, s, []step{
		{"runa", "compare intake-by-origin received=2026-08 -- received=2026-09", 0, ""},
		{"runa", "results changed --report intake-by-origin", 0, "What changed"},
	})
	b.open(s.URL + "/results?search=What+changed")
	b.pick("td a", "R-")
	b.shows("12 changed, 0 new, 0 gone")
	b.press("Notes and sign-off")
	b.until(`document.querySelector('[data-keeping] textarea')`)
	b.fill("[data-keeping] textarea", "Less came in everywhere, @lila: the heather was late.")
	b.press("Write")
	b.until(`document.querySelector('[data-note-thread]')`)
	b.picture(path)
}
