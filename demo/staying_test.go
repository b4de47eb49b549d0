package demo_test

import (
	"net/http"
	"path/filepath"
	"testing"

	"go.yaml.in/yaml/v3"

	"mantilla/api"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/demo/servers"
	"mantilla/library/catalog"
)

// TestEveryReportReadsTheSameWhereItsRowsStay runs every report on PostgreSQL with rows that are kept
// here, and again with all rows that can stay in the engine, and compares every view as a file.
func TestEveryReportReadsTheSameWhereItsRowsStay(t *testing.T) {
	s := demotest.Start(t)
	there, err := servers.Start(t.Context(), "postgres", t.TempDir(), filepath.Join(s.Dir, demo.SourceFile))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { there.Stop() })
	if err := there.Declare(t.Context(), s.Library.AsService()); err != nil {
		t.Fatal(err)
	}
	reports, err := s.Client.GetCatalogWithResponse(t.Context(), nil)
	if err != nil || reports.JSON200 == nil {
		t.Fatal(err)
	}
	stayed := 0
	for _, r := range reports.JSON200.Reports {
		var here []map[string]string
		for _, values := range waysOf(r.Id)[:1] {
			here = append(here, viewsOf(t, s, s.Result(t, r.Id, chosen(r.Id, values))))
		}
		d, err := s.Library.AsService().Catalog.Report(r.Id)
		if err != nil {
			t.Fatal(err)
		}
		changed, n := staying(t, []byte(d.Text))
		if n == 0 {
			continue
		}
		stayed += n
		if _, err := s.Library.AsService().Catalog.PutReport(t.Context(), changed, catalog.Put{Was: "*"}); err != nil {
			t.Errorf("%s: %v", r.Id, err)
			continue
		}
		for way, values := range waysOf(r.Id)[:1] {
			run := s.Run(t, r.Id, chosen(r.Id, values))
			if run.Result == nil {
				t.Errorf("%s ended as %s: %s", r.Id, run.State, *run.Reason)
				continue
			}
			for view, file := range viewsOf(t, s, *run.Result) {
				if file != here[way][view] {
					t.Errorf("%s %v, view %s is\n%.1500s\ninstead of\n%.1500s", r.Id, values, view, file, here[way][view])
				}
			}
		}
	}
	if stayed < 40 {
		t.Errorf("only %d datasets could stay", stayed)
	}
}

// chosen are the values of a way: of a report whose own begin where the last run ended, a month.
func chosen(report string, values api.Values) api.Values {
	if report == "lot-changes" {
		return api.Values{"changed": "2026-09"}
	}
	return values
}

// viewsOf are all views of a result as files of comma-separated values, with all rows of its datasets.
func viewsOf(t *testing.T, s *demotest.Service, result string) map[string]string {
	t.Helper()
	told, err := s.Client.GetResultWithResponse(t.Context(), result)
	if err != nil || told.JSON200 == nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	views := []string{}
	for _, v := range told.JSON200.Views {
		views = append(views, v.Id)
	}
	for _, dataset := range datasetsOf(t, s, result) {
		views = append(views, dataset+".rows")
	}
	for _, view := range views {
		file, err := s.Client.ExportViewWithResponse(t.Context(), result, view, &api.ExportViewParams{Format: "csv"})
		if err != nil {
			t.Fatal(err)
		}
		out[view] = string(file.Body)
		if file.StatusCode() != http.StatusOK {
			out[view] = "it cannot be read: " + out[view]
		}
	}
	return out
}

// staying lets the rows of all datasets of a definition stay in the engine that may, and tells how
// many those are.
func staying(t *testing.T, text []byte) (changed []byte, n int) {
	t.Helper()
	var whole yaml.Node
	if err := yaml.Unmarshal(text, &whole); err != nil {
		t.Fatal(err)
	}
	datasets := valueOf(whole.Content[0], "datasets")
	for i := 1; i < len(datasets.Content); i += 2 {
		d := datasets.Content[i]
		entered := false
		for _, column := range valueOf(d, "columns").Content {
			entered = entered || valueOf(column, "entry") != nil
		}
		if entered || valueOf(d, "compare") != nil {
			continue
		}
		for at := 0; at < len(d.Content); at += 2 {
			if d.Content[at].Value == "keep" {
				d.Content = append(d.Content[:at], d.Content[at+2:]...)
				break
			}
		}
		var keep yaml.Node
		if err := yaml.Unmarshal([]byte("keep: {in: engine}"), &keep); err != nil {
			t.Fatal(err)
		}
		d.Content = append(d.Content, keep.Content[0].Content...)
		n++
	}
	changed, err := yaml.Marshal(&whole)
	if err != nil {
		t.Fatal(err)
	}
	return changed, n
}

// valueOf is what a key of a mapping has; nil for nothing.
func valueOf(n *yaml.Node, key string) *yaml.Node {
	for i := 0; n != nil && i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return n.Content[i+1]
		}
	}
	return nil
}
