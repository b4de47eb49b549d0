package demo_test

import (
	"bytes"
	"encoding/csv"
	"net/http"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/demo/servers"
	"mantilla/library/drafting"
)

// TestEveryReportIsTheSameOnEveryServer runs every report in every way on SQLite, then on servers
// that have the same records, and compares the rows of all datasets.
func TestEveryReportIsTheSameOnEveryServer(t *testing.T) {
	s := demotest.Start(t)
	reports, err := s.Client.GetCatalogWithResponse(t.Context(), nil)
	if err != nil || reports.JSON200 == nil {
		t.Fatal(err)
	}
	var all []ran
	for _, r := range reports.JSON200.Reports {
		for _, values := range waysOf(r.Id) {
			if r.Id == "lot-changes" { // whose own values begin where the last run ended
				values = api.Values{"changed": "2026-09"}
			}
			all = append(all, ran{report: r.Id, values: values, rows: rowsOf(t, s, s.Result(t, r.Id, values))})
		}
	}
	draft, err := s.Library.AsService().Drafting.Begin(t.Context(), drafting.Beginning{Copy: "long-service"})
	if err != nil {
		t.Fatal(err)
	}
	tried := ran{report: draft.ReportID()} // drafts are read anew for another server too
	tried.rows = rowsOf(t, s, s.Result(t, tried.report, nil))
	all = append(all, tried)
	for _, kind := range servers.Kinds() {
		t.Run(kind, func(t *testing.T) {
			there, err := servers.Start(t.Context(), kind, t.TempDir(), filepath.Join(s.Dir, demo.SourceFile))
			if err != nil {
				t.Fatal(err)
			}
			t.Cleanup(func() { there.Stop() })
			if err := there.Declare(t.Context(), s.Library.AsService()); err != nil {
				t.Fatal(err)
			}
			for _, r := range all {
				r.compare(t, s)
			}
			for _, r := range reports.JSON200.Reports { // in all ways that its pieces can be switched
				d, err := s.Library.AsService().Catalog.Report(r.Id)
				if err == nil {
					_, err = s.Library.AsService().Catalog.CheckReport(t.Context(), []byte(d.Text))
				}
				if err != nil {
					t.Errorf("%s is not accepted: %v", r.Id, err)
				}
			}
		})
	}
}

// ran is a run on SQLite: the rows of each dataset, as a file has them.
type ran struct {
	report string
	values api.Values
	rows   map[string][]string
}

func (r ran) compare(t *testing.T, s *demotest.Service) {
	run := s.Run(t, r.report, r.values)
	if run.Result == nil {
		t.Errorf("%s %v ended as %s: %s", r.report, r.values, run.State, *run.Reason)
		return
	}
	got := rowsOf(t, s, *run.Result)
	for dataset, want := range r.rows {
		if !slices.Equal(got[dataset], want) {
			at := 0
			for at < min(len(want), len(got[dataset])) && want[at] == got[dataset][at] {
				at++
			}
			t.Errorf("%s %v, dataset %s: %d rows instead of %d; the first that differs is\n%q instead of\n%q", r.report,
				r.values, dataset, len(got[dataset]), len(want), next(got[dataset], at), next(want, at))
		}
	}
}

func next(rows []string, at int) string {
	if at < len(rows) {
		return rows[at]
	}
	return "(no row)"
}

// rowsOf are the rows of each dataset of a result, in one order.
func rowsOf(t *testing.T, s *demotest.Service, result string) map[string][]string {
	t.Helper()
	out := map[string][]string{}
	for _, dataset := range datasetsOf(t, s, result) {
		file, err := s.Client.ExportViewWithResponse(t.Context(), result, dataset+".rows",
			&api.ExportViewParams{Format: "csv"})
		if err != nil || file.StatusCode() != http.StatusOK {
			t.Fatalf("%s of %s: %v %s", dataset, result, err, file.Body)
		}
		rows, err := csv.NewReader(bytes.NewReader(file.Body)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		var lines []string
		for _, row := range rows {
			lines = append(lines, strings.Join(row, "|"))
		}
		slices.Sort(lines)
		out[dataset] = lines
	}
	return out
}
