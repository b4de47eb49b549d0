-- +goose Up
-- What is being tried is recorded before it is tried, so that a service which
-- ends meanwhile knows it, and gives up after it ended twice.
alter table run add column crashes integer not null default 0;
alter table run add column asked text not null default '';  -- digest of what an idempotency key was used for
alter table control_run add column composing integer not null default 0;
alter table control_run add column crashes integer not null default 0;
alter table parcel add column trying integer not null default 0;
alter table parcel add column crashes integer not null default 0;
alter table parcel add column held integer not null default 0; -- until all that belongs to it is composed
create index parcel_by_way on parcel (state, way, next_at);

-- Where entries of the address book led, and who said so.
create table address_change (
  id       integer primary key autoincrement,
  nickname text not null collate nocase,
  at       text not null,
  by       text not null,
  what     text not null check (what in ('put', 'deleted')),
  entry    text not null -- as it then was, a JSON object
);
create index address_change_by_nickname on address_change (nickname, id);

-- Until when somebody looked: the end of the last range that was asked for as
-- since last run, by who or what asked, for the same other values.
create table mark (
  whose     text not null, -- control ID, criteria NUMBER or person NAME
  report    text not null,
  parameter text not null,
  others    text not null, -- digest of the other values
  at        text not null,
  run       integer not null,
  primary key (whose, report, parameter, others)
);

-- What criteria held before they were overwritten.
create table criteria_past (
  criteria   integer not null references criteria (id) on delete cascade,
  revision   integer not null,
  typed      text not null, -- a JSON object
  version    text not null,
  changed_at text not null,
  primary key (criteria, revision)
) without rowid;

-- What the cells of a result mean: the settled definition, whose digest is sealed.
alter table result add column settled blob;

-- What the service was set to when it first ran; older results depend on it.
create table origin (
  name text primary key,
  text text not null
);

-- How signing in is guarded is kept in memory, by who tries.
alter table person drop column failures;
alter table person drop column locked_until;

-- In which zone moments are said to a person; the organisation's where it is empty.
alter table person add column zone text not null default '';

-- +goose Down
alter table person drop column zone;
alter table person add column locked_until text;
alter table person add column failures integer not null default 0;
drop table origin;
alter table result drop column settled;
drop table criteria_past;
drop table mark;
drop table address_change;
drop index parcel_by_way;
alter table parcel drop column held;
alter table parcel drop column crashes;
alter table parcel drop column trying;
alter table control_run drop column crashes;
alter table control_run drop column composing;
alter table run drop column asked;
alter table run drop column crashes;
