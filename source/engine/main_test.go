package engine_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/demo/pgserver"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/postgres"
	"mantilla/source/sourcetest"
)

// own is the server that the tests of this package have.
var own *pgserver.Server

func TestMain(m *testing.M) { os.Exit(withServer(m)) }

func withServer(m *testing.M) int {
	dir, err := os.MkdirTemp("", "mantilla-engine")
	if err == nil {
		defer os.RemoveAll(dir)
		own, err = pgserver.Start(context.Background(), dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "a PostgreSQL server is needed:", err)
		return 1
	}
	defer own.Stop()
	return m.Run()
}

// accounts are one that reads and one that keeps results.
const accounts = `
do $$ begin
	if not exists (select 1 from pg_roles where rolname = 'reports') then
		create role reports login password 'secret';
		create role keeper login password 'secret';
	end if;
end $$;
create schema results authorization keeper;
grant usage on schema public to reports, keeper;
grant select on all tables in schema public to reports, keeper;
`

// opened makes a database with what statements make in it, and opens it as a source that keeps
// results.
func opened(t *testing.T, name, statements string) *postgres.Server {
	t.Helper()
	if err := own.NewDatabase(t.Context(), name); err != nil {
		t.Fatal(err)
	}
	if err := own.Exec(t.Context(), name, statements+accounts); err != nil {
		t.Fatal(err)
	}
	c := &source.Config{ID: "there", Kind: "postgres", Server: &source.Server{Host: "127.0.0.1", Port: uint16(own.Port),
		Database: name, User: "reports", Password: "there", TLS: "off"},
		Keeps: &source.Keeps{Schema: "results", User: "keeper", Password: "there"}}
	s, err := postgres.Open(c, func(string) (string, error) { return "secret", nil })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

const rowsReport = `report: made
title: Made
category: Made
depth: lines
about: Made rows.
source: there
datasets:
  made:
    from: made
    key: no
    columns:
      - {id: no, is: no, type: integer}
      - {id: region, is: region, type: text}
      - {id: name, is: name, type: text}
      - {id: word, is: word, type: text}
      - {id: day, is: day, type: date}
      - {id: n, is: n, type: integer}
      - {id: kg, is: kg, type: decimal, scale: 3, stored: decimal}
      - {id: pay, is: pay, type: money, stored: decimal}
      - {id: at, is: at, type: timestamp}
      - {id: ok, is: ok, type: flag}
views: {made: {of: made}}
`

var (
	regions = []string{"North", "north", "Ëast", "east", "Øst", "Ost", "Straße", "STRASSE", ""}
	words   = []string{"茶", "ça", "Ça va", "zebra", "Ωmega", "ωmega", "Жук", "жук", "🐝", "a\tb", `back\slash "q" 'q'`}
)

// script makes rows whose values are drawn.
func script(rows int) string {
	r := rand.New(rand.NewPCG(3, 4))
	var b strings.Builder
	b.WriteString(`create table made (no bigint, region text, name text, word text, day date, n bigint, kg numeric(15, 3),
		pay numeric(18, 2), at timestamptz, ok boolean);
		insert into made values `)
	null := func(value string) string {
		if r.IntN(9) == 0 {
			return "null"
		}
		return value
	}
	text := func(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }
	for i := range rows {
		if i > 0 {
			b.WriteString(",\n")
		}
		fmt.Fprintf(&b, "(%d, %s, %s, %s, %s, %s, %s, %s, %s, %s)", i, null(text(regions[r.IntN(len(regions))])),
			null(text(fmt.Sprintf("Name %c%d", 'A'+rune(r.IntN(50)), r.IntN(40)))), null(text(words[r.IntN(len(words))])),
			null(fmt.Sprintf("date '1969-11-20' + %d", r.IntN(400))), null(fmt.Sprint(r.IntN(13)-6)),
			null(fmt.Sprintf("%d.%03d", r.IntN(2000)-1000, r.IntN(1000))),
			null(fmt.Sprintf("%d.%02d", (r.IntN(3)-1)*r.IntN(9_999_999_999_999), r.IntN(100))),
			null(fmt.Sprintf("timestamptz '1969-12-30 22:00:00.123456Z' + interval '%d minutes'", r.IntN(6000))),
			null(fmt.Sprint(r.IntN(2) == 0)))
	}
	return b.String() + ";\n"
}

// memory keeps what is dear to find.
type memory struct{ known map[string]table.Sized }

// Get returns what is known, or makes it.
func (m *memory) Get(key string, make func() (table.Sized, error)) (table.Sized, error) {
	if v, ok := m.known[key]; ok {
		return v, nil
	}
	v, err := make()
	if err == nil {
		if m.known == nil {
			m.known = map[string]table.Sized{}
		}
		m.known[key] = v
	}
	return v, err
}

// both are the same rows as they are kept here, and as they stay in the engine.
func both(t *testing.T, s *postgres.Server, text string) (here, there table.Table, stay model.Stay) {
	t.Helper()
	q := sourcetest.Query(t, s, text)
	v, err := s.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	schema := report.SchemaOf(q.Dataset.Read())
	var records []arrow.RecordBatch
	sink := source.NewSink(schema, 700, func(r arrow.RecordBatch) error { records = append(records, r); return nil },
		func(int64) error { return nil })
	if err := v.Read(t.Context(), q, sink); err != nil {
		t.Fatal(err)
	}
	if err := sink.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(schema, records...)
	if err != nil {
		t.Fatal(err)
	}
	stay, rows, err := v.(source.Keeper).Keep(t.Context(), q, source.Keeping{Service: "test", Table: "run_1_1", Most: 1e9})
	if err != nil {
		t.Fatal(err)
	}
	if int(rows) != f.Rows() {
		t.Fatalf("%d rows stay, and %d are read", rows, f.Rows())
	}
	return kept.Of(f, table.Fresh{}), s.Engine().Table(stay, rows, schema, &memory{}), stay
}
