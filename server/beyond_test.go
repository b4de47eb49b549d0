package server_test

import (
	"maps"
	"net/http"
	"slices"
	"strings"
	"testing"

	"mantilla/api"
)

// beyond is a word that stands in the names of keepers and staff of every district but Hollin, made for
// this test.
const beyond = "Zzyxbeyond"

// TestNoCallGivesRowsBeyondUnits makes every call of the contract as a person who sees one district: on
// a result of all districts, with what others kept of it, and on her own. In no answer stands a word of
// rows beyond hers; the same calls by who sees everything do give it, or the test would prove nothing.
func TestNoCallGivesRowsBeyondUnits(t *testing.T) {
	w := newWorld(t)
	for _, table := range []string{"keeper", "staff"} {
		w.Exec(t, "update "+table+" set name = '"+beyond+" ' || name where site_id not like 'UF-HOL-%'")
	}
	wide := shared(t, w)
	dora, hers := w.As(t, "dora")
	admin := w.Client
	w.Client = hers
	own := w.Result(t, "intake-lots", api.Values{})
	w.Client = admin
	runa, _ := w.As(t, "runa")
	methods, _ := operations(t)
	all := maps.Clone(calls)
	delete(all, "signOut")
	for id, c := range map[string]call{
		"showTile":        {"/tile", `{"control": "wide", "step": 1, "view": "lots", "show": "table"}`, reader, false},
		"getControl":      {"/controls/wide", "", reader, false},
		"listControlRuns": {"/controls/wide/runs", "", reader, false},
		"listCaptures":    {"/controls/wide/captures", "", reader, false},
		"readHistory":     {"/histories", `{"control": "wide"}`, runner, false},
		"getEntries":      {"/reports/intake-lots/parameters/keeper/entries?limit=1000", "", reader, false},
		"findText":        {"/results/{result}/views/lots/find?text=" + beyond, "", reader, false},
		"readRow":         {"/results/{result}/views/lots/row?number=3", "", reader, false},
		"openFigure":      {"/results/{result}/views/lots/figure?of=net_kg&group=grade", "", reader, false},
		"compare": {"/comparisons", `{"before": {"result": "{result}"}, "after": {"result": "{result}"}}`, runner,
			false},
		"listColumnValues": {"/results/{result}/views/lots/values?of=keeper", "", reader, false},
		"pickCells":        {"/results/{result}/views/lots/cells?count=1000&column_count=50", "", reader, false},
		"readOutline":      {"/results/{result}/views/lots/outline?group=keeper", "", reader, false},
	} {
		all["more: "+id] = c
		methods["more: "+id] = methods[id]
	}
	for _, result := range []string{wide, own} {
		w.fixed["result"] = result
		var gave []string
		for _, id := range slices.Sorted(maps.Keys(all)) {
			c := all[id]
			path, body := strings.ReplaceAll(w.filled(c.path), "{me}", "dora"), w.filled(c.body)
			if _, said := w.status(methods[id], path, body, dora); strings.Contains(said, beyond) {
				at := strings.Index(said, beyond)
				t.Errorf("%s of %s gives her rows of others: …%.200s", id, result, said[max(0, at-100):])
			}
			if methods[id] != http.MethodGet && c.who != reader {
				continue
			}
			if _, said := w.status(methods[id], path, body, runa); strings.Contains(said, beyond) {
				gave = append(gave, id)
			}
		}
		if result == wide && len(gave) < 10 {
			t.Errorf("only these calls give the word to who sees everything: %s", strings.Join(gave, ", "))
		}
	}
}

// shared has runa run a report of all districts by a control that everybody sees, show it on the desk of
// a group that both are in, and write of its rows; it returns the result.
func shared(t *testing.T, w *world) string {
	t.Helper()
	token, runa := w.As(t, "runa")
	for _, c := range []call{
		{path: "/controls/wide", body: `{"title": "Wide", "shared": "everyone", "steps": [{"report": "intake-lots"}],
			"outputs": [], "rows": 0, "seconds": 0, "hours": "", "empty": "keep", "keepDays": 0}`},
		{path: "/desks/group/field",
			body: `[{"control": "wide", "step": 1, "view": "lots", "show": "table", "title": "T"}]`},
	} {
		if got, said := w.status(http.MethodPut, c.path, c.body, token); got >= 300 {
			t.Fatalf("%s: %d %s", c.path, got, said)
		}
	}
	admin := w.Client
	w.Client = runa
	defer func() { w.Client = admin }()
	before := w.Result(t, "intake-lots", api.Values{})
	if got, said := w.status("POST", "/controls/wide/runs", `{"values": {}}`, token); got >= 300 {
		t.Fatal(got, said)
	}
	result := w.Result(t, "intake-lots", api.Values{}) // which is done after the control's
	if result == before {
		t.Fatal("no new result")
	}
	if got, said := w.status("POST", "/results/"+result+"/notes", `{"says": "see `+beyond+`"}`, token); got >= 300 {
		t.Fatal(got, said)
	}
	return result
}
