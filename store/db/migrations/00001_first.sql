-- +goose Up
create table source (
  id   text primary key,
  text text not null
);

create table report (
  id       text primary key,
  title    text not null,
  category text not null,
  version  text not null
);

-- Every version a report ever had: results point at the one they were made by.
create table report_version (
  report text not null,
  version text not null,
  text   text not null,
  at     text not null,
  primary key (report, version)
);

create table run (
  number       integer primary key autoincrement,
  report       text not null,
  title        text not null,
  version      text not null,
  state        text not null check (state in ('waiting', 'running', 'done', 'failed', 'stopped')),
  typed        text not null, -- values as typed, a JSON object
  facts        text not null, -- values as resolved, a JSON array in the order of the declarations
  sentence     text not null,
  asked_by     text not null,
  asked_at     text not null,
  started_at   text,
  ended_at     text,
  rows         integer not null default 0,
  reason       text not null default '',
  after_crash  text not null,
  idempotency  text unique
);
create index run_by_state on run (state, number);
create index run_by_report on run (report, number);

create table result (
  number   integer primary key autoincrement,
  run      integer not null unique references run (number),
  report   text not null,
  title    text not null,
  sentence text not null,
  kept_at  text not null,
  rows     integer not null,
  bytes    integer not null,
  seal     text not null,
  manifest text not null
);
create index result_by_report on result (report, number);

-- The rows of results: Arrow IPC streams, one a batch. Batches of a run that has
-- no result are remains of a run that ended early, and are swept away.
create table batch (
  run     integer not null,
  dataset text not null,
  place   integer not null,
  rows    integer not null,
  digest  text not null,
  data    blob not null,
  primary key (run, dataset, place)
);

-- +goose Down
drop table batch;
drop table result;
drop table run;
drop table report_version;
drop table report;
drop table source;
