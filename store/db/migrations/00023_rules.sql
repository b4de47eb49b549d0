-- +goose Up
-- How long results are kept at most: those of a report, of a category, or all others.
create table keep_rule (
  kind  text not null check (kind in ('report', 'category', 'all')),
  id    text not null, -- all for all
  days  integer not null check (days > 0),
  final integer not null, -- what is held goes too, and past the trash
  by    text not null,
  at    text not null,
  primary key (kind, id)
) strict;

-- How much the results of somebody may take.
create table quota (
  kind  text not null check (kind in ('person', 'group', 'everyone')),
  id    text not null, -- everyone for everyone
  bytes integer not null check (bytes > 0),
  primary key (kind, id)
) strict;

-- To whom somebody wants a report to be open, where another has to want it too.
create table opening_wish (
  report   text primary key,
  openings text not null, -- a JSON list
  by       text not null,
  at       text not null
) strict;

create index run_by_turn on run (asked_by, started_at);

-- +goose Down
drop index run_by_turn;
drop table opening_wish;
drop table quota;
drop table keep_rule;
