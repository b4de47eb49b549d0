-- +goose Up
create table entry ( -- what people typed in beside rows; nothing of it is changed, the last of a cell counts
  number  integer primary key autoincrement,
  report  text not null,
  dataset text not null,
  col     text not null,
  key     text not null,              -- of the row, a JSON list
  value   text not null,              -- '' where it was taken away
  person  text not null,
  at      text not null,
  says    text not null default '',   -- why
  way     text not null check (way in ('typed', 'pasted', 'file', 'undone')),
  change  integer not null,           -- the number of the first entry that was made with it
  undoes  integer not null default 0  -- the change that it undoes
);
create index entry_by_cell on entry (report, dataset, col, key, number);
create index entry_by_change on entry (change);

-- +goose Down
drop table entry;
