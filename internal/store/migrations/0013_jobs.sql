-- +goose Up

-- Work in the background, by its name: when it ran last and how that went. A lease
-- keeps two processes from doing the same at once; of a process that was killed it
-- runs out.
create table jobs (
    name        text primary key,
    leased_until timestamptz,
    began_at    timestamptz,
    ended_at    timestamptz, -- of the last run that has ended
    took        interval,
    error       text not null default '', -- of the last run; empty: it went well
    failed_at   timestamptz  -- since when it has failed; null: the last run went well
) with (fillfactor = 50);

-- +goose Down
drop table jobs;
