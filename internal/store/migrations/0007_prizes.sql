-- +goose Up

-- Goes at prize draws: one a visitor, and one an address, for good.
create table goes (
    site_id  bigint not null,
    piece_id text not null,
    key      text not null, -- of the draw
    visitor  text not null,
    walk_id  uuid not null,
    variant  text not null,
    at       timestamptz not null,
    part     text not null, -- what was drawn
    label    text not null, -- and what it was called
    -- None of these is null: what has run out, or is too much for one place,
    -- comes as null and refuses the go with all that belongs to it.
    nth      int not null, -- of its part, where that is limited; 0 otherwise
    code     text not null, -- that comes with the prize; empty: none
    place    text not null, -- digest of the internet address; empty: none was known
    network  text not null,
    email    text, -- digest of the address left with it, or later on the walk
    primary key (site_id, piece_id, key, visitor)
);
create unique index goes_of_email on goes (site_id, piece_id, key, email) where email is not null;
create index goes_of_network on goes (site_id, network, at) include (place) where network <> '';

-- How often parts with a stock of their own were drawn.
create table part_stock (
    site_id  bigint not null,
    piece_id text not null,
    key      text not null,
    part     text not null,
    given    int not null,
    primary key (site_id, piece_id, key, part)
) with (fillfactor = 50); -- rewritten in place, a go each

-- Goes that were refused, and why, by day.
create table refused_goes (
    site_id  bigint not null,
    piece_id text not null,
    variant  text not null,
    day      date not null,
    key      text not null,
    why      text not null,
    goes     int not null,
    primary key (site_id, piece_id, variant, day, key, why)
);

alter table codes add column walk_id uuid; -- on which it was given
-- How many codes there are in all; those that are given are counted.
alter table code_pools add column codes int not null default 0;
update code_pools p set codes = (select count(*) from codes c where c.site_id = p.site_id and c.pool_id = p.id);

-- The next code of a pool is found without passing over those that are given.
drop index codes_left;
create index codes_left on codes (site_id, pool_id, code) where visitor is null;

-- +goose Down
drop index codes_left;
create index codes_left on codes (site_id, pool_id) where visitor is null;
alter table code_pools drop column codes;
alter table codes drop column walk_id;
drop table refused_goes, part_stock, goes;
