-- +goose Up

-- Bodies are read in pieces: kept uncompressed, a piece is found without
-- reading what comes before it.
alter table files alter column body set storage external;
alter table pictures alter column body set storage external;
update files set body = body || ''::bytea;
update pictures set body = body || ''::bytea;

-- Browsers that an account has signed in from. Wrong passwords from elsewhere
-- do not count against them.
create table known_browsers (
    token_hash bytea primary key,
    account_id bigint not null references accounts,
    used_at    timestamptz not null default now()
);
create index known_browsers_of on known_browsers (account_id, used_at);

-- What a site's pages call their own data. Each name is a column of the visit
-- log, so there are only so many.
create table data_names (
    site_id  bigint not null references sites,
    name     text not null,
    first_at timestamptz not null default now(),
    primary key (site_id, name)
);

insert into data_names (site_id, name)
select site_id, name from (
    select v.site_id, substring(k from 6) as name, row_number() over (partition by v.site_id order by count(*) desc, k) as place
    from page_views v, json_object_keys(v.facts) k where k like 'data.%' group by v.site_id, k
) used where place <= 200;

-- What visitors' pages sent and was not kept, by day and kind.
create table refusals (
    site_id bigint not null references sites,
    kind    text not null,
    day     date not null,
    times   bigint not null,
    example text not null, -- the latest
    last_at timestamptz not null,
    primary key (site_id, kind, day)
);

-- Every variant that was ever live: pages that were open when it went may
-- still speak of it.
create table live_variants (
    site_id  bigint not null,
    piece_id text not null,
    variant  text not null,
    since    timestamptz not null default now(),
    primary key (site_id, piece_id, variant),
    foreign key (site_id, piece_id) references pieces
);
insert into live_variants (site_id, piece_id, variant)
select distinct d.site_id, d.id, v ->> 'id'
from (
    select site_id, id, live as doc from pieces where live is not null
    union all
    select site_id, piece_id, draft from piece_versions where launched
) d, json_array_elements(d.doc -> 'split' -> 'variants') v
on conflict do nothing;

-- One visitor's way through one piece, from the first answer to the last.
create table walks (
    site_id  bigint not null references sites,
    id       uuid not null,
    piece_id text not null,
    variant  text not null,
    visitor  text not null,
    lead_id  bigint,
    began_at timestamptz not null,
    last_at  timestamptz not null,
    primary key (site_id, id)
);
create index walks_of_lead on walks (site_id, lead_id, last_at desc);
alter table submissions add column walk_id uuid, add column scene text not null default '', add column name text not null default '';
update submissions set walk_id = id;
update submissions set name = coalesce(answers ->> 'name', '');
insert into walks (site_id, id, piece_id, variant, visitor, lead_id, began_at, last_at)
select site_id, id, piece_id, variant, visitor, lead_id, at, at from submissions;
alter table submissions alter column walk_id set not null;
create index submissions_of_walk on submissions (site_id, walk_id);
create index submissions_of_visitor on submissions (site_id, piece_id, visitor);

-- The log is followed by the time a row was written, which a dump keeps and
-- another cluster understands; transaction numbers are a cluster's own.
drop index page_views_written;
alter table page_views drop column written, add column written_at timestamptz not null default clock_timestamp();
create index page_views_written on page_views (site_id, written_at);

-- The writers of one server count a piece in rows of their own, so that they
-- do not wait for each other; those of two servers may.
alter table piece_days add column shard smallint not null default 0;
alter table piece_days drop constraint piece_days_pkey, add primary key (site_id, piece_id, variant, day, shard);

-- The network a code went to, as a digest.
alter table codes add column address text, add column network text;
create index codes_by_address on codes (site_id, address, given_at) where address is not null;
create index codes_by_network on codes (site_id, network, given_at) where network is not null;

-- Each thing that is saved as a whole counts its changes, so that of two
-- windows the later does not undo the earlier.
alter table sites
    add column version int not null default 1,
    add column settings_version int not null default 1,
    add column kit_version int not null default 1,
    add column order_version int not null default 1;

create index pieces_removed on pieces (site_id, removed_at) where removed_at is not null;

-- +goose Down
drop index pieces_removed;
alter table sites drop column version, drop column settings_version, drop column kit_version, drop column order_version;
drop index codes_by_address, codes_by_network;
alter table codes drop column address, drop column network;
create table piece_days_whole as
    select site_id, piece_id, variant, day, sum(visitors)::int as visitors, sum(showings)::int as showings, sum(conversions)::int as conversions
    from piece_days group by 1, 2, 3, 4;
truncate piece_days;
alter table piece_days drop constraint piece_days_pkey, drop column shard, add primary key (site_id, piece_id, variant, day);
insert into piece_days (site_id, piece_id, variant, day, visitors, showings, conversions) select * from piece_days_whole;
drop table piece_days_whole;
drop index page_views_written;
alter table page_views drop column written_at, add column written xid8 not null default pg_current_xact_id();
create index page_views_written on page_views (site_id, written);
drop index submissions_of_walk, submissions_of_visitor;
alter table submissions drop column walk_id, drop column scene, drop column name;
drop table walks, live_variants, refusals, data_names, known_browsers;
alter table files alter column body set storage extended;
alter table pictures alter column body set storage extended;
