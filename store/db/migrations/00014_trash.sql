-- +goose Up
-- Kept views and tiles that were deleted can be brought back for a while, as results, criteria and run controls can.
create table kept_view_next (
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
  deleted_at text
);
insert into kept_view_next (id, report, view, name, owner, everyone, changes, seen, revision, changed_at)
  select id, report, view, name, owner, everyone, changes, seen, revision, changed_at from kept_view;
drop table kept_view;
alter table kept_view_next rename to kept_view;
create unique index kept_view_by_name on kept_view (report, owner, name) where deleted_at is null;

create table thrown_tile ( -- tiles that were taken off a desk
  number integer primary key autoincrement,
  kind   text not null check (kind in ('person', 'group')), -- whose desk it was
  owner  text not null,
  tile   text not null,  -- a JSON object
  title  text not null,  -- as the desk said it
  at     text not null
);

-- +goose Down
drop table thrown_tile;
delete from kept_view where deleted_at is not null;
drop index kept_view_by_name;
alter table kept_view drop column deleted_at;
