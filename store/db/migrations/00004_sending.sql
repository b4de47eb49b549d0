-- +goose Up
-- People and programs that results are sent to.
create table address (
  id       integer primary key autoincrement,
  nickname text not null unique collate nocase,
  name     text not null,
  mail     text not null,
  person   text not null default '',   -- the account it belongs to, if any
  units    text not null default '[]', -- units that it stands for
  groups   text not null default '[]', -- names under which several are written to
  owner    text not null,
  revision integer not null default 1
);

-- What is on its way, or went. A parcel of a key is made once.
create table parcel (
  number     integer primary key autoincrement,
  key        text not null unique,
  way        text not null check (way in ('mail', 'folder', 'webhook')),
  target     text not null default '', -- a folder, or an address on the web
  title      text not null,
  owner      text not null,
  result     integer,
  control_run integer,
  made_at    text not null,
  state      text not null check (state in ('waiting', 'sent', 'failed', 'stopped')),
  tries      integer not null default 0,
  next_at    text,
  ended_at   text,
  reason     text not null default '',
  body       text not null,            -- file names and sizes, a JSON list
  payload    blob not null             -- the message, or the file
);
create index parcel_by_state on parcel (state, next_at);
create index parcel_by_owner on parcel (owner, number);
create index parcel_by_control_run on parcel (control_run);
create table parcel_recipient (
  parcel  integer not null references parcel (number) on delete cascade,
  address text not null,
  name    text not null,
  line    text not null check (line in ('to', 'cc', 'bcc')),
  state   text not null check (state in ('waiting', 'sent', 'refused')),
  answer  text not null default '',
  at      text,
  primary key (parcel, address)
);

-- Days off, as iCalendar files tell them.
create table calendar (
  id    text primary key,
  title text not null,
  text  text not null,
  days  text not null, -- a JSON list
  revision integer not null default 1
);

-- A control's next due moment; null without a timetable.
alter table control add column next_at text;
alter table control add column paused integer not null default 0;
create index control_by_next on control (next_at) where next_at is not null;

-- What a run of a control is of: a due moment, and one part of it.
alter table control_run add column moment text;               -- null when somebody asked for it
alter table control_run add column part text not null default '';
alter table control_run add column part_name text not null default '';
alter table control_run add column plan text not null default '{}';  -- who gets what, a JSON object
alter table control_run add column sending text not null default ''; -- waiting, done, none or failed
alter table control_run add column sent_note text not null default '';
create unique index control_run_by_moment on control_run (control, moment, part) where moment is not null;
create index control_run_by_sending on control_run (sending) where sending = 'waiting';

-- Moments that were due and gave no run: missed, or refused.
create table due_note (
  control text not null,
  moment  text not null,
  state   text not null check (state in ('skipped', 'refused')),
  reason  text not null,
  primary key (control, moment)
);

-- Secret addresses under which calendars read what is due; only digests are kept.
create table feed (
  person text primary key references person (name) on delete cascade,
  digest text not null unique
);

-- Tiles that people put on their desk, or on one they share.
create table desk (
  owner    text not null,  -- a person, or a group
  kind     text not null check (kind in ('person', 'group')),
  tiles    text not null,  -- a JSON list
  revision integer not null default 1,
  primary key (kind, owner)
);

-- +goose Down
drop table desk;
drop table feed;
drop table due_note;
drop index control_run_by_sending;
drop index control_run_by_moment;
alter table control_run drop column sent_note;
alter table control_run drop column sending;
alter table control_run drop column plan;
alter table control_run drop column part_name;
alter table control_run drop column part;
alter table control_run drop column moment;
drop index control_by_next;
alter table control drop column paused;
alter table control drop column next_at;
drop table calendar;
drop table parcel_recipient;
drop table parcel;
drop table address;
