-- +goose Up
-- Accounts of scripts, and keys by which people sign in without a password.
alter table person add column owner text not null default ''; -- of a service account: who answers for it
alter table session add column strong integer not null default 0; -- begun by more than a password
create table passkey (
  id         text primary key, -- of the credential, in base64url
  person     text not null references person (name) on delete cascade on update cascade,
  label      text not null,
  credential blob not null,    -- with its public key, as JSON
  made_at    text not null,
  last_at    text
) strict;
create index passkey_person on passkey (person);

-- +goose Down
drop table passkey;
alter table session drop column strong;
alter table person drop column owner;
