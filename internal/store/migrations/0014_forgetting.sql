-- +goose NO TRANSACTION
-- +goose Up

-- What is past its time is found by its time.
create index concurrently if not exists goals_reached_by_time on goals_reached (site_id, at);
create index concurrently if not exists seen_by_time on seen (site_id, first_at);

-- +goose Down
drop index if exists seen_by_time;
drop index if exists goals_reached_by_time;
