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

-- +goose Down
drop table term;
