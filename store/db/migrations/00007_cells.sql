-- +goose Up
-- The rows of results, column by column: each an Arrow IPC stream of one column of a
-- batch, compressed by zstd. A batch of this form has in its data what is known of
-- its columns, with the digest of each; batches of earlier forms have the rows there.
create table cells (
  run     integer not null,
  dataset text not null,
  place   integer not null, -- of the batch
  col     integer not null, -- of the dataset, from 0
  data    blob not null,
  primary key (run, dataset, place, col)
);

-- +goose Down
drop table cells;
