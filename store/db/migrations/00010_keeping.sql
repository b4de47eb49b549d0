-- +goose Up
alter table run add column making text not null default ''; -- what it makes of other results, a JSON object; '' for a run of a report
alter table run add column beside text not null default ''; -- another report whose rows are in it
alter table result add column made text not null default ''; -- how it was made of other results; '' for one that was read
alter table result add column beside text not null default '';

-- +goose Down
alter table result drop column beside;
alter table result drop column made;
alter table run drop column beside;
alter table run drop column making;
