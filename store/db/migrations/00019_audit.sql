-- +goose Up
-- Who did what: lines that are only added, each with a digest over itself and the one before.
create table audit (
  number integer primary key,
  at text not null,
  person text not null,
  face text not null,
  address text not null,
  request text not null,
  act text not null,
  kind text not null,
  id text not null,
  part text not null,
  before text not null,
  after text not null,
  outcome text not null,
  why text not null,
  digest text not null,
  salt text not null,
  erased text -- what was taken out of the line with somebody, in JSON
) strict;
create index audit_on on audit (kind, id, number);
create index audit_by on audit (person, number);
create index audit_at on audit (at);

-- Where the book begins, since lines are kept for a set time: the digest of the line before, and
-- how far it was sent on.
create table audit_book (
  one integer primary key check (one = 1),
  first integer not null,
  before text not null,
  sent integer not null
) strict;
insert into audit_book (one, first, before, sent) values (1, 1, '', 0);

-- +goose StatementBegin
create trigger audit_unchanged before update on audit
when (new.number, new.at, new.face, new.request, new.act, new.kind, new.outcome, new.digest, new.salt) is not
  (old.number, old.at, old.face, old.request, old.act, old.kind, old.outcome, old.digest, '') or new.erased is null
begin
  select raise(abort, 'lines of the audit are never changed');
end;
-- +goose StatementEnd
-- +goose StatementBegin
create trigger audit_kept before delete on audit when old.number >= (select first from audit_book)
begin
  select raise(abort, 'lines of the audit are kept for their time');
end;
-- +goose StatementEnd

-- +goose Down
drop table audit;
drop table audit_book;
