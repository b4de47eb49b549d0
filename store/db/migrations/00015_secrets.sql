-- +goose Up
create table secret ( -- passwords and keys of sources, encrypted by a key that is not here
  name       text primary key,
  sealed     blob not null,
  changed_by text not null,
  changed_at text not null
);

-- +goose Down
drop table secret;
