-- +goose Up
-- What a token may do at most, and when it was used last.
alter table session add column role text not null default '';
alter table session add column last_at text;
-- Who somebody is for the provider that they sign in by: its issuer and their subject there.
alter table person add column subject text not null default '';
create unique index person_by_subject on person (subject) where subject <> '';

-- +goose Down
drop index person_by_subject;
alter table person drop column subject;
alter table session drop column last_at;
alter table session drop column role;
