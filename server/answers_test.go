package server_test

import (
	"bytes"
	"compress/gzip"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"mantilla/api"
	"mantilla/demo/demotest"
	"mantilla/server"
)

func TestETagsAndCompression(t *testing.T) {
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", nil)
	for _, path := range []string{"/reports/intake-lots", "/results/" + result,
		"/results/" + result + "/views/lots?sort=-value"} {
		get := func(tag string) *http.Response {
			request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.URL+"/api"+path, nil)
			if err != nil {
				t.Fatal(err)
			}
			request.Header.Set("If-None-Match", tag)
			request.Header.Set("Authorization", "Bearer "+s.Token)
			request.Header.Set("Accept-Encoding", "gzip")
			answer, err := http.DefaultTransport.RoundTrip(request)
			if err != nil {
				t.Fatal(err)
			}
			t.Cleanup(func() { answer.Body.Close() })
			return answer
		}
		first := get("")
		unpacked, err := gzip.NewReader(first.Body)
		if err != nil || first.Header.Get("Content-Encoding") != "gzip" {
			t.Fatalf("%s is not compressed: %v", path, err)
		}
		if body, err := io.ReadAll(unpacked); err != nil || !json.Valid(body) {
			t.Errorf("%s: %v", path, err)
		}
		tag := first.Header.Get("ETag")
		if again := get(tag); tag == "" || again.StatusCode != http.StatusNotModified {
			t.Errorf("%s: asked again with %s, got %d", path, tag, again.StatusCode)
		}
		if other := get(`"other"`); other.StatusCode != http.StatusOK {
			t.Errorf("%s: asked with another tag, got %d", path, other.StatusCode)
		}
	}
}

func TestFiles(t *testing.T) {
	s := demotest.Start(t)
	result := s.Result(t, "intake-lots", api.Values{"received": "2024"})
	sort, filter, columns := []string{"-net_kg"}, []string{"keeper~é"},
		[]string{"lot_no", "keeper", "received", "net_kg", "value"}
	get := func(format api.Format) (*http.Response, []byte) {
		r, err := s.Client.ExportView(t.Context(), result, "lots",
			&api.ExportViewParams{Format: format, Sort: &sort, Filter: &filter, Column: &columns})
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		body, err := io.ReadAll(r.Body)
		if err != nil || r.StatusCode != 200 {
			t.Fatalf("%v %d %s", err, r.StatusCode, body)
		}
		return r, body
	}
	sheet := s.Sheet(t, result, "lots",
		api.ReadViewParams{Sort: &sort, Filter: &filter, Column: &columns, Count: new(int)})
	answer, text := get(api.FormatCsv)
	rows, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
	if err != nil || len(rows) != sheet.Rows+1 || rows[0][3] != "Net weight, kg" || sheet.Rows < 100 {
		t.Errorf("CSV of %d rows for %d: %v", len(rows), sheet.Rows, err)
	}
	if name := answer.Header.Get("Content-Disposition"); name != fmt.Sprintf(
		`attachment; filename="intake-lots lots %s.csv"`, result) {
		t.Errorf("its name is %s", name)
	}
	_, book := get(api.FormatXlsx)
	file, err := excelize.OpenReader(bytes.NewReader(book))
	if err != nil {
		t.Fatal(err)
	}
	cells, err := file.GetRows("Lots", excelize.Options{RawCellValue: true})
	if err != nil || len(cells) != sheet.Rows+2 {
		t.Fatalf("XLSX of %d rows for %d: %v", len(cells), sheet.Rows, err)
	}
	for i := 1; i <= sheet.Rows; i++ { // the two files agree cell by cell
		if cells[i][0] != rows[i][0] || cells[i][1] != rows[i][1] ||
			strings.TrimRight(strings.TrimRight(rows[i][3], "0"), ".") != cells[i][3] {
			t.Fatalf("row %d: XLSX %q, CSV %q", i, cells[i], rows[i])
		}
	}
	if total := cells[sheet.Rows+1][3]; strings.TrimRight(strings.TrimRight(*sheet.Totals[3].Text, "0"), ".") != total {
		t.Errorf("the total is %s in the file, %s in the sheet", total, *sheet.Totals[3].Text)
	}
}

func TestConsoleIsServed(t *testing.T) {
	s := demotest.Start(t)
	for _, path := range []string{"/", "/reports/intake-lots", "/results/R-000001"} {
		r, err := http.Get(s.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(r.Body)
		r.Body.Close()
		if err != nil || r.StatusCode != 200 || !strings.Contains(string(body), `<div id="root">`) ||
			!strings.Contains(r.Header.Get("Content-Security-Policy"), "default-src 'self'") {
			t.Errorf("%s: %d %v", path, r.StatusCode, err)
		}
	}
}

// TestOtherSitesAreRefused sends what a browser would send for a page that is
// not the console.
func TestOtherSitesAreRefused(t *testing.T) {
	s := demotest.Start(t)
	for _, c := range []struct {
		method, host, site string
		want               int
	}{
		{"GET", "", "", http.StatusOK}, {"GET", "localhost:1", "", http.StatusOK}, {"GET", "[::1]:1", "", http.StatusOK},
		{"POST", "", "cross-site", http.StatusForbidden}, {"POST", "", "same-origin", http.StatusCreated},
	} {
		path := map[string]string{"GET": "/api/catalog", "POST": "/api/runs"}[c.method]
		request, err := http.NewRequestWithContext(t.Context(), c.method, s.URL+path,
			strings.NewReader(`{"report": "near-best-before", "values": {}}`))
		if err != nil {
			t.Fatal(err)
		}
		request.Header.Set("Content-Type", "application/json")
		request.Header.Set("Sec-Fetch-Site", c.site)
		request.Header.Set("Authorization", "Bearer "+s.Token)
		if c.host != "" {
			request.Host = c.host
		}
		answer, err := http.DefaultClient.Do(request)
		if err != nil {
			t.Fatal(err)
		}
		answer.Body.Close()
		if answer.StatusCode != c.want {
			t.Errorf("%+v: got %d", c, answer.StatusCode)
		}
	}
}

func TestListenIsForThisMachineOnly(t *testing.T) {
	for address, says := range map[string]string{"0.0.0.0:0": "give --tls-cert", "192.0.2.1:80": "give --tls-cert",
		"example.org:80": "give --tls-cert", ":8480": "give --tls-cert", "8480": "is not an address"} {
		if l, err := server.Listen(address, "", ""); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: got %v, %v", address, l, err)
		}
	}
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer taken.Close()
	if _, err := server.Listen(taken.Addr().String(), "", ""); err == nil ||
		!strings.Contains(err.Error(), "is taken by another program") {
		t.Errorf("a port that is taken: %v", err)
	}
}
