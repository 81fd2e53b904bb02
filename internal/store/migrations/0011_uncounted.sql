-- +goose Up

-- Goes and votes of visitors who are not counted: they take stock and are seen by
-- everyone, and a report sets them apart.
alter table goes add column uncounted boolean not null default false;
alter table votes add column uncounted boolean not null default false;
alter table votes add column choices text[] not null default '{}';
create index goes_uncounted on goes (site_id, piece_id) where uncounted;
create index votes_uncounted on votes (site_id, piece_id) where uncounted;

-- +goose Down
alter table votes drop column choices, drop column uncounted;
alter table goes drop column uncounted;
