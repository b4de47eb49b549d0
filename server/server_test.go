package server_test

import (
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/demo/demotest"
)

func TestCatalogIsListedAndSearched(t *testing.T) {
	s := demotest.Start(t)
	for _, c := range []struct{ search, category, want string }{
		{"", "", "budget-position consolidation-trail trial-balance ledger-lines measure-capability intake-by-origin " +
			"weighing-waits intake-lots lab-measurements lot-changes lot-history certificates-ending keepers-by-age " +
			"portal-activity training-progress years-of-membership certificates-by-district certificate-lines keeper-file " +
			"long-service portal-proof orders-earlier-seasons orders-by-grouping buyer-accounts agent-commission " +
			"payout-settlement payouts-by-day payout-detail project-summary project-forecast project-timeline open-work " +
			"hive-scale-trend return-rate sites-by-unit site-return visit-roster seasonal-pay staff-profile pay-checklist " +
			"staff-list timesheet-batch rental-outlook bay-occupancy rental-position stock-lines near-best-before"},
		{"", "Keepers", "certificates-ending keepers-by-age portal-activity training-progress years-of-membership " +
			"certificates-by-district certificate-lines keeper-file long-service portal-proof"},
		{"keper fiel", "", "keeper-file"},
		{"hsitory", "", "lot-history"},
		{"lot", "Intake", "intake-lots lot-changes lot-history measure-capability intake-by-origin weighing-waits " +
			"lab-measurements"}, // the last four have a column of lots, or ask for one
		{"overview", "Orders", "orders-earlier-seasons orders-by-grouping"},
		{"zeppelin", "", ""},
	} {
		r, err := s.Client.GetCatalogWithResponse(t.Context(),
			&api.GetCatalogParams{Search: &c.search, Category: &c.category})
		if err != nil || r.JSON200 == nil {
			t.Fatal(err)
		}
		var ids []string
		for _, line := range r.JSON200.Reports {
			ids = append(ids, line.Id)
		}
		if got := strings.Join(ids, " "); got != c.want {
			t.Errorf("%q in %q: got %s, want %s", c.search, c.category, got, c.want)
		}
		if len(r.JSON200.Categories) != 9 {
			t.Errorf("%q: categories %+v", c.search, r.JSON200.Categories)
		}
	}
	s.Result(t, "near-best-before", nil)
	word := "best before"
	r, err := s.Client.GetCatalogWithResponse(t.Context(), &api.GetCatalogParams{Search: &word})
	if err != nil || r.JSON200.Reports[0].LastRun == nil || *r.JSON200.Reports[0].LastRows != 337 {
		t.Errorf("its last run is not told: %v %s", err, r.Body)
	}
}

func TestFromReportToResult(t *testing.T) {
	s := demotest.Start(t)
	run := s.Run(t, "intake-lots", api.Values{"received": "last month", "unit": "Hollin; Marr"})
	if run.State != api.StateDone || run.Rows != 117 || run.Sentence != "Received 1–30 September 2026; districts Hollin "+
		"and Marr with everything below; all grades." || run.AskedBy != "adda" {
		t.Fatalf("%+v", run)
	}
	r, err := s.Client.GetResultWithResponse(t.Context(), *run.Result)
	if err != nil || r.JSON200 == nil {
		t.Fatal(err)
	}
	result := r.JSON200
	if result.Rows != 117 || result.Values["unit"] != "Hollin; Marr" || result.Facts[1].Resolved != "UF-HOL; UF-MAR" ||
		len(result.Seal) != 64 || len(result.Version) != 64 {
		t.Errorf("%+v", result)
	}
	sort, filter, columns := []string{"-net_kg", "lot_no"}, []string{"grade=Select", "net_kg>=200"},
		[]string{"lot_no", "net_kg"}
	first, count := 1, 3
	sheet := s.Sheet(t, result.Id, "lots",
		api.ReadViewParams{Sort: &sort, Filter: &filter, Column: &columns, First: &first, Count: &count})
	if len(sheet.Columns) != 2 || len(sheet.Cells) != 3 || sheet.First != 1 || sheet.Of != 117 || sheet.Rows >= 117 ||
		sheet.Rows < 4 {
		t.Fatalf("%+v", sheet)
	}
	for i := 1; i < 3; i++ {
		if *sheet.Cells[i-1][1] < *sheet.Cells[i][1] { // all have three digits before the point
			t.Errorf("not sorted: %s before %s", *sheet.Cells[i-1][1], *sheet.Cells[i][1])
		}
	}
	seal, err := s.Client.CheckSealWithResponse(t.Context(), result.Id)
	if err != nil || seal.JSON200 == nil || !seal.JSON200.Unchanged || seal.JSON200.Seal != result.Seal {
		t.Errorf("the seal: %v %s", err, seal.Body)
	}
	word := "hollin marr"
	found, err := s.Client.ListResultsWithResponse(t.Context(), &api.ListResultsParams{Search: &word})
	if err != nil || len(*found.JSON200) != 1 || (*found.JSON200)[0].Id != result.Id {
		t.Errorf("found again: %v %s", err, found.Body)
	}
	gone, err := s.Client.DeleteResultWithResponse(t.Context(), result.Id)
	if err != nil || gone.StatusCode() != http.StatusNoContent {
		t.Errorf("deleted: %v %d", err, gone.StatusCode())
	}
	if r, err = s.Client.GetResultWithResponse(t.Context(), result.Id); err != nil ||
		r.StatusCode() != http.StatusNotFound {
		t.Errorf("afterwards: %v %d", err, r.StatusCode())
	}
}

func TestResolveShowsTheDaysAndAllFaults(t *testing.T) {
	s := demotest.Start(t)
	resolve := func(values api.Values) *api.Resolution {
		r, err := s.Client.ResolveValuesWithResponse(t.Context(), "intake-lots", api.Typed{Values: values})
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		return r.JSON200
	}
	if r := resolve(api.Values{"received": "last 90 days"}); r.Facts[0].Resolved != "2026-07-17/2026-10-14" ||
		r.Sentence == "" || len(r.Faults) != 0 {
		t.Errorf("%+v", r)
	}
	r := resolve(api.Values{"received": "2026-03-31/2026-01-01", "unit": "Holin", "grade": "Z", "at_least": "much",
		"keeper": "Nobody", "corrections": "perhaps", "colour": "red"})
	var fields []string
	for _, f := range r.Faults {
		fields = append(fields, f.Field)
	}
	if want := []string{"colour", "received", "unit", "grade", "keeper", "at_least", "corrections"}; !slices.Equal(fields,
		want) || r.Sentence != "" {
		t.Errorf("faults at %q, want %q", fields, want)
	}
}

func TestEntries(t *testing.T) {
	s := demotest.Start(t)
	for _, c := range []struct {
		parameter, search string
		limit, want       int
	}{{"unit", "", 1000, 107}, {"unit", "hollin mill", 50, 1}, {"grade", "", 50, 4}, {"keeper", "", 5, 5},
		{"keeper", "k-1002", 50, 1}, {"keeper", "nobody of that name", 50, 0}} {
		r, err := s.Client.GetEntriesWithResponse(t.Context(), "intake-lots", c.parameter,
			&api.GetEntriesParams{Search: &c.search, Limit: &c.limit})
		if err != nil || r.JSON200 == nil || len(*r.JSON200) != c.want {
			t.Errorf("%+v: %v %s", c, err, r.Body)
		}
	}
}

// TestProblems asks for what cannot be and looks at how it is refused.
func TestProblems(t *testing.T) {
	s := demotest.Start(t)
	result := s.Result(t, "near-best-before", nil)
	for _, c := range []struct {
		method, path, body string
		status             int
		kind, field, says  string
	}{
		{"GET", "/reports/intake-lotz", "", 404, "not-found", "report", "did you mean intake-lots?"},
		{"GET", "/reports/intake-lots/parameters/gradde/entries", "", 404, "not-found", "parameter", "did you mean grade?"},
		{"POST", "/runs", `{"report": "nothing", "values": {}}`, 404, "not-found", "report", "there is no report"},
		{"POST", "/runs", `{"report": "intake-lots", "values": {"received": "2026-02-30"}}`, 422, "values", "received",
			"February 2026 has 28 days"},
		{"POST", "/runs", `{"report": "lot-history", "values": {}}`, 422, "values", "lot", "Lot is needed"},
		{"POST", "/runs", `{"report": `, 400, "request", "request", ""},
		{"GET", "/runs/RUN-000099", "", 404, "not-found", "", "not found"},
		{"GET", "/runs/first", "", 400, "request", "run", "is not a run"},
		{"POST", "/runs/99/stop", "", 404, "not-found", "", "not found"},
		{"GET", "/runs/99/progress", "", 404, "not-found", "", "not found"},
		{"GET", "/results/R-000099", "", 404, "not-found", "", "R-000099"},
		{"DELETE", "/results/R-000099", "", 404, "not-found", "", "not found"},
		{"GET", "/results/" + result + "/views/stok", "", 404, "not-found", "view", "did you mean stock?"},
		{"GET", "/results/" + result + "/views/stock?sort=jar", "", 422, "reading", "sort", "did you mean jars?"},
		{"GET", "/results/" + result + "/views/stock?column=jar", "", 422, "reading", "columns", "did you mean jars?"},
		{"GET", "/results/" + result + "/views/stock?filter=jars~5", "", 422, "reading", "filter", "~ searches texts"},
		{"GET", "/results/" + result + "/views/stock?count=many", "", 400, "request", "count",
			"\"many\" is not a whole number"},
		{"GET", "/results/" + result + "/views/stock/file", "", 400, "request", "format", "it is missing"},
		{"GET", "/results/" + result + "/views/stock/file?format=doc", "", 400, "request", "format", "use xlsx, pdf, csv"},
		{"POST", "/tokens", `{"name": 3}`, 400, "request", "name", "name: 3 is not a text"},
		{"POST", "/tokens", `{"name": "x"}`, 400, "request", "password", "password: it is missing"},
		{"POST", "/runs", `{"report": "lots", "values": []}`, 400, "request", "values", "is not an object"},
		{"GET", "/runs?limit=0", "", 400, "request", "limit", "0 is not a whole number of at least 1"},
		{"GET", "/nothing/here", "", 404, "not-found", "call", "/api/nothing/here"},
		{"PUT", "/reports/lots/definition", "report: [", 422, "definition", "definition", "not YAML"},
	} {
		request, err := http.NewRequestWithContext(t.Context(), c.method, s.URL+"/api"+c.path, strings.NewReader(c.body))
		if err != nil {
			t.Fatal(err)
		}
		request.Header.Set("Authorization", "Bearer "+s.Token)
		request.Header.Set("Content-Type",
			map[bool]string{true: "application/yaml", false: "application/json"}[c.method == "PUT"])
		answer, err := http.DefaultClient.Do(request)
		if err != nil {
			t.Fatal(err)
		}
		var p api.Problem
		err = json.NewDecoder(answer.Body).Decode(&p)
		answer.Body.Close()
		if err != nil || answer.StatusCode != c.status || p.Status != c.status || p.Type != c.kind ||
			answer.Header.Get("Content-Type") != "application/problem+json" || p.Request == nil ||
			*p.Request != answer.Header.Get("X-Request-ID") {
			t.Errorf("%s %s: %d %+v, %v", c.method, c.path, answer.StatusCode, p, err)
			continue
		}
		said := p.Detail
		if c.field != "" {
			i := slices.IndexFunc(p.Fields, func(f api.Fault) bool { return f.Field == c.field })
			if i < 0 {
				t.Errorf("%s %s: no fault at %s in %+v", c.method, c.path, c.field, p.Fields)
				continue
			}
			said = p.Fields[i].Message
		}
		if !strings.Contains(said, c.says) {
			t.Errorf("%s %s: says %q, want %q", c.method, c.path, said, c.says)
		}
	}
}

// definition returns the text of a report's definition and its tag.
func definition(t *testing.T, s *demotest.Service, report string) (text, tag string) {
	t.Helper()
	r, err := s.Client.GetDefinition(t.Context(), report)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatal(r.Status, err)
	}
	return string(body), r.Header.Get("ETag")
}

func TestDefinitionsAreCheckedAndPut(t *testing.T) {
	s := demotest.Start(t)
	text, tag := definition(t, s, "lot-history")
	put := func(report, text, match string) *client.PutDefinitionResponse {
		p := &api.PutDefinitionParams{}
		if match != "" {
			p.IfMatch = &match
		}
		r, err := s.Client.PutDefinitionWithBodyWithResponse(t.Context(), report, p, "application/yaml",
			strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	changed := strings.Replace(text, "title: Lot history", "title: History of a lot", 1)
	if r := put("lot-history", changed, ""); r.StatusCode() != http.StatusPreconditionFailed {
		t.Errorf("a change without If-Match: %d %s", r.StatusCode(), r.Body)
	}
	r := put("lot-history", changed, tag)
	if r.JSON200 == nil || r.JSON200.Title != "History of a lot" || len(r.JSON200.Versions) != 2 {
		t.Fatalf("a change that saw the present version: %d %s", r.StatusCode(), r.Body)
	}
	if r := put("lot-history", text, tag); r.StatusCode() != http.StatusPreconditionFailed {
		t.Errorf("a change that saw an older version: %d", r.StatusCode())
	}
	if r := put("other", changed, ""); r.StatusCode() != http.StatusBadRequest {
		t.Errorf("put under another name: %d", r.StatusCode())
	}
	// Five different faults, each with its line, among them ones that only the source can see.
	five := changed
	for _, change := range [][2]string{{"depth: lines", "depth: deep"}, {"type: entity", "type: entitty"},
		{"is: lot.state, type: text", "is: lot.state, type: txt"},
		{"where: weighing.lot_no = :lot", "where: weighing.lot_no = :lott"}, {"sort: [at]", "sort: [att]"}} {
		five = strings.Replace(five, change[0], change[1], 1)
	}
	check, err := s.Client.CheckDefinitionWithBodyWithResponse(t.Context(), "application/yaml", strings.NewReader(five))
	if err != nil || check.ApplicationproblemJSONDefault == nil || len(check.ApplicationproblemJSONDefault.Fields) != 5 {
		t.Errorf("five faults: %s", check.Body)
	}
	for _, broken := range [][2]string{{"is: lot.state,", "is: lot.stat,"}, {"from: lots,", "from: lotz,"},
		{"source: coop", "source: copo"}} {
		check, err := s.Client.CheckDefinitionWithBodyWithResponse(t.Context(), "application/yaml",
			strings.NewReader(strings.Replace(changed, broken[0], broken[1], 1)))
		if err != nil || check.StatusCode() != 422 {
			t.Errorf("%s: %d %s", broken[1], check.StatusCode(), check.Body)
		}
	}
}

func TestOldResultsKeepTheirVersion(t *testing.T) {
	s := demotest.Start(t)
	id := s.Result(t, "lot-history", api.Values{"lot": "L24-05000"})
	text, _ := definition(t, s, "lot-history")
	text = strings.Replace(text, "{id: desk, is: weighing.desk, type: text}",
		"{id: place, is: weighing.desk, type: text}", 1)
	match := "*"
	r, err := s.Client.PutDefinitionWithBodyWithResponse(t.Context(), "lot-history",
		&api.PutDefinitionParams{IfMatch: &match}, "application/yaml", strings.NewReader(text))
	if err != nil || r.JSON200 == nil {
		t.Fatalf("%v %s", err, r.Body)
	}
	if sheet := s.Sheet(t, id, "weighing", api.ReadViewParams{}); sheet.Columns[0].Id != "desk" {
		t.Errorf("the old result shows %s", sheet.Columns[0].Id)
	}
	if sheet := s.Sheet(t, s.Result(t, "lot-history", api.Values{"lot": "L24-05000"}), "weighing",
		api.ReadViewParams{}); sheet.Columns[0].Id != "place" {
		t.Errorf("the new result shows %s", sheet.Columns[0].Id)
	}
}

func TestRunAskedTwiceIsMadeOnce(t *testing.T) {
	s := demotest.Start(t)
	key := "once"
	var ids []string
	for range 2 {
		r, err := s.Client.StartRunWithResponse(t.Context(), &api.StartRunParams{IdempotencyKey: &key},
			api.Ask{Report: "near-best-before", Values: api.Values{}})
		if err != nil || r.JSON201 == nil {
			t.Fatal(err)
		}
		ids = append(ids, r.JSON201.Id)
	}
	if ids[0] != ids[1] {
		t.Errorf("made %v", ids)
	}
}

func TestMissingAndLockedSource(t *testing.T) {
	s := demotest.Start(t)
	c, err := sqlite3.Open(s.Source)
	if err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(c.BusyTimeout(10*time.Second), c.Exec("begin exclusive")); err != nil {
		t.Fatal(err)
	}
	if r := s.Run(t, "near-best-before", nil); r.State != api.StateFailed ||
		!strings.Contains(*r.Reason, "locked by another program") {
		t.Errorf("locked: %+v", r)
	}
	c.Close()
	s.Result(t, "near-best-before", nil)
	if err := os.Remove(s.Source); err != nil {
		t.Fatal(err)
	}
	if r := s.Run(t, "near-best-before", nil); r.State != api.StateFailed ||
		!strings.Contains(*r.Reason, "coop.db is missing") {
		t.Errorf("missing: %+v", r)
	}
	r, err := s.Client.GetEntriesWithResponse(t.Context(), "intake-lots", "unit", nil)
	if err != nil || r.StatusCode() != http.StatusServiceUnavailable {
		t.Errorf("missing: %v %d", err, r.StatusCode())
	}
}
