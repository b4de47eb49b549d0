-- +goose Up
-- A column of a batch may be kept as what it differs by from the same column of an earlier result.
alter table cells add column base integer; -- the run of that; null where it is kept whole
create index cells_by_base on cells (base) where base is not null;

-- +goose Down
drop index cells_by_base;
alter table cells drop column base;
