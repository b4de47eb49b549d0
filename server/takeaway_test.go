package server_test

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/demo/demotest"
)

// get fetches a path as somebody.
func get(t *testing.T, s *demotest.Service, path, token string) (*http.Response, []byte) {
	t.Helper()
	request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.URL+"/api"+path, nil)
	if err != nil {
		t.Fatal(err)
	}
	request.Header.Set("Authorization", "Bearer "+token)
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatal(err)
	}
	return answer, body
}

// file has a file written to its end and returns it.
func file(t *testing.T, s *demotest.Service, result, view string, take api.Take) api.Export {
	t.Helper()
	r, err := s.Client.StartExportWithResponse(t.Context(), result, view, nil, take)
	if err != nil || r.JSON201 == nil {
		t.Fatalf("%v %s", err, r.Body)
	}
	_, stream := get(t, s, "/exports/"+r.JSON201.Id+"/progress", s.Token) // ends with the file
	var last api.Export
	events := 0
	for lines := bufio.NewScanner(bytes.NewReader(stream)); lines.Scan(); {
		if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
			events++
			if err := json.Unmarshal([]byte(data), &last); err != nil {
				t.Fatal(err)
			}
		}
	}
	if events == 0 || last.State == api.StateRunning {
		t.Fatalf("the stream ended with %+v", last)
	}
	return last
}

func TestFilesAreWrittenInTheBackground(t *testing.T) {
	s := demotest.Start(t)
	lots := s.Result(t, "intake-lots", api.Values{"received": "2026-08"})
	name := "{title} {received} {nothing}"
	e := file(t, s, lots, "lots", api.Take{Format: "csv", Name: &name})
	if e.State != api.StateDone || e.Lines != 911 || e.Of != 911 || e.Name != "Intake lots received 1–31 August 2026.csv" {
		t.Errorf("%+v", e)
	}
	answer, body := get(t, s, "/exports/"+e.Id+"/file", s.Token)
	if answer.StatusCode != 200 || int64(len(body)) != e.Bytes || bytes.Count(body, []byte("\r\n")) != 912 ||
		answer.Header.Get("Content-Type") != "text/csv" ||
		!strings.Contains(answer.Header.Get("Content-Disposition"), "Intake%20lots") {
		t.Errorf("%s, %d bytes of %d, %v", answer.Status, len(body), e.Bytes, answer.Header)
	}
	// Nobody else fetches it.
	runa, _ := s.As(t, "runa")
	if answer, _ := get(t, s, "/exports/"+e.Id+"/file", runa); answer.StatusCode != http.StatusNotFound {
		t.Errorf("another fetched it: %s", answer.Status)
	}
	// What ends well is not stopped any more.
	if r, err := s.Client.StopExportWithResponse(t.Context(), e.Id); err != nil || r.JSON200 == nil ||
		r.JSON200.State != api.StateDone {
		t.Errorf("%v %s", err, r.Body)
	}
	// Several views of a format that holds one become an archive.
	also := []string{"lots.rows"}
	e = file(t, s, lots, "lots", api.Take{Format: "parquet", Also: &also})
	_, body = get(t, s, "/exports/"+e.Id+"/file", s.Token)
	archive, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	if err != nil || len(archive.File) != 2 || !strings.HasSuffix(e.Name, ".zip") {
		t.Errorf("%s: %v", e.Name, err)
	}
}

func TestWrongFilesAreRefusedBeforeTheyAreWritten(t *testing.T) {
	s := demotest.Start(t)
	lots := s.Result(t, "intake-lots", api.Values{"received": "2026-08"})
	comma, dash := api.TableFormDecimal("comma"), api.TableFormSeparator("dash")
	wide := float32(90)
	for want, take := range map[string]api.Take{
		"only charts can be taken": {Format: "png"},
		"a comma cannot be":        {Format: "csv", Table: &api.TableForm{Decimal: &comma}},
		"is none of":               {Format: "csv", Table: &api.TableForm{Separator: &dash}},
		"90 mm is not":             {Format: "pdf", Page: &api.PageForm{Margin: &wide}},
		"no import-ready file":     {Format: "import"},
	} {
		r, err := s.Client.StartExportWithResponse(t.Context(), lots, "lots", nil, take)
		if err != nil || r.JSON201 != nil || !strings.Contains(string(r.Body), want) {
			t.Errorf("want %q, got %v %s", want, err, r.Body)
		}
	}
}

func TestPreviewTurnsPages(t *testing.T) {
	s := demotest.Start(t)
	lots := s.Result(t, "intake-lots", api.Values{"received": "2026-08"})
	page := func(number int) (*api.Preview, string) {
		r, err := s.Client.PreviewPageWithResponse(t.Context(), lots, "lots", &api.PreviewPageParams{Number: &number},
			api.Take{Format: "pdf"})
		if err != nil {
			t.Fatal(err)
		}
		return r.JSON200, string(r.Body)
	}
	first, said := page(1)
	if first == nil || first.Of < 20 || !strings.Contains(first.Drawing, "L26-17306") {
		t.Fatal(said)
	}
	last, said := page(first.Of)
	if last == nil || !strings.Contains(last.Drawing, ">Total</text>") || strings.Contains(last.Drawing, "L26-17306") {
		t.Error(said)
	}
	if _, said := page(first.Of + 1); !strings.Contains(said, "the document has the pages 1 to") {
		t.Error(said)
	}
}

func TestDesksAreKeptAndShared(t *testing.T) {
	w := newWorld(t)
	_, dora := w.As(t, "dora")
	tile := api.Tile{Control: "kept", Step: 1, View: "stock", Show: "figure", Measure: new(string)}
	*tile.Measure = "count(*)"
	put := func(c *client.ClientWithResponses, kind, owner, revision string, tiles ...api.Tile) (int, string) {
		t.Helper()
		params := &api.PutDeskParams{}
		if revision != "" {
			params.IfMatch = &revision
		}
		r, err := c.PutDeskWithResponse(t.Context(), kind, owner, params, tiles)
		if err != nil {
			t.Fatal(err)
		}
		return r.StatusCode(), string(r.Body)
	}
	for _, c := range []struct {
		who                   *client.ClientWithResponses
		kind, owner, revision string
		tile                  func(*api.Tile)
		code                  int
		says                  string
	}{
		{w.runa, "person", "runa", "", func(*api.Tile) {}, 200, `"revision":1`},
		{w.runa, "person", "runa", "", func(*api.Tile) {}, 412, "changed meanwhile"},
		{w.runa, "person", "runa", "1", func(*api.Tile) {}, 200, `"revision":2`},
		{w.runa, "person", "dora", "", func(*api.Tile) {}, 403, "not yours"},
		{w.runa, "group", "field", "", func(*api.Tile) {}, 200, ""},
		{dora, "group", "accounts", "", func(*api.Tile) {}, 403, ""},
		{dora, "person", "dora", "", func(x *api.Tile) { x.Control = "none" }, 422, "there is no run control"},
		{dora, "person", "dora", "", func(x *api.Tile) { x.Step = 4 }, 422, "has the reports 1 to 1"},
		{dora, "person", "dora", "", func(x *api.Tile) { x.View = "stok" }, 422, "did you mean stock"},
		{dora, "person", "dora", "", func(x *api.Tile) { x.Show = "song" }, 400, "use figure, chart, table"},
		{dora, "person", "dora", "", func(x *api.Tile) { x.Measure = nil }, 422, "needs a measure"},
	} {
		own := tile
		c.tile(&own)
		if code, said := put(c.who, c.kind, c.owner, c.revision, own); code != c.code || !strings.Contains(said, c.says) {
			t.Errorf("%s %s %s: %d %s, want %d %q", c.kind, c.owner, c.revision, code, said, c.code, c.says)
		}
	}
	desks, err := dora.ListDesksWithResponse(t.Context())
	if err != nil || desks.JSON200 == nil || len(*desks.JSON200) != 2 || len((*desks.JSON200)[1].Tiles) != 1 {
		t.Fatalf("%v %s", err, desks.Body)
	}
	show := func(c *client.ClientWithResponses) api.TileNow {
		t.Helper()
		r, err := c.ShowTileWithResponse(t.Context(), tile)
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		return *r.JSON200
	}
	if now := show(w.runa); now.Result != nil {
		t.Errorf("before it ran: %+v", now)
	}
	for range 2 {
		r, err := w.runa.RunControlWithResponse(t.Context(), "kept", api.Overrides{Values: map[string]string{}})
		if err != nil || r.JSON201 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		for begun := time.Now(); ; time.Sleep(5 * time.Millisecond) {
			x, err := w.runa.GetRunWithResponse(t.Context(), (*r.JSON201)[0].Runs[0].Id)
			if err == nil && x.JSON200.State == api.StateDone {
				break
			}
			if time.Since(begun) > 20*time.Second {
				t.Fatal("it does not end")
			}
		}
	}
	now := show(w.runa)
	if now.Result == nil || now.Before == nil || *now.Figure != *now.Was || *now.Change != "0" || now.Rose != nil {
		t.Errorf("%+v", now)
	}
	if now := show(dora); now.Result != nil {
		t.Errorf("dora sees a result of all units: %+v", now)
	}
}
