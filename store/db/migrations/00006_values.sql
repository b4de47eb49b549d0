-- +goose Up
-- What the values of a run came to when it was asked for, as they are; runs that
-- were asked for before have only their facts.
alter table run add column resolved text not null default '';

-- +goose Down
alter table run drop column resolved;
