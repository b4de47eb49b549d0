-- +goose Up
create table file_look ( -- what became of the files that come by themselves for tables of sources
  source   text not null,
  tbl      text not null,
  at       text not null,  -- when it was looked last
  state    text not null,  -- what tells whether there is another file: its time and size, or the server's marks
  digest   text not null,  -- of the last file that was taken, SHA-256 in hex; '' for none
  fault    text not null,  -- why it was not taken, or could not be read; '' where all is well
  primary key (source, tbl)
);

-- +goose Down
drop table file_look;
