-- +goose Up
create table person (
  name          text primary key, -- what is typed to sign in
  title         text not null,    -- how the person is called
  role          text not null check (role in ('reader', 'runner', 'author', 'librarian', 'administrator')),
  units         text not null default '[]', -- codes that the person is limited to; none for no limit
  password      text not null,    -- bcrypt
  closed        integer not null default 0,
  failures      integer not null default 0,
  locked_until  text,
  revision      integer not null default 1
);

create table people_group (
  id    text primary key,
  title text not null,
  revision integer not null default 1
);
create table group_member (
  grp    text not null references people_group (id) on delete cascade,
  person text not null references person (name) on delete cascade,
  primary key (grp, person)
);

-- To whom a report is open: a group, a person, or everyone.
create table opening (
  report text not null,
  kind   text not null check (kind in ('group', 'person', 'everyone')),
  name   text not null,
  primary key (report, kind, name)
);

-- Signed-in browsers and command lines. Only the SHA-256 of the secret is kept.
create table session (
  digest     text primary key,
  person     text not null references person (name) on delete cascade,
  kind       text not null check (kind in ('browser', 'token')),
  label      text not null,
  made_at    text not null,
  ends_at    text not null
);
create index session_by_person on session (person);

-- Parameters that are declared once for the whole catalog, at each version.
create table shared (
  id   integer primary key autoincrement,
  text text not null,
  at   text not null
);
alter table report_version add column shared integer references shared (id);

create table criteria (
  id         integer primary key autoincrement,
  report     text not null,
  name       text not null,
  owner      text not null,
  shared     text not null default '', -- group it is shared with, everyone, or nobody
  typed      text not null,            -- a JSON object
  version    text not null,            -- of the report when it was kept
  revision   integer not null default 1,
  changed_at text not null,
  deleted_at text
);
create index criteria_by_report on criteria (report, deleted_at, owner, shared, name); -- all that a list is chosen and ordered by
create unique index criteria_by_name on criteria (report, owner, name) where deleted_at is null;
create table usual (
  person   text not null,
  report   text not null,
  criteria integer not null references criteria (id) on delete cascade,
  primary key (person, report)
);

create table control (
  id         text primary key,
  title      text not null,
  owner      text not null,
  shared     text not null default '',
  body       text not null, -- a JSON object
  revision   integer not null default 1,
  changed_at text not null,
  deleted_at text
);
create table control_run (
  number   integer primary key autoincrement,
  control  text not null,
  asked_by text not null,
  asked_at text not null
);
create index control_run_by_control on control_run (control, number);

alter table run add column units text not null default '[]';      -- what the rows are cut to
alter table run add column limited integer not null default 0;
alter table run add column criteria integer;
alter table run add column control_run integer references control_run (number);
alter table run add column step integer not null default 0;        -- place within the run of a control
alter table run add column terms text not null default '{}';       -- limits and rules of its control, a JSON object
alter table run add column opens_at integer;  -- minute of the local day from which it may start; null for any time
alter table run add column closes_at integer;
alter table run add column note text not null default '';
create index run_by_control on run (control_run, step);
create index run_by_criteria on run (criteria, number);
create index run_by_asker on run (asked_by, report, number);

alter table result add column units text not null default '[]';
alter table result add column limited integer not null default 0;
alter table result add column asked_by text not null default '';
alter table result add column facts text not null default '';      -- digest of version and resolved values, to find the same again
alter table result add column fingerprint text not null default '';
alter table result add column keep_until text;
create index result_by_facts on result (facts, number);

-- +goose Down
drop index run_by_control;
drop index run_by_criteria;
drop index run_by_asker;
drop index result_by_facts;
alter table result drop column keep_until;
alter table result drop column fingerprint;
alter table result drop column facts;
alter table result drop column asked_by;
alter table result drop column limited;
alter table result drop column units;
alter table run drop column note;
alter table run drop column closes_at;
alter table run drop column opens_at;
alter table run drop column terms;
alter table run drop column step;
alter table run drop column control_run;
alter table run drop column criteria;
alter table run drop column limited;
alter table run drop column units;
drop table control_run;
drop table control;
drop table usual;
drop table criteria;
alter table report_version drop column shared;
drop table shared;
drop table session;
drop table opening;
drop table group_member;
drop table people_group;
drop table person;
