-- +goose Up

alter table sites add column kit json; -- the style kit; null is the usual one

-- Videos, and files that pieces hand out, by their content.
create table files (
    site_id    bigint not null references sites,
    hash       text not null,
    name       text not null,
    mime       text not null,
    body       bytea not null,
    created_at timestamptz not null default now(),
    primary key (site_id, hash)
);
create index files_by_hash on files (hash);

-- Drafts as they were. Changes made in one go are one version.
create table piece_versions (
    site_id  bigint not null,
    piece_id text not null,
    version  int not null, -- of the draft
    draft    json not null,
    began_at timestamptz not null default now(),
    saved_at timestamptz not null default now(),
    launched boolean not null default false,
    primary key (site_id, piece_id, version),
    foreign key (site_id, piece_id) references pieces
);

-- Blocks and scenes kept to be used again.
create table keepsakes (
    site_id    bigint not null references sites,
    id         text not null,
    kind       text not null check (kind in ('block', 'scene')),
    name       text not null,
    body       json not null,
    created_at timestamptz not null default now(),
    primary key (site_id, id)
);

-- Codes to be given out, one a visitor.
create table code_pools (
    site_id    bigint not null references sites,
    id         text not null,
    name       text not null,
    created_at timestamptz not null default now(),
    primary key (site_id, id)
);
create table codes (
    site_id  bigint not null,
    pool_id  text not null,
    code     text not null,
    visitor  text,
    piece_id text,
    given_at timestamptz,
    primary key (site_id, pool_id, code),
    foreign key (site_id, pool_id) references code_pools on delete cascade
);
create unique index codes_given on codes (site_id, pool_id, visitor) where visitor is not null;
create index codes_left on codes (site_id, pool_id) where visitor is null;

-- +goose Down
drop table codes, code_pools, keepsakes, piece_versions, files;
alter table sites drop column kit;
