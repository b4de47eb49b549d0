package servers

import (
	"context"
	"errors"

	"mantilla/demo/mdserver"
	"mantilla/demo/pgserver"
)

func postgres(ctx context.Context, dir string) (engine, error) {
	s, err := pgserver.Start(ctx, dir)
	if err != nil {
		return engine{}, err
	}
	if err := s.NewDatabase(ctx, "coop"); err != nil {
		return engine{}, errors.Join(err, s.Stop())
	}
	return engine{server: s, port: s.Port, types: types{"text", "bigint", "date", "timestamptz", "+00", ""},
		rents: rentsOfPostgres, grants: `
			do $$ begin
				if not exists (select 1 from pg_roles where rolname = 'reports') then
					create role reports login password '` + password + `';
				end if;
			end $$;
			grant usage on schema public to reports;
			grant select on all tables in schema public to reports;
			do $$ begin
				if not exists (select 1 from pg_roles where rolname = 'keeper') then
					create role keeper login password '` + password + `';
				end if;
			end $$;
			create schema if not exists results authorization keeper;
			grant usage on schema public to keeper;
			grant select on all tables in schema public to keeper;
			analyze;`,
		keeps: "\nkeeps: {schema: results, user: keeper, password: " + secret + "}"}, nil
}

const rentsOfPostgres = `create view rent_month as
	select no, cast(first as date) as first, row_number() over (partition by no order by first) as n,
		(select monthly_cents from rent_step where agreement_no = span.no
			and from_on < span.first + interval '1 month' order by from_on desc limit 1) as cents
	from (select no, generate_series(date_trunc('month', starts_on), ends_on, interval '1 month') as first
		from agreement) as span`

func mariaDB(ctx context.Context, dir string) (engine, error) {
	s, err := mdserver.Start(ctx, dir)
	if err != nil {
		return engine{}, err
	}
	err = s.Exec(ctx, "mysql", `create database if not exists coop character set utf8mb4 collate utf8mb4_bin`)
	if err != nil {
		return engine{}, errors.Join(err, s.Stop())
	}
	return engine{server: s, port: s.Port,
		types: types{"varchar(190)", "bigint", "date", "datetime(6)", "", " collate utf8mb4_bin"},
		rents: rentsOfMariaDB, grants: `
			create user if not exists reports@'%' identified by '` + password + `';
			grant select on coop.* to reports@'%';`}, nil
}

const rentsOfMariaDB = `create view rent_month as
	with recursive span(no, first, n) as (
		select no, cast(date_format(starts_on, '%Y-%m-01') as date), 1 from agreement
		union all select span.no, date_add(span.first, interval 1 month), span.n + 1
			from span join agreement on agreement.no = span.no
			where date_add(span.first, interval 1 month) <= agreement.ends_on)
	select no, first, n, (select monthly_cents from rent_step where agreement_no = span.no
		and from_on <= last_day(span.first) order by from_on desc limit 1) as cents from span`
