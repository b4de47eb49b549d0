-- +goose Up
-- What run controls were before they were overwritten.
alter table control add column changed_by text not null default ''; -- '' where it was not written down yet
create table control_past (
  control    text not null references control (id) on delete cascade on update cascade,
  revision   integer not null,
  title      text not null,
  shared     text not null,
  body       text not null, -- a JSON object
  changed_at text not null,
  changed_by text not null,
  primary key (control, revision)
);

-- +goose Down
drop table control_past;
alter table control drop column changed_by;
