// Package office measures an organisation of many reports, people's criteria and run
// controls: what librarians, authors and people who fill in wait for.
package office

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/ncruces/go-sqlite3/driver"

	"mantilla/demo"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/drafting"
	"mantilla/model"
	"mantilla/server"
	"mantilla/store"
)

// cacheBytes is the budget of decoded rows.
const cacheBytes = 512 << 20

// A catalog of an organisation that has kept reports for twenty years.
const (
	officeReports = 10_000
	officeRuns    = 1_000_000
)

// Catalog measures what librarians and authors wait for: the catalog of ten thousand
// reports searched, its health by a million runs, a definition of five hundred lines
// checked as one types, and the first rows of a draft.
func Catalog(ctx context.Context, data string) error {
	fmt.Printf("\nThe library office: %d reports, %d runs\n", officeReports, officeRuns)
	dir, err := os.MkdirTemp(data, "office")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := errors.Join(demo.WriteData(ctx, dir), fillOffice(ctx, dir)); err != nil {
		return err
	}
	records, err := store.Open(ctx, dir, cacheBytes)
	if err != nil {
		return err
	}
	now := demo.Today.Time().Add(12 * time.Hour)
	l, err := library.Open(ctx, records, library.Settings{
		Organisation: model.Organisation{Name: "Bench", Zone: time.UTC, Currency: "EUR",
			Now: func() time.Time { return now }},
		Limits:  capture.Limits{Rows: 1_000_000, Time: time.Minute, Workers: 1},
		DataDir: dir,
	}, slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	defer func() { _ = errors.Join(l.Close(), records.Close()) }()
	if err := demo.Load(ctx, l); err != nil {
		return err
	}
	lila, err := l.AsPerson(ctx, "lila")
	if err != nil {
		return err
	}
	return measureOffice(ctx, l, lila)
}

// fillOffice writes reports and runs straight into the records: through the rooms it
// would take an hour.
func fillOffice(ctx context.Context, dir string) error {
	records, err := store.Open(ctx, dir, 1<<20)
	if err == nil {
		err = records.Close()
	}
	if err != nil {
		return err
	}
	db, err := driver.Open("file:" + filepath.Join(dir, store.RecordsFile))
	if err != nil {
		return err
	}
	defer db.Close()
	tx, err := db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	for i := range officeReports {
		if err := officeReport(ctx, tx, i); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx, `with recursive n(i) as (select 1 union all select i + 1 from n where i < ?1)
		insert into run (report, title, version, state, typed, facts, sentence, asked_by, asked_at, started_at, ended_at,
			rows, after_crash)
		select printf('report-%05d', i % ?2), '', 'v', iif(i % 97 = 0, 'failed', 'done'), '{}', '[]', '', 'runa', at, at,
			strftime('%Y-%m-%dT%H:%M:%fZ', at, '+' || (1 + i % 7) || ' seconds'), i % 5000, 'fail'
		from (select i, strftime('%Y-%m-%dT%H:%M:%fZ', '2026-10-15T12:00:00', '-' || ((?1 - i) * 40) || ' seconds') as at
			from n)`, officeRuns, officeReports)
	return errors.Join(err, tx.Commit())
}

func officeReport(ctx context.Context, tx *sql.Tx, i int) error {
	id := fmt.Sprintf("report-%05d", i)
	title := word(i%700) + " of " + word(1000+i%400)
	text := fmt.Sprintf(`report: %s
title: %s
category: Category %d
depth: lines
about: What was taken in of %s by %s in the month.
guide: Choose the days.
source: coop
parameters: [{id: days, type: range}]
datasets:
  lots:
    from: lot
    where: [{is: lot.received_on, within: days}]
    scope: lot.site_id
    columns:
      - {id: lot_no, is: lot.lot_no, type: text}
      - {id: weight, label: %s, is: lot.net_g, type: integer, total: sum}
views: {lots: {of: lots}}
`, id, title, i%30, word(2000+i%90), word(3000+i%3000), word(7000+i%500))
	for _, insert := range []struct {
		text string
		args []any
	}{
		{`insert into report (id, title, category, version) values (?, ?, ?, 'v')`, []any{id, title, "Bench"}},
		{`insert into report_version (report, version, text, at) values (?, 'v', ?, '2026-01-01T00:00:00.000Z')`,
			[]any{id, text}},
		{`insert into report_change (report, number, version, at) values (?, 1, 'v', '2026-01-01T00:00:00.000Z')`,
			[]any{id}},
		{`insert into opening (report, kind, name) values (?, 'everyone', '')`, []any{id}},
	} {
		if _, err := tx.ExecContext(ctx, insert.text, insert.args...); err != nil {
			return err
		}
	}
	return nil
}

// word is a made word of four syllables, another for every number.
func word(n int) string {
	syllables := []string{"ba", "cor", "den", "fi", "gol", "han", "jes", "kum", "lar", "mon", "ner", "pol", "qui", "ras",
		"sil", "tor", "vun", "wes", "yar"}
	n *= 7919 // neighbours are unlike each other
	text := ""
	for range 4 {
		text += syllables[n%len(syllables)]
		n /= len(syllables)
	}
	return text
}

// timed runs something several times and tells the median.
func timed(what string, aim time.Duration, do func() error) error {
	var took []time.Duration
	for range 7 {
		begun := time.Now()
		if err := do(); err != nil {
			return fmt.Errorf("%s: %w", what, err)
		}
		took = append(took, time.Since(begun))
	}
	slices.Sort(took)
	median := took[len(took)/2]
	fmt.Printf("  %-52s %8.1f ms   %5.2f of the aim (%s)\n", what, float64(median.Microseconds())/1000,
		float64(median)/float64(aim), aim)
	return nil
}

func measureOffice(ctx context.Context, l *library.Library, lila *library.Access) error {
	sought := strings.Replace(word(1105), "a", "", 1) + " " + word(105) // with a slip
	search := func() error {
		entries, _, err := lila.Catalog.Catalog(ctx, sought, "")
		if err == nil && len(entries) == 0 {
			err = errors.New("nothing was found")
		}
		return err
	}
	if err := search(); err != nil { // makes the index
		return err
	}
	d, err := lila.Drafting.Begin(ctx, drafting.Beginning{Title: "Lots", Source: "coop", Table: "lot"})
	if err != nil {
		return err
	}
	long := longDefinition(d.Text)
	return errors.Join(
		timed("search the catalog", 10*time.Millisecond, search),
		overHTTP(ctx, l, sought),
		timed("its health", time.Second, func() error {
			_, err := lila.Health.Problems(ctx, 180*24*time.Hour)
			return err
		}),
		timed(fmt.Sprintf("check %d lines as one types", strings.Count(long, "\n")), 50*time.Millisecond, func() error {
			_, err := lila.Drafting.Find(ctx, []byte(long), false)
			return err
		}),
		timed("check them with the source", time.Second, func() error {
			_, err := lila.Drafting.Find(ctx, []byte(long), true)
			return err
		}),
		timed("the first rows of a draft", time.Second, func() error {
			_, err := lila.Drafting.Preview(ctx, d.Number, "", map[string]string{"received": "2026-Q3"})
			return err
		}),
	)
}

// longDefinition has five hundred lines: computed columns, each of the one before it.
func longDefinition(text string) string {
	head, tail, _ := strings.Cut(text, "views:")
	var b strings.Builder
	b.WriteString(head)
	before := "net_g"
	for i := range 470 {
		fmt.Fprintf(&b, "      - {id: more_%d, type: integer, formula: %s + 1}\n", i, before)
		before = fmt.Sprintf("more_%d", i)
	}
	return b.String() + "views:" + tail
}

// overHTTP searches the catalog as the console does.
func overHTTP(ctx context.Context, l *library.Library, sought string) error {
	handler, err := server.Handler(l, server.Settings{Version: "bench"}, slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	s := httptest.NewServer(handler)
	defer s.Close()
	call := func(method, path, token, body string) (string, error) {
		r, err := http.NewRequestWithContext(ctx, method, s.URL+"/api"+path, bytes.NewBufferString(body))
		if err != nil {
			return "", err
		}
		r.Header.Set("Content-Type", "application/json")
		if token != "" {
			r.Header.Set("Authorization", "Bearer "+token)
		}
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			return "", err
		}
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		if err == nil && answer.StatusCode >= 300 {
			err = fmt.Errorf("%s: %.200s", answer.Status, text)
		}
		return string(text), err
	}
	text, err := call(http.MethodPost, "/tokens", "", fmt.Sprintf(`{"name": "lila", "password": %q}`, demo.Password))
	if err != nil {
		return err
	}
	_, rest, _ := strings.Cut(text, `"token":"`)
	token, _, _ := strings.Cut(rest, `"`)
	return timed("search it over HTTP", 50*time.Millisecond, func() error {
		_, err := call(http.MethodGet, "/catalog?search="+url.QueryEscape(sought), token, "")
		return err
	})
}
