-- +goose Up

-- What was done with a piece: its time line.
create table piece_moves (
    site_id  bigint not null references sites,
    piece_id text not null,
    id       bigint generated always as identity,
    at       timestamptz not null default now(),
    did      text not null check (did in ('launched', 'replaced', 'paused', 'resumed')),
    until    timestamptz,              -- of a pause that ends by itself
    designs  text[] not null default '{}', -- variants whose design changed
    reach    bool not null default false,  -- who sees it, or when, changed
    primary key (site_id, piece_id, id)
);

-- What is or was not as usual on a site.
create table alerts (
    site_id  bigint not null references sites,
    kind     text not null,
    piece_id text not null,
    about    text not null,
    began_at timestamptz not null default now(),
    ended_at timestamptz, -- null: it is so still
    said     text not null,
    primary key (site_id, kind, piece_id, about, began_at)
);

-- +goose StatementBegin
do $$
declare was record;
begin
    -- That of the parent goes with those of its parts, but for parts that were made alone.
    for was in
        select c.conrelid::regclass as part, c.conname from pg_constraint c
        where c.contype = 'c' and pg_get_constraintdef(c.oid) like '%reached%'
            and (c.conrelid = 'events'::regclass or c.conrelid in (select inhrelid from pg_inherits where inhparent = 'events'::regclass))
        order by c.conrelid <> 'events'::regclass
    loop
        execute format('alter table %s drop constraint if exists %I', was.part, was.conname);
    end loop;
end $$;
-- +goose StatementEnd
alter table events add constraint events_kind_check check (kind in ('eligible', 'shown', 'held', 'closed', 'converted', 'left', 'reached'));

-- +goose Down
delete from events where kind = 'eligible';
alter table events drop constraint events_kind_check;
alter table events add constraint events_kind_check check (kind in ('shown', 'held', 'closed', 'converted', 'left', 'reached'));
drop table alerts, piece_moves;
