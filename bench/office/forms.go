package office

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/bench/measure"
	"mantilla/console"
	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/demo"
	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/model"
	"mantilla/server"
	"mantilla/store"
)

// many is how many criteria and run controls there are.
const many = 10_000

// Forms times what a person waits for while filling in: over HTTP on the demo
// data, with ten thousand criteria and controls and a hundred thousand
// entities.
func Forms(ctx context.Context, data string) error {
	fmt.Println("\nFilling in")
	measure.Row("form of 20 parameters, read, checked, resolved", fillTwenty(ctx))
	dir, err := os.MkdirTemp(data, "demo")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := errors.Join(demo.WriteData(ctx, dir), addKeepers(filepath.Join(dir, demo.SourceFile))); err != nil {
		return err
	}
	records, err := store.Open(ctx, dir, 64<<20)
	if err != nil {
		return err
	}
	defer records.Close()
	lib, err := library.Open(ctx, records, library.Settings{
		Organisation: model.Organisation{
			Zone:     time.UTC,
			Currency: "EUR",
			Now:      func() time.Time { return demo.Today.Time().Add(12 * time.Hour) },
		},
		Limits:  capture.Limits{Rows: 1 << 20, Time: time.Minute, Workers: 1},
		DataDir: dir,
	}, slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	defer lib.Close()
	if err := demo.Load(ctx, lib); err != nil {
		return err
	}
	if err := keepMany(ctx, records); err != nil {
		return err
	}
	secret, _, _, err := lib.Door().SignIn(ctx,
		access.Knock{Name: "runa", Password: demo.Password, Kind: "token", Label: "bench"})
	if err != nil {
		return err
	}
	handler, err := server.Handler(lib,
		server.Settings{Console: console.Files(), Version: "bench", Closing: make(chan struct{})},
		slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	web := httptest.NewServer(handler)
	defer web.Close()
	for _, c := range []struct{ name, path, body string }{
		{"search of 100,000 entities, first letters", "/reports/intake-lots/parameters/keeper/entries?search=ari", ""},
		{"search of 100,000 entities, two words", "/reports/intake-lots/parameters/keeper/entries?search=ling%2042", ""},
		{"form with all its lists, intake lots", "/reports/intake-lots/form", ""},
		{"form with all its lists, orders by grouping", "/reports/orders-by-grouping/form", ""},
		{"values resolved, intake lots", "/reports/intake-lots/resolve",
			`{"values": {"unit": "Hollin; Marr", "keeper": "K-1002"}}`},
		{"50 of 10,000 criteria, with what they come to", "/reports/intake-lots/criteria?limit=50", ""},
		{"10,000 criteria searched", "/reports/intake-lots/criteria?limit=50&search=number%20777", ""},
		{"100 of 10,000 run controls", "/controls?limit=100", ""},
		{"10,000 run controls searched", "/controls?search=777", ""},
	} {
		if err := timeCall(ctx, c.name, web.URL+"/api"+c.path, c.body, secret); err != nil {
			return err
		}
	}
	return nil
}

// timeCall prints the first answer and the median of the others.
func timeCall(ctx context.Context, name, url, body, token string) error {
	var all []float64
	for range 2 * measure.Times {
		t, err := measure.Took(func() error {
			method := map[bool]string{true: http.MethodGet, false: http.MethodPost}[body == ""]
			r, err := http.NewRequestWithContext(ctx, method, url, strings.NewReader(body))
			if err != nil {
				return err
			}
			r.Header.Set("Authorization", "Bearer "+token)
			r.Header.Set("Content-Type", "application/json")
			answer, err := http.DefaultClient.Do(r)
			if err != nil {
				return err
			}
			defer answer.Body.Close()
			if answer.StatusCode != http.StatusOK {
				return fmt.Errorf("%s: %s", url, answer.Status)
			}
			_, err = io.Copy(io.Discard, answer.Body)
			return err
		})
		if err != nil {
			return err
		}
		all = append(all, t)
	}
	fmt.Printf("  %-46s %9.1f ms  (first %.1f ms)\n", name, measure.Median(all[1:]), all[0])
	return nil
}

// addKeepers adds keepers up to a hundred thousand.
func addKeepers(path string) error {
	c, err := sqlite3.Open(path)
	if err != nil {
		return err
	}
	err = c.Exec(`with recursive n(i) as (select 1 union all select i + 1 from n where i < 100000)
		insert into keeper (no, name, site_id, joined_on, state, bank_on_file)
		select 'N-' || i, 'Ärin Lingby ' || (i * 7919 % 100000), 'UF-HOL-0' || (1 + i % 2), '2020-01-01', 'member', 1 from n`)
	return errors.Join(err, c.Close())
}

func keepMany(ctx context.Context, s *store.Store) error {
	for i := range many {
		c := model.Criteria{
			Report:    "intake-lots",
			Name:      fmt.Sprintf("Number %05d", i),
			Owner:     "runa",
			Typed:     map[string]string{"received": "last month", "unit": "UF-HOL"},
			ChangedAt: time.Now(),
		}
		if _, err := s.Criteria().AddCriteria(ctx, c); err != nil {
			return err
		}
		k := model.Control{
			ID:        fmt.Sprintf("control-%05d", i),
			Title:     fmt.Sprintf("Control %05d", i),
			Owner:     "runa",
			Body:      []byte(`{"steps": [{"report": "intake-lots"}], "outputs": ["kept"], "empty": "keep"}`),
			ChangedAt: time.Now(),
		}
		if err := s.Controls().PutControl(ctx, k); err != nil {
			return err
		}
	}
	return nil
}

// fillTwenty resolves one form of twenty parameters of every type, and returns
// the milliseconds that it takes.
func fillTwenty(ctx context.Context) float64 {
	var text strings.Builder
	text.WriteString("report: twenty\ntitle: Twenty\ncategory: Bench\ndepth: lines\nabout: Many parameters.\nsource: " +
		"made\nparameters:\n")
	typed := map[string]string{}
	used := ""
	for i, kind := range []string{"text", "integer", "{decimal, scale: 2}", "money", "flag", "date", "range",
		"{ranges, time: true}", "{period, grain: month}", "{choice, many: true, options: [a, b, c, d]}",
		"{horizon, measure: months}", "newest", "text", "integer", "{decimal, scale: 3}", "flag", "date",
		"{range, compare: true}", "{choice, options: [a, b]}", "{range, time: true}"} {
		kind = strings.Trim(kind, "{}")
		name, rest, _ := strings.Cut(kind, ",")
		if rest != "" {
			rest = "," + rest
		}
		id := fmt.Sprintf("p%d", i)
		fmt.Fprintf(&text, "  - {id: %s, type: %s%s}\n", id, name, rest)
		typed[id] = map[string]string{"text": "some text", "integer": "12", "decimal": "12.50", "money": "99.95",
			"flag": "yes", "date": "month end", "range": "last month", "ranges": "2026-09-01 06:00/12:00; 2026-09-02",
			"period": "last quarter", "choice": "a", "horizon": "12 months", "newest": "25"}[name]
		switch name {
		case "range", "ranges", "period":
			used += " and :" + id + ".start is not null"
		case "choice":
			used += " and 'a' in :" + id
		case "newest":
			used += " and :" + id + " > 0"
		default:
			used += " and :" + id + " is not null"
		}
	}
	typed["p17"] += " against year before and previous period"
	fmt.Fprintf(&text, "datasets:\n  rows:\n    from: rows\n    where: \"1%s\"\n    columns: [{id: a, is: a, type: "+
		"text}]\nviews: {rows: {of: rows}}\n", used)
	d, faults := definition.Parse([]byte(text.String()), definition.Defaults{Currency: "EUR"})
	if faults != nil {
		panic(faults)
	}
	setting := param.Setting{Calendar: period.At(time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC), time.UTC, 0)}
	result := testing.Benchmark(func(b *testing.B) {
		for b.Loop() {
			if _, faults, err := param.Resolve(ctx, d.Parameters, typed, setting); err != nil || faults != nil {
				b.Fatal(err, faults)
			}
		}
	})
	return float64(result.NsPerOp()) / 1e6
}
