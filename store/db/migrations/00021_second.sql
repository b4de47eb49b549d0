-- +goose Up
-- The second factor of an account: a secret of codes by time, sealed, and codes for the day it is lost.
create table second (
  person    text primary key references person (name) on delete cascade on update cascade,
  sealed    blob not null,
  confirmed integer not null default 0,
  step      integer not null default 0, -- of the code that was used last
  codes     text not null default '[]'  -- digests of those that are left
) strict;

-- +goose Down
drop table second;
