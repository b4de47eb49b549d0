package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/core/report"
)

func TestReportsAreOpenToSome(t *testing.T) {
	w := newWorld(t)
	dora, _ := w.As(t, "dora") // not in the group accounts
	for _, path := range []string{"/reports/ledger-lines", "/reports/ledger-lines/form",
		"/reports/ledger-lines/criteria"} {
		if got, said := w.status("GET", path, "", dora); got != http.StatusNotFound || strings.Contains(said, "ledger_line") {
			t.Errorf("%s: %d %s", path, got, said)
		}
	}
	if got, _ := w.status("POST", "/runs", `{"report": "ledger-lines", "values": {}}`, dora); got != http.StatusNotFound {
		t.Errorf("a closed report was run: %d", got)
	}
	if _, said := w.status("GET", "/catalog", "", dora); strings.Contains(said, "ledger-lines") ||
		!strings.Contains(said, "intake-lots") {
		t.Errorf("the catalog: %s", said)
	}
	hers := w.Result(t, "ledger-lines", nil)
	if got, _ := w.status("GET", "/results/"+hers, "", dora); got != http.StatusNotFound {
		t.Errorf("a result of a closed report: %d", got)
	}
	if got, said := w.status("PUT", "/reports/ledger-lines/opening",
		`{"everyone": false, "groups": ["accounts"], "people": ["dora"]}`, w.Token); got != http.StatusNoContent {
		t.Fatalf("%d %s", got, said)
	}
	if got, _ := w.status("GET", "/reports/ledger-lines", "", dora); got != http.StatusOK {
		t.Errorf("after it was opened to her: %d", got)
	}
}

// TestUnitsCutEveryWayToRows proves that a person who sees one district reaches
// no row of another one.
func TestUnitsCutEveryWayToRows(t *testing.T) {
	w := newWorld(t)
	token, dora := w.As(t, "dora")
	wide := w.Result(t, "intake-lots", api.Values{"received": "2026"})
	marr := w.Result(t, "intake-lots", api.Values{"received": "2026-08", "unit": "Marr"})
	admin := w.Client
	for _, id := range []string{wide, marr, w.fixed["result"]} {
		for _, way := range []string{"", "/seal", "/views/lots", "/views/*", "/views/lots/file?format=csv",
			"/views/lots/file?format=xlsx"} {
			if got, said := w.status("GET", "/results/"+id+way, "", token); got != http.StatusNotFound {
				t.Errorf("%s%s: %d %.100s", id, way, got, said)
			}
		}
		if got, _ := w.status("DELETE", "/results/"+id, "", token); got != http.StatusNotFound {
			t.Errorf("%s was deleted: %d", id, got)
		}
	}
	for _, way := range []string{"GET /runs/RUN-000002", "GET /runs/RUN-000002/progress", "POST /runs/RUN-000002/stop"} {
		method, path, _ := strings.Cut(way, " ")
		if got, said := w.status(method, path, "", token); got != http.StatusNotFound {
			t.Errorf("%s: %d %.100s", way, got, said)
		}
	}
	for _, list := range []string{"/runs", "/results"} {
		if got, said := w.status("GET", list, "", token); got != http.StatusOK || strings.TrimSpace(said) != "[]" {
			t.Errorf("%s: %d %.200s", list, got, said)
		}
	}
	// Look-ups and forms name nobody and nothing of another district.
	for _, path := range []string{"/reports/intake-lots/parameters/keeper/entries?limit=1000",
		"/reports/intake-lots/parameters/unit/entries?limit=1000", "/reports/lot-history/parameters/lot/entries?limit=1000",
		"/reports/intake-lots/form", "/reports/rental-outlook/parameters/agreement/entries?limit=1000",
		"/reports/intake-lots/parameters/unit/entries?code=UF-MAR"} {
		got, said := w.status("GET", path, "", token)
		if got != http.StatusOK || strings.Contains(said, "UF-MAR") || strings.Contains(said, "Marr") ||
			strings.Contains(said, `"COOP"`) {
			t.Errorf("%s: %d %.300s", path, got, said)
		}
	}
	other := w.Ask(t, `select keeper_no, lot_no from lot where site_id like 'UF-MAR-%' order by lot_no desc limit 1`)
	for _, c := range []struct{ report, body string }{
		{"intake-lots", `{"unit": "Marr"}`}, {"intake-lots", `{"unit": "UF-MAR-01"}`},
		{"intake-lots", `{"keeper": "` + other[0] + `"}`},
		{"keeper-file", `{"keeper": "` + other[0] + `"}`}, {"lot-history", `{"lot": "` + other[1] + `"}`},
	} {
		if got, said := w.status("POST", "/runs", `{"report": "`+c.report+`", "values": `+c.body+`}`,
			token); got != http.StatusUnprocessableEntity {
			t.Errorf("%s with %s: %d %s", c.report, c.body, got, said)
		}
		if _, said := w.status("POST", "/reports/"+c.report+"/resolve", `{"values": `+c.body+`}`,
			token); strings.Contains(said, `"kept"`) || !strings.Contains(said, `"faults":[{`) {
			t.Errorf("%s with %s resolves to %s", c.report, c.body, said)
		}
	}
	// Whatever she can run gives the rows that her district gives, dataset by
	// dataset; what cannot be cut cannot be run.
	keeper := w.Ask(t,
		`select keeper_no, lot_no from lot where site_id like 'UF-HOL-%' and price_cents is not null limit 1`)
	given := map[string]api.Values{"keeper-file": {"keeper": keeper[0]}, "portal-proof": {"keeper": keeper[0]},
		"lot-history": {"lot": keeper[1]}, "visit-roster": {"unit": "UF-HOL"}}
	ran := 0
	for _, entry := range catalog(t, dora) {
		d, err := w.Library.AsService().Catalog.Report(entry)
		if err != nil {
			t.Fatal(err)
		}
		if !d.Cuts() {
			if _, said := w.status("GET", "/reports/"+entry+"/form", "", token); !strings.Contains(said, `"refused":"`) {
				t.Errorf("the form of %s does not say that she cannot run it", entry)
			}
			if got, said := w.status("POST", "/runs", `{"report": "`+entry+`", "values": {}}`,
				token); got != http.StatusForbidden || !strings.Contains(said, "cannot be cut to your units") {
				t.Errorf("%s: %d %s", entry, got, said)
			}
			continue
		}
		w.Client = dora
		mine := w.Result(t, entry, given[entry])
		w.Client = admin
		values := api.Values{}
		for name, text := range given[entry] {
			values[name] = text
		}
		if d.Parameter("unit") != nil {
			values["unit"] = "UF-HOL"
		}
		all := w.Result(t, entry, values)
		for _, v := range d.Views {
			my, their := w.Sheet(t, mine, v.ID, api.ReadViewParams{}), w.Sheet(t, all, v.ID, api.ReadViewParams{})
			cut := d.Dataset(v.Of).Scope.SQL != report.Everyone && d.Parameter("unit") == nil && given[entry] == nil
			if my.Rows != their.Rows && !cut || cut && their.Rows > 0 && my.Rows >= their.Rows &&
				fmt.Sprint(my.Totals) == fmt.Sprint(their.Totals) {
				t.Errorf("%s, %s: %d rows for her, %d of her district", entry, v.ID, my.Rows, their.Rows)
			}
		}
		ran++
	}
	if ran < 10 {
		t.Errorf("only %d reports were run", ran)
	}
}

func catalog(t *testing.T, c *client.ClientWithResponses) (ids []string) {
	t.Helper()
	r, err := c.GetCatalogWithResponse(t.Context(), nil)
	if err != nil || r.JSON200 == nil {
		t.Fatal(err)
	}
	for _, line := range r.JSON200.Reports {
		ids = append(ids, line.Id)
	}
	return ids
}
