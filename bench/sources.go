package main

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"mantilla/bench/made"
	"mantilla/demo/mdserver"
	"mantilla/demo/pgserver"
	"mantilla/library/catalog"
)

// sources measures the capture of rows from servers beside the bare driver, which reads the
// same rows and throws them away.
func sources(ctx context.Context) error {
	if err := made.Table(ctx, *dataDir, 1); err != nil {
		return err
	}
	own, err := pgserver.Start(ctx, filepath.Join(*dataDir, "postgres"))
	if err != nil {
		return err
	}
	if err = errors.Join(fromPostgres(ctx, own), own.Stop()); err != nil {
		return err
	}
	other, err := mdserver.Start(ctx, filepath.Join(*dataDir, "mariadb"))
	if err != nil {
		return err
	}
	return errors.Join(fromMariaDB(ctx, other), other.Stop(), fromFlight(ctx))
}

// inPostgres makes a table of a million rows with values like those of the other
// benchmarks, of types that suit them, and the account that reads it.
const inPostgres = `
	create table if not exists made_rows (id int primary key, region text, item text, day date, status text, quantity int,
		pieces int, amount numeric(14, 2), weight int, price numeric(12, 2));
	do $$ begin
		if not exists (select 1 from made_rows) then
			perform setseed(0.7);
			insert into made_rows select i, 'region-' || floor(random() * 4), 'item-' || lpad(floor(random() * 4000)::text, 4,
				'0'),
				date '2023-01-01' + floor(random() * 1300)::int, (array['open', 'sent', 'paid'])[1 + floor(random() * 3)],
				floor(random() * 1000), floor(random() * 100), floor(random() * 1e9) / 100, floor(random() * 1e6),
				floor(random() * 1e5) / 100 from generate_series(1, 1000000) i;
		end if;
		if not exists (select 1 from pg_roles where rolname = 'reports') then
			create role reports login password 'only-reads';
		end if;
	end $$;
	grant select on made_rows to reports;
	analyze made_rows;`

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
	fmt.Println("\nPostgreSQL")
	return captureFrom(ctx, "postgres", own.Port, func() error { return thrownAway(ctx, conn) })
}

// captureFrom measures captures from a server beside the bare reading.
func captureFrom(ctx context.Context, kind string, port int, bare func() error) error {
	user := "reports"
	if kind == "flightsql" {
		user = "''" // the password is sent as a token
	}
	b, err := open(ctx, 1)
	if err != nil {
		return err
	}
	defer b.close()
	service := b.library.AsService()
	if err := service.Secrets.Put(ctx, "reports", "only-reads"); err != nil {
		return err
	}
	if err := service.Catalog.PutSource(ctx, "there", []byte(fmt.Sprintf("source: there\nkind: %s\n"+
		"server: {host: 127.0.0.1, port: %d, database: rows, user: %s, password: reports, tls: off}\n",
		kind, port, user))); err != nil {
		return err
	}
	stored := strings.NewReplacer("source: made", "source: there", "is: amount, type: decimal",
		"is: amount, stored: decimal, type: decimal", "type: money", "type: money, stored: decimal",
		"from: rows", "from: made_rows")
	if _, err := service.Catalog.PutReport(ctx, []byte(stored.Replace(made.Report)), catalog.Put{Was: "*"}); err != nil {
		return err
	}
	return b.capture(ctx, bare)
}

const inMariaDB = `
	create table if not exists made_rows (id int primary key, region varchar(20), item varchar(20), day date,
		status varchar(10), quantity int, pieces int, amount decimal(14, 2), weight int, price decimal(12, 2));
	insert into made_rows select seq, concat('region-', floor(rand(7) * 4)), concat('item-', lpad(floor(rand(8) * 4000),
		4, '0')),
		date '2023-01-01' + interval floor(rand(9) * 1300) day, elt(1 + floor(rand(10) * 3), 'open', 'sent', 'paid'),
		floor(rand(11) * 1000), floor(rand(12) * 100), floor(rand(13) * 1e9) / 100, floor(rand(14) * 1e6),
		floor(rand(15) * 1e5) / 100 from seq_1_to_1000000 where not exists (select 1 from made_rows);
	create user if not exists reports identified by 'only-reads';
	grant select on "rows".* to reports`

func fromMariaDB(ctx context.Context, own *mdserver.Server) error {
	if err := own.Exec(ctx, "mysql", `create database if not exists "rows"`); err != nil {
		return err
	}
	if err := own.Exec(ctx, "rows", inMariaDB); err != nil {
		return err
	}
	db, err := sql.Open("mysql", fmt.Sprintf("reports:only-reads@tcp(127.0.0.1:%d)/rows", own.Port))
	if err != nil {
		return err
	}
	defer db.Close()
	fmt.Println("\nMariaDB")
	return captureFrom(ctx, "mariadb", own.Port, func() error { return scannedRaw(ctx, db) })
}

// scannedRaw reads all rows by the driver's own quickest way: cells as bytes that are not copied.
func scannedRaw(ctx context.Context, db *sql.DB) error {
	rows, err := db.QueryContext(ctx,
		"select id, region, item, day, status, quantity, pieces, amount, weight, price from made_rows")
	if err != nil {
		return err
	}
	defer rows.Close()
	cells, into := make([]sql.RawBytes, 10), make([]any, 10)
	for i := range cells {
		into[i] = &cells[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
	}
	return rows.Err()
}

// thrownAway reads all rows by the driver's own quickest way: cells as bytes, in binary.
func thrownAway(ctx context.Context, conn *pgx.Conn) error {
	rows := conn.PgConn().ExecParams(ctx,
		"select id, region, item, day, status, quantity, pieces, amount, weight, price from made_rows",
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
