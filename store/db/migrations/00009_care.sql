-- +goose Up
-- What the words of the organisation mean; columns of reports point to them.
create table term (
  id         text primary key,
  name       text not null,
  also       text not null default '[]', -- a JSON list: other words for the same
  meaning    text not null,
  owner      text not null default '',   -- who answers for the meaning
  revision   integer not null default 1,
  changed_at text not null,
  changed_by text not null
);

-- Who looks after a report, when it is looked at again, and whether people to whom it is not
-- open see that there is one.
alter table report add column owner text not null default '';
alter table report add column review_on text not null default '';     -- a day; '' for none
alter table report add column review_every integer not null default 0; -- months from one to the next; 0 for once
alter table report add column reminded text not null default '';      -- the review day that the owner was reminded of
alter table report add column listed integer not null default 0;

-- Who asks for a report that is listed and not open to them.
create table request (
  number      integer primary key autoincrement,
  report      text not null,
  person      text not null,
  at          text not null,
  says        text not null default '',
  state       text not null default 'open' check (state in ('open', 'granted', 'refused')),
  answer      text not null default '',
  answered_by text not null default '',
  answered_at text
);
create index request_by_state on request (state, number);

-- How often somebody opened a report's form, ran it, read its results or took them away, month
-- by month.
create table visit (
  person  text not null,
  report  text not null,
  month   text not null, -- 2026-10
  what    text not null check (what in ('form', 'run', 'read', 'export')),
  times   integer not null,
  last_at text not null,
  primary key (person, report, month, what)
) without rowid;
create index visit_by_report on visit (report, month);

-- Documents and links, beside a report or on a shelf. Who may see one on a shelf stands in
-- opening, under shelf/ID.
create table resource (
  id       text primary key,
  title    text not null,
  about    text not null default '',
  category text not null,
  report   text not null default '', -- that it is kept beside
  address  text not null default '', -- of a link; '' for a document
  revision integer not null default 1
);
create table resource_version (
  resource text not null,
  number   integer not null, -- from 1
  name     text not null,
  type     text not null,
  bytes    integer not null,
  sha256   text not null,
  data     blob not null,
  at       text not null,
  by       text not null,
  note     text not null default '',
  primary key (resource, number)
);

-- What reports were called before: results name, in what is sealed, the id of then.
create table report_name (
  was    text primary key,
  report text not null -- that it is now
);

-- Sources, shared parameters, groups and addresses that nothing new is to use.
create table retired (
  kind      text not null check (kind in ('source', 'parameter', 'group', 'address')),
  id        text not null,
  successor text not null default '', -- what is used instead; '' for nothing
  at        text not null,
  by        text not null,
  primary key (kind, id)
);

-- +goose Down
drop table retired;
drop table report_name;
drop table resource_version;
drop table resource;
drop table visit;
drop table request;
alter table report drop column listed;
alter table report drop column reminded;
alter table report drop column review_every;
alter table report drop column review_on;
alter table report drop column owner;
drop table term;
