package e2e

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/library/catalog"

	"github.com/chromedp/chromedp/kb"
	"github.com/xuri/excelize/v2"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// TestConsole finds a report, meets an error at a field, mends it, runs the
// report, reads, sorts and filters the rows, and takes them away.
func TestConsole(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.shows("Stock near its best-before day")
	b.fill("[data-search]", "intke lot")
	// Three by their titles and purposes; then those that have a column of lots, or ask for one.
	b.until(`[...document.querySelectorAll('main li a')].map(a => a.innerText.includes('it has the column') || ` +
		`a.innerText.includes('it asks for')).join() === 'false,false,false,true,true,true,true'`)
	b.keys(kb.ArrowDown) // arrow down: from the search to the first report
	b.until(`document.activeElement.textContent.includes('Intake lots')`)
	b.keys("\r")
	b.shows("Every lot received")
	b.until(`document.querySelector('[data-resolved=received]')?.innerText.includes('1–30 September 2026')`)

	b.fill("[name=received]", "2026-02-30")
	b.until(`document.querySelector('[data-fault=received]')?.innerText === 'there is no day 2026-02-30; February ` +
		`2026 has 28 days'`)
	b.press("Run")
	b.shows("One value is not right.")
	if runs, err := s.Client.ListRunsWithResponse(t.Context(), nil); err != nil || len(*runs.JSON200) != 0 {
		t.Errorf("a wrong value was run: %v %s", err, runs.Body)
	}
	b.click(`[aria-label="Pick Received"]`)
	b.press("last month" + "1–30 September 2026")
	b.until(`!document.querySelector('[data-fault=received]')`)
	b.until(`!document.querySelector('[role=dialog]')`) // it has faded, and given the focus back

	b.click(`[aria-label="Pick Region, district or site"]`)
	b.until(`document.activeElement.placeholder === 'Search units'`)
	b.keys("hollin")
	b.until(`[...document.querySelectorAll('[role=treeitem]')].some(u => u.innerText.includes('UF-HOL,'))`)
	b.value(`([...document.querySelectorAll('[role=treeitem]')].find(u => u.innerText.includes('UF-HOL,')).focus(), '')`)
	b.keys(" ")
	b.until(`document.querySelector('[data-sentence]').innerText === 'Received 1–30 September 2026; district Hollin ` +
		`with everything below; all grades.'`)
	b.keys(kb.Escape)
	b.press("Run")

	b.until(`location.pathname.startsWith('/results/R-')`)
	b.until(`document.querySelector('[data-rows]')?.dataset.rows === '69'`)
	if said := b.value(`document.querySelector('[data-sentence]').innerText`); said != "Received 1–30 September 2026; "+
		"district Hollin with everything below; all grades." {
		t.Errorf("the result says %q", said)
	}
	b.click("[data-sort=net_kg]")
	b.until(`document.querySelector('[data-sort=net_kg]').parentElement.ariaSort === 'ascending'`)
	b.until(`!document.querySelector('[data-sheet=lots]').innerText.includes('…')`)
	weights := b.cells("lots", 7)
	if sorted := slices.IsSortedFunc(weights, byNumber); !sorted || len(weights) < 15 {
		t.Errorf("not sorted: %q", weights)
	}
	b.click("[data-sort=net_kg]")
	b.until(`document.querySelector('[data-sort=net_kg]').parentElement.ariaSort === 'descending'`)
	b.press("Filter")
	b.fill("[name=holds]", "L26-174")
	b.keys("\r")
	b.until(`Number(document.querySelector('[data-rows]').dataset.rows) < 69`)
	b.shows("Of which lot with “L26-174” in it")
	rows := b.value(`document.querySelector('[data-rows]').dataset.rows`)

	lines, err := csv.NewReader(bytes.NewReader(fetch(t, s.Token, b.takenAway("Comma-separated values")))).ReadAll()
	if err != nil || len(lines)-1 != atoi(rows) || !strings.HasPrefix(lines[1][0], "L26-174") {
		t.Errorf("CSV of %d lines for %s rows: %v", len(lines), rows, err)
	}
	book, err := excelize.OpenReader(bytes.NewReader(fetch(t, s.Token, b.takenAway("Spreadsheet"))))
	if err != nil {
		t.Fatal(err)
	}
	if cells, err := book.GetRows("Lots"); err != nil || len(cells)-2 != atoi(rows) {
		t.Errorf("XLSX of %d rows for %s: %v", len(cells), rows, err)
	}

	b.until(`(history.back(), true)`) // one step back takes the filter away
	b.until(`document.querySelector('[data-rows]')?.dataset.rows === '69'`)
	lot := b.value(`document.querySelector('[data-sheet=lots] a').innerText`)
	b.click("[data-sheet=lots] a")
	b.shows("Lot " + lot + ".")
	b.shows("Changes of state")
}

// takenAway has the view written in a format and returns where the file is.
func (b *browser) takenAway(format string) string {
	b.t.Helper()
	b.press("Take away")
	b.click("[data-format]")
	b.choose(format)
	b.press("Write the file")
	b.until(`document.querySelector('[data-export=done] a[download]')`)
	address := b.value(`document.querySelector('[data-export=done] a[download]').href`)
	b.keys(kb.Escape)
	b.until(`!document.querySelector('[data-export]')`)
	return address
}

// choose picks an entry of the list that is open.
func (b *browser) choose(text string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
		const found = [...document.querySelectorAll('[role=option]')].find(e => e.textContent.trim() === %q)
		found?.click()
		return Boolean(found)
	})()`, text))
}

func byNumber(a, b string) int {
	pad := func(s string) string { return strings.Repeat("0", 12-len(s)) + s }
	return strings.Compare(pad(a), pad(b))
}

func atoi(digits string) (n int) {
	for _, d := range digits {
		n = 10*n + int(d-'0')
	}
	return n
}

func fetch(t *testing.T, token, address string) []byte {
	t.Helper()
	request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, address, nil)
	if err != nil {
		t.Fatal(err)
	}
	request.Header.Set("Authorization", "Bearer "+token)
	r, err := http.DefaultClient.Do(request)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatalf("%s: %s %v", address, r.Status, err)
	}
	return body
}

const million = `report: million
title: A million rows
category: Test
depth: lines
about: Many rows.
source: coop
datasets:
  rows:
    from: (with recursive n(i) as (select 1 union all select i + 1 from n where i < 1000000) select i from n)
    columns: [{id: i, is: i, type: integer, label: Number, total: sum}, {id: name, is: "'row ' || i", type: text}]
views: {rows: {of: rows}}
`

// TestMillionRowsScroll watches a run without reloading and goes to the end of
// its rows.
func TestMillionRowsScroll(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	if _, err := s.Library.AsService().Catalog.PutReport(t.Context(), []byte(million), catalog.Put{Was: "*"}); err != nil {
		t.Fatal(err)
	}
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.open(s.URL + "/reports/million")
	b.shows("Many rows.")
	b.press("Run")
	b.until(`document.querySelector('[data-progress]') || location.pathname.startsWith('/results/')`)
	for begun := time.Now(); runs(t, s.URL, s.Token)[0].State == api.StateRunning; time.Sleep(200 * time.Millisecond) {
		if time.Since(begun) > time.Minute { // beside other tests it takes its time
			t.Fatal("a million rows are never kept")
		}
	}
	b.until(`document.querySelector('[data-rows]')?.dataset.rows === '1000000'`)
	b.shows("500,000,500,000")
	b.value(`(document.querySelector('[data-sheet=rows]').focus(), '')`)
	b.keys(kb.End)
	b.until(`[...document.querySelectorAll('[aria-rowindex="1000001"]')].some(r => r.innerText.includes('row 1000000'))`)
	b.value(`(() => { const box = document.querySelector('[data-sheet=rows]'); box.scrollTop = (box.scrollHeight - ` +
		`box.clientHeight) / 2; return '' })()`)
	b.until(`(() => {
		const box = document.querySelector('[data-sheet=rows]').getBoundingClientRect()
		const middle = document.elementFromPoint(box.x + 60, box.y + box.height / 2).closest('[aria-rowindex]')
		return Math.abs(Number(middle?.children[0].innerText.replaceAll(',', '')) - 500000) < 50
	})()`)
	b.value(`(() => { window.drag = setInterval(() => document.querySelector('[data-sheet=rows]').scrollTop -= 9000, 16)
		return '' })()`)
	b.until(`document.querySelector('[data-passing]')?.innerText.endsWith(' of 1,000,000')`)
	b.shot("passing")
	b.value(`(clearInterval(window.drag), '')`)
	b.until(`!document.querySelector('[data-passing]') && document.querySelector('[data-kind=row] > :first-child')`)
}

func TestRunsResultsAndOffice(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	if run := s.Run(t, "near-best-before", api.Values{"within": "30"}); run.State != api.StateDone {
		t.Fatalf("%+v", run)
	}
	b := openBrowser(t)
	b.signIn(s, "adda")
	b.open(s.URL + "/runs")
	b.shows("RUN-000001")
	b.press("Run again")
	b.until(`document.querySelector('[name=within]')?.value === '30'`)
	b.open(s.URL + "/results?search=bays")
	b.shows("No result meets the search")
	b.open(s.URL + "/results?search=stock")
	b.shows("R-000001")
	b.press("Delete")
	b.shows("can be brought back for 30 days")
	b.press("Delete it")
	b.shows("No result meets the search")
	b.writes(s, "report: Bad")
	b.press("Check")
	b.shows(`line 1, column 9: "Bad" is not an id`)
	b.open(s.URL + "/nowhere")
	b.shows("There is no such place")
	b.open(s.URL + "/results/R-000099")
	b.shows("result R-000099: not found")
}
