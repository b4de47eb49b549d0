package main

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"mantilla/demo/pgserver"
	"mantilla/library/catalog"
)

// sources measures the capture of rows from servers beside the bare driver, which reads the
// same rows and throws them away.
func sources(ctx context.Context) error {
	own, err := pgserver.Start(ctx, filepath.Join(*dataDir, "postgres"))
	if err != nil {
		return err
	}
	err = fromPostgres(ctx, own)
	return errors.Join(err, own.Stop())
}

// inPostgres makes a table of a million rows with values like those of the other
// benchmarks, of types that suit them, and the account that reads it.
const inPostgres = `
	create table if not exists rows (id int primary key, region text, item text, day date, status text, quantity int,
		pieces int, amount numeric(14, 2), weight int, price numeric(12, 2));
	do $$ begin
		if not exists (select 1 from rows) then
			perform setseed(0.7);
			insert into rows select i, 'region-' || floor(random() * 4), 'item-' || lpad(floor(random() * 4000)::text, 4, '0'),
				date '2023-01-01' + floor(random() * 1300)::int, (array['open', 'sent', 'paid'])[1 + floor(random() * 3)],
				floor(random() * 1000), floor(random() * 100), floor(random() * 1e9) / 100, floor(random() * 1e6),
				floor(random() * 1e5) / 100 from generate_series(1, 1000000) i;
		end if;
		if not exists (select 1 from pg_roles where rolname = 'reports') then
			create role reports login password 'only-reads';
		end if;
	end $$;
	grant select on rows to reports;
	analyze rows;`

func fromPostgres(ctx context.Context, own *pgserver.Server) error {
	if err := own.NewDatabase(ctx, "rows"); err != nil {
		return err
	}
	if err := own.Exec(ctx, "rows", inPostgres); err != nil {
		return err
	}
	conn, err := own.Connect(ctx, "rows")
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }() // it only reads
	b, err := open(ctx, 1)
	if err != nil {
		return err
	}
	defer b.close()
	service := b.library.AsService()
	if err := service.Secrets.Put(ctx, "reports", "only-reads"); err != nil {
		return err
	}
	if err := service.Catalog.PutSource(ctx, "there", []byte(fmt.Sprintf("source: there\nkind: postgres\n"+
		"server: {host: 127.0.0.1, port: %d, database: rows, user: reports, password: reports, tls: off}\n",
		own.Port))); err != nil {
		return err
	}
	stored := strings.NewReplacer("source: made", "source: there", "is: amount, type: decimal",
		"is: amount, stored: decimal, type: decimal", "type: money", "type: money, stored: decimal")
	if _, err := service.Catalog.PutReport(ctx, []byte(stored.Replace(definition)), catalog.Put{Was: "*"}); err != nil {
		return err
	}
	fmt.Println("\nPostgreSQL: 1,000,000 rows by 10 columns, read and thrown away; captured, query to sealed result")
	return b.capture(ctx, func() error { return thrownAway(ctx, conn) })
}

// thrownAway reads all rows by the driver's own quickest way: cells as bytes, in binary.
func thrownAway(ctx context.Context, conn *pgx.Conn) error {
	rows := conn.PgConn().ExecParams(ctx,
		"select id, region, item, day, status, quantity, pieces, amount, weight, price from rows",
		nil, nil, nil, []int16{1})
	bytes := 0
	for rows.NextRow() {
		for _, cell := range rows.Values() {
			bytes += len(cell)
		}
	}
	tag, err := rows.Close()
	if err == nil && (tag == pgconn.CommandTag{} || bytes == 0) {
		err = errors.New("nothing was read")
	}
	return err
}
