-- +goose Up

-- Events by month. The month is in the id, a UUIDv7 (RFC 9562) that the page
-- makes, so that one sent again meets itself wherever it went. Months are made
-- ahead; what has an id of no month goes to events_other.
alter table events rename to events_before;
alter table events_before rename constraint events_pkey to events_before_pkey;
create table events (
    site_id     bigint not null references sites,
    id          uuid not null,
    at          timestamptz not null,
    kind        text not null check (kind in ('shown', 'held', 'closed', 'converted', 'left', 'reached')),
    piece_id    text not null,
    variant     text not null,
    run         int not null default 0,
    visitor     text not null,
    visit       text not null,
    page        text not null,
    channel     text not null default '',
    device      text not null default '',
    country     text not null default '',
    known       text not null default '',
    after_ms    int not null default -1,
    goal        text not null default '',
    amount      bigint not null default 0,
    within_days int not null default 0,
    primary key (site_id, id)
) partition by range (id);
create table events_other partition of events default;
insert into events (site_id, id, at, kind, piece_id, variant, visitor, visit, page)
select site_id, id, at, kind, piece_id, variant, visitor, visit, page from events_before;

-- Since when all raw events of a site are there; null: from its beginning.
-- Totals of before cannot be counted anew.
alter table sites add column raw_since timestamptz;
update sites s set raw_since = now() where exists (select from events_before e where e.site_id = s.id);
drop table events_before;

-- What follows is counted from events, whose sites are there: it is not checked again.

-- Goals that visitors reached, to be found by visitor.
create table goals_reached (
    site_id     bigint not null,
    visitor     text not null,
    id          uuid not null,
    at          timestamptz not null,
    goal        text not null,
    amount      bigint not null,
    within_days int not null,
    primary key (site_id, visitor, id)
);

-- Each visitor of each piece, once, by their earliest event.
alter table seen rename to seen_before;
alter table seen_before rename constraint seen_pkey to seen_before_pkey;
create table seen (
    site_id        bigint not null,
    visitor        text not null,
    piece_id       text not null,
    first_id       uuid not null,
    first_at       timestamptz not null,
    hour           timestamptz not null, -- of first_at, when it began on the site's clock
    day            date not null,        -- of first_at, in the site's zone
    variant        text not null,
    run            int not null,
    page           text not null,
    channel        text not null,
    device         text not null,
    country        text not null,
    known          text not null,
    several        bool not null,
    converted_at   timestamptz,
    converted_hour timestamptz,
    primary key (site_id, visitor, piece_id)
);
insert into seen (site_id, visitor, piece_id, first_id, first_at, hour, day, variant, run, page, channel, device, country, known, several, converted_at, converted_hour)
select distinct on (site_id, visitor, piece_id) site_id, visitor, piece_id, coalesce(converted_by, '00000000-0000-4000-8000-000000000000'), first_at, date_trunc('hour', first_at), day, variant, 0, '', '', '', '', '',
    count(*) over (partition by site_id, visitor, piece_id) > 1, converted_at, date_trunc('hour', converted_at)
from seen_before order by site_id, visitor, piece_id, first_at, variant;

-- What is counted of visitors, by the day they first saw the piece, so that a
-- rate over any days is of the same people above and below the line. A cut
-- counts them apart by page, channel, device, country, or new and returning; a
-- goal those who reached it. Writers have shards of their own.
create table day_totals (
    site_id     bigint not null,
    piece_id    text not null,
    cut         text not null,
    goal        text not null,
    day         date not null,
    variant     text not null,
    run         int not null,
    value       text not null,
    shard       smallint not null,
    visitors    int not null default 0,
    conversions int not null default 0,
    showings    int not null default 0,
    several     int not null default 0,
    amount      bigint not null default 0,
    squares     numeric not null default 0, -- of each visitor's amount
    primary key (site_id, piece_id, cut, goal, day, variant, run, value, shard)
);
insert into day_totals (site_id, piece_id, cut, goal, day, variant, run, value, shard, visitors, conversions, showings)
select site_id, piece_id, '', '', day, variant, 0, '', shard, visitors, conversions, showings from piece_days;
update day_totals d set several = s.several from (
    select site_id, piece_id, variant, day, count(*) filter (where several) as several from seen group by 1, 2, 3, 4
) s where d.site_id = s.site_id and d.piece_id = s.piece_id and d.variant = s.variant and d.day = s.day and s.several > 0
    and d.shard = (select min(shard) from day_totals o where o.site_id = d.site_id and o.piece_id = d.piece_id and o.variant = d.variant and o.day = d.day);
drop table seen_before, piece_days;

-- What happened in each hour of the site's clock.
create table hour_totals (
    site_id   bigint not null,
    piece_id  text not null,
    hour      timestamptz not null,
    variant   text not null,
    run       int not null,
    shard     smallint not null,
    visitors  int not null default 0, -- who first saw it
    converted int not null default 0, -- who first converted
    showings  int not null default 0,
    closes    int not null default 0,
    quick     int not null default 0,
    lefts     int not null default 0,
    primary key (site_id, piece_id, hour, variant, run, shard)
);

create table goal_hours (
    site_id bigint not null,
    goal    text not null,
    hour    timestamptz not null,
    shard   smallint not null,
    times   int not null default 0,
    amount  bigint not null default 0,
    primary key (site_id, goal, hour, shard)
);

-- Runs of a piece's split: from one change of its variants or shares to the next.
create table split_runs (
    site_id  bigint not null references sites,
    piece_id text not null,
    run      int not null,
    began_at timestamptz not null,
    split    json not null, -- variants with names and shares, and the share held back
    primary key (site_id, piece_id, run)
);
-- Shares begin with what is live.
insert into split_runs (site_id, piece_id, run, began_at, split)
select site_id, id, 1, now(), json_build_object('held', 0, 'variants',
    (select coalesce(json_agg(json_build_object('id', v ->> 'id', 'name', v ->> 'name', 'share', (v ->> 'share')::int)), '[]') from json_array_elements(live -> 'split' -> 'variants') v))
from pieces where state = 'live' and json_typeof(live -> 'split' -> 'variants') = 'array';

-- What was left out of the counts, and why.
create table left_out (
    site_id bigint not null references sites,
    day     date not null,
    why     text not null,
    what    text not null, -- such as the name a robot gave itself
    events  int not null,
    primary key (site_id, day, why, what)
);

-- How often visits were interrupted, of those recorded.
create table visit_interruptions (
    site_id     bigint not null references sites,
    visit       text not null,
    day         date not null,
    interrupted smallint not null,
    primary key (site_id, visit)
);
create index visit_interruptions_by_day on visit_interruptions (site_id, day);
create table visit_days (
    site_id     bigint not null references sites,
    day         date not null,
    interrupted smallint not null,
    shard       smallint not null,
    visits      int not null,
    primary key (site_id, day, interrupted, shard)
);

-- What the script cost pages, of those recorded: sums over page views.
create table page_costs (
    site_id bigint not null references sites,
    day     date not null,
    shown   bool not null, -- a piece was shown on the page view
    shard   smallint not null,
    views   int not null,
    bytes   bigint not null,
    busy_ms bigint not null,
    shift   double precision not null, -- sum of layout shift
    painted int not null, -- page views with a largest paint
    paint   double precision not null, -- sum of its logarithm in ms, and of the square
    squares double precision not null,
    primary key (site_id, day, shown, shard)
);

-- Page views by page, of those recorded.
create table page_days (
    site_id bigint not null references sites,
    day     date not null,
    path    text not null,
    shard   smallint not null,
    views   int not null,
    last_at timestamptz not null,
    primary key (site_id, day, path, shard)
);

-- +goose Down
drop table page_days, page_costs, visit_days, visit_interruptions, left_out, split_runs, goal_hours, hour_totals;
create table piece_days (
    site_id bigint not null references sites, piece_id text not null, variant text not null, day date not null,
    visitors int not null default 0, showings int not null default 0, conversions int not null default 0, shard smallint not null default 0,
    primary key (site_id, piece_id, variant, day, shard)
);
insert into piece_days (site_id, piece_id, variant, day, shard, visitors, showings, conversions)
select site_id, piece_id, variant, day, shard, sum(visitors), sum(showings), sum(conversions) from day_totals where cut = '' and goal = '' and variant <> '' group by 1, 2, 3, 4, 5;
alter table seen rename to seen_after;
alter table seen_after rename constraint seen_pkey to seen_after_pkey;
create table seen (
    site_id bigint not null references sites, piece_id text not null, variant text not null, visitor text not null, first_at timestamptz not null,
    day date not null, showings int not null, converted_at timestamptz, converted_by uuid, primary key (site_id, piece_id, variant, visitor)
);
insert into seen (site_id, piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by)
select site_id, piece_id, variant, visitor, first_at, day, 1, converted_at, case when converted_at is not null then first_id end from seen_after where variant <> '';
drop table seen_after, day_totals, goals_reached;
alter table sites drop column raw_since;
alter table events rename to events_after;
alter table events_after rename constraint events_pkey to events_after_pkey;
create table events (
    site_id bigint not null references sites, id uuid not null, at timestamptz not null, received_at timestamptz not null default now(),
    kind text not null check (kind in ('shown', 'closed', 'converted')), piece_id text not null, variant text not null, visitor text not null, visit text not null, page text not null,
    primary key (site_id, id)
);
insert into events (site_id, id, at, kind, piece_id, variant, visitor, visit, page)
select site_id, id, at, kind, piece_id, variant, visitor, visit, page from events_after where kind in ('shown', 'closed', 'converted') and variant <> '';
drop table events_after;
