package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"strings"
	"testing"
	"time"

	rooms "mantilla/library/catalog"

	"mantilla/api"
	"mantilla/demo/demotest"
)

// endless is a report whose query gives rows without end.
const endless = `report: endless
title: Endless
category: Test
depth: lines
about: Rows without end.
source: coop
datasets:
  rows:
    from: (with recursive n(i) as (select 1 union all select i + 1 from n) select i from n)
    columns: [{id: i, is: i, type: integer}]
views: {rows: {of: rows}}
`

func put(t *testing.T, s *demotest.Service, text string) {
	t.Helper()
	if _, err := s.Library.AsService().Catalog.PutReport(t.Context(), []byte(text), rooms.Put{Was: "*"}); err != nil {
		t.Fatal(err)
	}
}

func TestLimitsFailARun(t *testing.T) {
	s := demotest.Start(t)
	put(t, s, endless+"limits: {rows: 5_000}\n")
	if r := s.Run(t, "endless", nil); r.State != api.StateFailed ||
		!strings.Contains(*r.Reason, "more than 5000 rows, the limit") || r.Result != nil {
		t.Errorf("rows: %+v", r)
	}
	put(t, s, endless+"limits: {time: 50ms, rows: 4_000_000_000}\n")
	if r := s.Run(t, "endless", nil); r.State != api.StateFailed || !strings.Contains(*r.Reason, "longer than 50ms") ||
		r.Result != nil {
		t.Errorf("time: %+v", r)
	}
}

func TestProgressIsStreamedAndStopStops(t *testing.T) {
	s := demotest.Start(t)
	put(t, s, endless+"limits: {rows: 4_000_000_000}\n")
	asked, err := s.Client.StartRunWithResponse(t.Context(), nil, api.Ask{Report: "endless", Values: api.Values{}})
	if err != nil || asked.JSON201 == nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	stream, err := s.Client.WatchRun(ctx, asked.JSON201.Id)
	if err != nil || stream.Header.Get("Content-Type") != "text/event-stream" {
		t.Fatal(err)
	}
	defer stream.Body.Close()
	var last api.Run
	seen := int64(0)
	events := json.NewDecoder(dataOf(stream.Body))
	for events.Decode(&last) == nil {
		if last.Rows > 0 && seen == 0 {
			seen = last.Rows
			if r, err := s.Client.StopRunWithResponse(ctx, last.Id); err != nil || r.JSON200 == nil {
				t.Fatal(err)
			}
		}
	}
	if last.State != api.StateStopped || seen == 0 {
		t.Errorf("ended as %+v after %d rows were seen", last, seen)
	}
	if r, err := s.Client.ListResultsWithResponse(ctx, nil); err != nil || len(*r.JSON200) != 0 {
		t.Errorf("a stopped run left a result: %v %s", err, r.Body)
	}
}

// dataOf leaves of server-sent events only their data.
func dataOf(events io.Reader) io.Reader {
	r, w := io.Pipe()
	go func() {
		buffer := bytes.Buffer{}
		chunk := make([]byte, 4096)
		for {
			n, err := events.Read(chunk)
			buffer.Write(chunk[:n])
			for bytes.Contains(buffer.Bytes(), []byte("\n")) {
				line, _ := buffer.ReadString('\n')
				if data, ok := strings.CutPrefix(line, "data: "); ok {
					if _, err := io.WriteString(w, data); err != nil {
						return
					}
				}
			}
			if err != nil {
				w.CloseWithError(io.EOF)
				return
			}
		}
	}()
	return r
}
