create table region (id text primary key, name text not null) without rowid;
create table district (id text primary key, region_id text not null references region, name text not null) without rowid;
create table site (
  id text primary key, district_id text not null references district, name text not null,
  opened_on text not null, closed_on text
) without rowid;
create view unit (id, parent_id, kind, name, current) as
  select 'COOP', null, 'cooperative', 'Brackenfell Honey Cooperative', 1
  union all select id, 'COOP', 'region', name, 1 from region
  union all select id, region_id, 'district', name, 1 from district
  union all select id, district_id, 'site', name, closed_on is null from site;

create table grade (code text primary key, label text not null, current integer not null) without rowid;
create table origin (code text primary key, label text not null, current integer not null) without rowid;

create table keeper (
  no text primary key, name text not null, site_id text not null references site, born_on text,
  joined_on text not null, left_on text, state text not null,
  certificate text, certificate_ends_on text, bank_on_file integer not null
) without rowid;

create table lot (
  lot_no text primary key, keeper_no text not null references keeper, site_id text not null references site,
  received_on text not null, entered_at text not null, grade text not null references grade, origin text references origin,
  moisture_hundredths integer, net_g integer not null, price_cents integer, state text not null, corrects text
) without rowid;
create index lot_by_day on lot (received_on);
create index lot_by_keeper on lot (keeper_no);
create table lot_change (
  id integer primary key, lot_no text not null references lot, at text not null, from_state text, to_state text not null,
  by_whom text not null, automatic integer not null
);
create index lot_change_by_lot on lot_change (lot_no);
create table weighing (lot_no text primary key references lot, desk text not null, arrived_at text not null, called_at text, left_at text) without rowid;
create table measurement (
  id integer primary key, lot_no text not null references lot, measure text not null, value_thousandths integer,
  measured_on text not null, instrument text not null
);
create index measurement_by_lot on measurement (lot_no);

create table measure_limit (measure text primary key, lower_thousandths integer not null, upper_thousandths integer not null) without rowid;

create table payout_batch (id text primary key, made_on text not null, settles_on text not null, paid_on text) without rowid;
create table payout (
  id integer primary key, batch_id text not null references payout_batch, lot_no text not null references lot,
  keeper_no text not null references keeper, amount_cents integer not null
);
create index payout_by_lot on payout (lot_no);
create index payout_by_keeper on payout (keeper_no);

create table store_house (id text primary key, name text not null) without rowid;
create table bay (id text primary key, store_id text not null references store_house, capacity_kg integer not null) without rowid;
create table stock (
  id integer primary key, bay_id text not null references bay, product text not null, packed_on text not null,
  best_before text, jars integer not null, net_g integer not null, value_cents integer not null
);

create table buyer (no text primary key, name text not null, town text not null, terms_days integer not null) without rowid;
create table agent (no text primary key, name text not null, rate_hundredths integer not null) without rowid;
create table sales_order (
  no text primary key, buyer_no text not null references buyer, channel text not null, agent_no text references agent,
  placed_on text not null, sent_on text, delivered_on text, cancelled_on text, amount_cents integer not null
) without rowid;
create table order_line (
  id integer primary key, order_no text not null references sales_order, product text not null, jars integer not null,
  amount_cents integer not null, extra integer not null
);

create table site_return (
  site_id text not null references site, month text not null, expected_g integer not null, received_g integer, returned_on text,
  primary key (site_id, month)
) without rowid;
create table agreement (
  no text primary key, keeper_no text not null references keeper, what text not null, place text not null,
  starts_on text not null, ends_on text not null
) without rowid;
create table rent_step (agreement_no text not null references agreement, from_on text not null, monthly_cents integer not null, primary key (agreement_no, from_on)) without rowid;
create view rent_month (no, first, n, cents) as -- each month of each agreement, with its rent
  with recursive span(no, first, n) as (
    select no, date(starts_on, 'start of month'), 1 from agreement
    union all select span.no, date(span.first, '+1 month'), span.n + 1 from span join agreement on agreement.no = span.no
      where date(span.first, '+1 month') <= agreement.ends_on)
  select no, first, n, (select monthly_cents from rent_step
    where agreement_no = span.no and from_on <= date(span.first, '+1 month', '-1 day') order by from_on desc limit 1) from span;

create table society (id text primary key, parent_id text references society, name text not null) without rowid;
create table account (code text primary key, label text not null, kind text not null) without rowid;
create table journal (id text primary key, society_id text not null references society, posted_on text not null, label text not null) without rowid;
create table ledger_line (
  id integer primary key, journal_id text not null references journal, society_id text not null references society,
  account text not null references account, posted_on text not null, label text not null, amount_cents integer not null
);
create table elimination (
  id integer primary key, society_id text not null references society, against_id text not null references society,
  account text not null references account, month text not null, amount_cents integer not null
);
create table adjustment (
  id integer primary key, society_id text not null references society, against_id text not null references society,
  account text not null references account, posted_on text not null, label text not null, description text not null, amount_cents integer not null
);
create table budget (society_id text not null references society, line text not null, month text not null, amount_cents integer not null, primary key (society_id, line, month)) without rowid;

create table project (id text primary key, name text not null, site_id text references site, starts_on text not null, ends_on text, state text not null) without rowid;
create table task (id integer primary key, project_id text not null references project, name text not null, starts_on text not null, ends_on text, done_hundredths integer not null, owner text);
create table project_cost (id integer primary key, project_id text not null references project, line text not null, month text not null, planned_cents integer not null, spent_cents integer);

create table staff (no text primary key, name text not null, site_id text not null references site, role text not null, born_on text, from_on text not null, until_on text) without rowid;
create table pay_line (id integer primary key, staff_no text not null references staff, month text not null, kind text not null, hours_hundredths integer, amount_cents integer not null);

create table scale (id text primary key, site_id text not null references site, label text not null) without rowid;
create table scale_reading (scale_id text not null references scale, at text not null, weight_g integer, temperature_tenths integer, primary key (scale_id, at)) without rowid;
create table portal_visit (id integer primary key, keeper_no text not null references keeper, at text not null, area text not null, seconds integer);
create table training (keeper_no text primary key references keeper, stage text not null, reached_on text not null) without rowid;
