-- +goose Up
-- Single rights that a person has beyond their role, or not although it has them: names in a JSON array.
alter table person add column given text not null default '[]';
alter table person add column withheld text not null default '[]';

-- +goose Down
alter table person drop column withheld;
alter table person drop column given;
