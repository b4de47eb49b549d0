-- +goose Up
-- What the office deleted, with its rows as they were, for as long as it can be put back.
create table thrown_thing (
  number integer primary key autoincrement,
  kind   text not null,
  id     text not null, -- that it had, and has again
  name   text not null,
  report text not null, -- of which it is; '' for none
  by     text not null, -- who deleted it
  at     text not null
) strict;
create index thrown_thing_by_id on thrown_thing (kind, id);

create table thrown_row (
  number integer primary key autoincrement,
  thing  integer not null references thrown_thing (number) on delete cascade,
  tbl    text not null,
  how    text not null check (how in ('removed', 'emptied', 'aside')), -- emptied: of one column; aside: under another key
  col    text not null default '' -- that was emptied, or that is the key
) strict;
create index thrown_row_by_thing on thrown_row (thing);

create table thrown_cell ( -- of a row that was removed; of one that was emptied, its key and what it held
  row   integer not null references thrown_row (number) on delete cascade,
  col   text not null,
  value any,
  primary key (row, col)
) strict;

-- +goose Down
drop table thrown_cell;
drop table thrown_row;
drop table thrown_thing;
