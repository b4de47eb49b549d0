-- +goose Up
-- Who is told when a run control gave a result, beside its owner.
create table follower (
  control text not null references control (id) on delete cascade on update cascade,
  person  text not null references person (name) on delete cascade on update cascade,
  primary key (person, control)
) strict, without rowid;

-- A notice that was put away can be had back for a while.
alter table notice add column away text;

-- +goose Down
alter table notice drop column away;
drop table follower;
