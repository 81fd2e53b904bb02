-- +goose Up

-- Wrong passwords, counted for all processes together; lost with a crash, as they may be.
create unlogged table tries (
    key    bytea primary key, -- a digest of the address, and of where from
    count  bigint not null,
    ends   timestamptz not null -- of the time they are counted in
);
create index tries_end on tries (ends);

-- +goose Down
drop table tries;
