-- +goose Up

-- A walk is kept as package flow writes it, under the design it began with.
alter table walks
    add column design text not null default '', -- the hash of its drawing
    add column steps int not null default 0, -- taken so far
    add column state json, -- null for those of before
    add column scene text not null default '', -- where the visitor is
    add column result text, -- the result's scene
    add column ended boolean not null default false;
-- Going on with a walk writes last_at every time: with no index over it, the
-- walk's row is rewritten in place.
drop index walks_of_lead;
create index walks_of_lead on walks (site_id, lead_id) where lead_id is not null;

-- Who has voted in a poll, and what came together.
create table votes (
    site_id  bigint not null references sites,
    piece_id text not null,
    key      text not null, -- of the field
    visitor  text not null,
    at       timestamptz not null,
    primary key (site_id, piece_id, key, visitor)
);
-- Votes of one poll are spread over several rows, so that they seldom wait for each other.
create table tallies (
    site_id  bigint not null references sites,
    piece_id text not null,
    key      text not null,
    choice   text not null,
    shard    smallint not null,
    votes    bigint not null,
    primary key (site_id, piece_id, key, choice, shard)
);

-- How far walks came, and what they answered, by the day they began.
create table scene_days (
    site_id  bigint not null references sites,
    piece_id text not null,
    variant  text not null,
    day      date not null,
    scene    text not null,
    shard    smallint not null,
    reached  int not null, -- walks that came to it
    left_it  int not null, -- and went on from it
    seconds  bigint not null, -- they took in all
    primary key (site_id, piece_id, variant, day, scene, shard)
);
create table answer_days (
    site_id  bigint not null references sites,
    piece_id text not null,
    variant  text not null,
    day      date not null,
    key      text not null,
    choice   text not null, -- empty: who answered at all
    shard    smallint not null,
    answers  int not null, -- of one shard it may be below 0: who changes their mind is counted elsewhere
    primary key (site_id, piece_id, variant, day, key, choice, shard)
);

-- +goose Down
drop table scene_days, answer_days;
drop table tallies, votes;
drop index walks_of_lead;
create index walks_of_lead on walks (site_id, lead_id, last_at desc);
alter table walks drop column design, drop column steps, drop column state, drop column scene, drop column result, drop column ended;
