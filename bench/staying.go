package main

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"path/filepath"
	"runtime"
	"strings"

	"github.com/jackc/pgx/v5"

	"mantilla/bench/measure"
	"mantilla/demo/pgserver"
	"mantilla/library/catalog"
)

// inEngine makes a table of so many rows by six columns, and the accounts that read it and that
// keep results.
const inEngine = `
	create table if not exists many_rows as select i as id, 'region-' || (hashint8(i) & 3) as region,
		date '2023-01-01' + ((hashint8(i * 7) & 65535) * 1300 / 65536) as day, (hashint8(i * 11) & 63)::int as pieces,
		((hashint8(i * 13) & 16777215)::numeric / 100)::numeric(14, 2) as amount, (hashint8(i * 17) & 1048575)::int as weight
		from generate_series(1, %d) i;
	do $$ begin
		if not exists (select 1 from pg_roles where rolname = 'keeper') then
			create role reports login password 'only-reads';
			create role keeper login password 'only-reads';
			create schema results authorization keeper;
		end if;
	end $$;
	grant select on many_rows to reports, keeper;
	analyze many_rows;`

const stayingReport = `report: made
title: Made rows
category: Bench
depth: lines
about: Rows made for measuring.
source: there
datasets:
  rows:
    from: many_rows
    key: id
    keep: {in: engine}
    columns:
      - {id: id, is: id, type: integer}
      - {id: region, is: region, type: text}
      - {id: day, is: day, type: date}
      - {id: pieces, is: pieces, type: integer, total: sum}
      - {id: amount, is: amount, type: decimal, scale: 2, stored: decimal, total: sum}
      - {id: weight, is: weight, type: decimal, scale: 3, total: sum}
views: {rows: {of: rows}}
`

// askedThere is what is asked of rows that stay, and the engine's own way to it.
var askedThere = []struct {
	name string
	ask  url.Values
	own  string
}{
	{"first page", url.Values{"count": {"100"}}, "select * from TABLE where n < 100 order by n"},
	{"page from the middle", url.Values{"first": {"MIDDLE"}, "count": {"100"}},
		"select * from TABLE where n >= MIDDLE and n < MIDDLE + 100 order by n"},
	{"first 100 sorted", url.Values{"sort": {"-amount"}, "count": {"100"}},
		"select * from TABLE order by c4 desc nulls last, n limit 100"},
	{"groups with three sums", url.Values{"group": {"region"}, "column": {"pieces", "amount", "weight"}},
		"select c1, count(*), sum(c3), sum(c4), sum(c5) from TABLE group by c1"},
	{"month by region", url.Values{"group": {"month(day)", "region"}, "column": {"pieces", "amount", "weight"}},
		"select date_trunc('month', date '1970-01-01' + c2::int), c1, count(*), sum(c3), sum(c4), sum(c5) from TABLE group " +
			"by 1, 2"},
	{"filter on a text", url.Values{"filter": {"region=region-1"}, "count": {"100"}},
		"select *, count(*) over () from TABLE where c1 = 'region-1' order by n limit 100"},
}

// stays measures results whose rows stay in PostgreSQL, over HTTP beside the engine's own queries.
func stays(ctx context.Context, millions int) error {
	own, err := pgserver.Start(ctx, filepath.Join(*dataDir, fmt.Sprintf("postgres-%dm", millions)))
	if err != nil {
		return err
	}
	return errors.Join(staysIn(ctx, own, millions), own.Stop())
}

func staysIn(ctx context.Context, own *pgserver.Server, millions int) error {
	fmt.Printf("\n%d,000,000 rows by 6 columns that stay in PostgreSQL\n", millions)
	if err := own.NewDatabase(ctx, "rows"); err != nil {
		return err
	}
	if err := own.Exec(ctx, "rows", fmt.Sprintf(inEngine, millions*1_000_000)); err != nil {
		return err
	}
	b, err := open(ctx, 1)
	if err != nil {
		return err
	}
	defer b.close()
	service := b.library.AsService()
	declared := fmt.Sprintf("source: there\nkind: postgres\nserver: {host: 127.0.0.1, port: %d, database: rows, user: "+
		"reports, "+
		"password: reports, tls: off}\nkeeps: {schema: results, user: keeper, password: reports}\n", own.Port)
	err = service.Secrets.Put(ctx, "reports", "only-reads")
	if err == nil {
		err = service.Catalog.PutSource(ctx, "there", []byte(declared))
	}
	if err == nil {
		_, err = service.Catalog.PutReport(ctx, []byte(stayingReport), catalog.Put{Was: "*"})
	}
	if err != nil {
		return err
	}
	t, err := measure.Took(func() error { return b.captureOnce(ctx) })
	if err != nil {
		return err
	}
	measure.Row("kept and sealed there", t)
	return b.askThere(ctx, own, millions)
}

// askThere asks as a reader does, and then the engine itself.
func (b *bench) askThere(ctx context.Context, own *pgserver.Server, millions int) error {
	address, token, end, err := b.serve(ctx)
	if err != nil {
		return err
	}
	defer end()
	conn, err := own.Connect(ctx, "rows")
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }() // it only reads
	var table string
	if err := conn.QueryRow(ctx,
		"select 'results.' || tablename from pg_tables where schemaname = 'results' order by 1 desc").
		Scan(&table); err != nil {
		return err
	}
	fill := strings.NewReplacer("TABLE", table, "MIDDLE", fmt.Sprint(millions*500_000))
	for _, a := range askedThere {
		asked, _ := url.QueryUnescape(a.ask.Encode())
		query, err := url.ParseQuery(fill.Replace(asked))
		if err != nil {
			return err
		}
		view := fmt.Sprintf("%s/api/results/R-%06d/views/rows?%s", address, b.result, query.Encode())
		cold, err := measure.Took(func() error { return call(ctx, view, token) })
		if err != nil {
			return fmt.Errorf("%s: %w", a.name, err)
		}
		warm, err := measure.Took(func() error { return call(ctx, view, token) })
		if err != nil {
			return err
		}
		engine, err := several(func() (float64, error) {
			return measure.Took(func() error { return drained(ctx, conn, fill.Replace(a.own)) })
		})
		if err != nil {
			return err
		}
		fmt.Printf("  %-46s %9.1f ms, again %.1f; the engine %.1f ms, ratio %.2f\n", a.name, cold, warm, engine, cold/engine)
	}
	var memory runtime.MemStats
	runtime.ReadMemStats(&memory)
	fmt.Printf("  %-46s %9.1f MB\n", "memory that the service has from the system", float64(memory.Sys)/(1<<20))
	return nil
}

func drained(ctx context.Context, conn *pgx.Conn, text string) error {
	rows, err := conn.Query(ctx, text)
	if err != nil {
		return err
	}
	for rows.Next() {
	}
	return rows.Err()
}
