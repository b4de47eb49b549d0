-- +goose Up
create table file_version ( -- files that people brought for tables of sources; the last of a table that is in use counts
  number   integer primary key autoincrement,
  source   text not null,
  tbl      text not null,
  name     text not null,
  bytes    integer not null,
  digest   text not null,     -- SHA-256 in hex
  packed   blob not null,     -- zstd
  rows     integer not null,
  left_out integer not null,  -- lines that did not fit
  faults   text not null,     -- the first of them, a JSON list
  person   text not null,
  at       text not null,
  in_use   integer not null
);
create unique index file_version_in_use on file_version (source, tbl) where in_use;

-- +goose Down
drop table file_version;
