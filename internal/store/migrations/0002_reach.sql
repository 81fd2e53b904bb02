-- +goose Up

alter table sites
    add column settings json not null default '{}',
    -- signs the links that open the site with the inspector
    add column secret bytea not null default (uuid_send(gen_random_uuid()) || uuid_send(gen_random_uuid()));

-- Pieces win their slots by rank, lowest first, then the older.
alter table pieces add column rank int not null default 1000000;

create table reaches (
    site_id    bigint not null references sites,
    id         text not null,
    name       text not null,
    rule       json not null,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    primary key (site_id, id)
);

-- The visit log: what was known of each page view, and what came about on it.
create table page_views (
    site_id bigint not null references sites,
    id      text not null, -- of the page's making
    visitor text not null,
    visit   text not null,
    at      timestamptz not null, -- of arrival
    seconds int not null,
    facts   json not null,
    moments json not null,
    -- Rows of finished transactions are read once, by those who keep the log in memory.
    written xid8 not null default pg_current_xact_id(),
    primary key (site_id, id)
);
create index page_views_written on page_views (site_id, written);
create index page_views_at on page_views (site_id, at);

-- +goose Down
drop table page_views, reaches;
alter table pieces drop column rank;
alter table sites drop column secret, drop column settings;
