-- +goose Up
create table statement ( -- a file of what somebody else states of a report's rows
  number   integer primary key autoincrement,
  report   text not null,
  declared text not null,                -- the statement of the report's definition that it is read as
  name     text not null,
  digest   text not null,                -- SHA-256 of the file
  lines    integer not null,
  first    text not null,                -- the days that it covers
  until    text not null,
  total    text not null,                -- of its amounts, with the sign of the report's
  read_at  text not null,
  read_by  text not null,
  data     blob not null
);
create index statement_by_report on statement (report, number);

-- +goose Down
drop table statement;
