-- +goose Up
-- How a person likes the console: where it opens, how close lines stand, light or dark, the first day of the week.
alter table person add column ways text not null default '{}';

-- +goose Down
alter table person drop column ways;
