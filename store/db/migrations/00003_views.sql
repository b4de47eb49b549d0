-- +goose Up
-- Views of a report as people keep them for themselves or for everyone.
create table kept_view (
  id         integer primary key autoincrement,
  report     text not null,
  view       text not null,            -- of the report, that it is based on
  name       text not null,
  owner      text not null,
  everyone   integer not null default 0,
  changes    text not null,            -- a JSON object
  seen       text not null,            -- a JSON list: the columns that there were
  revision   integer not null default 1,
  changed_at text not null,
  unique (report, owner, name)
);

-- +goose Down
drop table kept_view;
