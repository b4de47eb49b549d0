-- +goose Up
-- What the present version of a report was, and is, in the order of becoming so. A
-- version that comes back stands here again.
create table report_change (
  report  text not null,
  number  integer not null,         -- of the report, from 1
  version text not null,
  at      text not null,
  by      text not null default '', -- who took it into the catalog
  note    text not null default '', -- why
  back    integer not null default 0, -- the number that it brings back; 0 for none
  primary key (report, number)
);
insert into report_change (report, number, version, at)
  select report, row_number() over (partition by report order by at, rowid), version, at from report_version;

-- A definition on its way into the catalog. It can be run as the report draft-NUMBER.
create table draft (
  number     integer primary key autoincrement,
  report     text not null,             -- the id in its text, '' while it has none
  title      text not null,
  text       text not null,
  base       text not null default '',  -- the version of the report that it began from
  owner      text not null,
  writers    text not null default '[]', -- a JSON list: who writes it with the owner
  testers    text not null default '[]', -- a JSON list: to whom it is open for trying out
  state      text not null default 'writing' check (state in ('writing', 'handed in', 'given back')),
  note       text not null default '',  -- what was said at the last step
  noted_by   text not null default '',
  revision   integer not null default 1,
  changed_at text not null,
  changed_by text not null
);

-- What the service tells a person on their desk, until they put it away.
create table notice (
  number integer primary key autoincrement,
  person text not null,
  at     text not null,
  about  text not null, -- draft, report, ...
  says   text not null,
  place  text not null  -- within the console
);
create index notice_by_person on notice (person, number);

-- Reports that somebody marked to find them again.
create table favourite (
  person text not null,
  report text not null,
  primary key (person, report)
);

-- What readers write to those who keep a report.
create table feedback (
  number      integer primary key autoincrement,
  report      text not null,
  result      integer not null default 0, -- the result that it is about; 0 for none
  person      text not null,
  at          text not null,
  says        text not null,
  state       text not null default 'open' check (state in ('open', 'answered', 'done')),
  answer      text not null default '',
  answered_by text not null default '',
  answered_at text
);

-- A report that is retired leaves the catalog; what was made of it stays.
alter table report add column retired_at text;
alter table report add column successor text not null default '';

-- What the health of the catalog is told by: which report had how much of a day.
create index run_by_end on run (ended_at, report, started_at);

-- +goose Down
drop index run_by_end;
alter table report drop column successor;
alter table report drop column retired_at;
drop table feedback;
drop table favourite;
drop table notice;
drop table draft;
drop table report_change;
