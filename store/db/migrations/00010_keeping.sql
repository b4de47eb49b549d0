-- +goose Up
alter table run add column making text not null default ''; -- what it makes of other results, a JSON object; '' for a run of a report
alter table run add column beside text not null default ''; -- another report whose rows are in it
alter table result add column made text not null default ''; -- how it was made of other results; '' for one that was read
alter table result add column beside text not null default '';

alter table result add column signs text not null default '[]'; -- who signed it off, a JSON list; none where it was withdrawn
alter table result add column signed integer not null default 0; -- all steps are signed
alter table result add column held integer not null default 0;
alter table result add column trashed_at text;
alter table result add column trashed_by text not null default '';
create index result_by_trash on result (trashed_at) where trashed_at is not null;

alter table report add column signers text not null default '[]'; -- who may sign its results off, a JSON list; none for its owner and librarians
alter table report add column sign_steps integer not null default 1;

create table kept_act ( -- what was done about keeping a result; nothing of it is changed
  number integer primary key autoincrement,
  result integer not null,
  what   text not null check (what in ('signed', 'withdrawn', 'held', 'released')),
  person text not null,
  at     text not null,
  says   text not null default ''
);
create index kept_act_by_result on kept_act (result, number);

create table result_note (
  number     integer primary key autoincrement,
  result     integer not null,
  answers    integer not null default 0,  -- the note that it answers; 0 for none
  person     text not null,
  at         text not null,
  says       text not null,
  view       text not null default '',    -- what it is about; '' for the whole result
  filters    text not null default '[]',  -- that select the rows it is about, a JSON list
  about      text not null default '',    -- as people read it
  settled_by text not null default '',
  settled_at text
);
create index result_note_by_result on result_note (result, number);

alter table due_note add column told integer not null default 0;    -- people were told that a moment gave nothing
alter table control_run add column told integer not null default 0;
update due_note set told = 1;
update control_run set told = 1;

create table signing_key (
  id      text primary key, -- the first 16 digits of the SHA-256 of the public key
  public  blob not null,
  private blob,             -- the seed of Ed25519; null of a key that nothing is signed with any more
  made_at text not null
);

-- +goose Down
alter table control_run drop column told;
alter table due_note drop column told;
drop table signing_key;
drop table result_note;
drop table kept_act;
alter table report drop column sign_steps;
alter table report drop column signers;
drop index result_by_trash;
alter table result drop column trashed_by;
alter table result drop column trashed_at;
alter table result drop column held;
alter table result drop column signed;
alter table result drop column signs;
alter table result drop column beside;
alter table result drop column made;
alter table run drop column beside;
alter table run drop column making;
